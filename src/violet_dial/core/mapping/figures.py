"""Figures of parts as they are typed or printed: with a unit, as a code, as colour bands, as the name of a cell.

A text with two honest meanings is refused and both are named: 130 is 130 ohm to who types it and 13 ohm as a code.

Source: Three-figure codes and colour bands: IEC 60062 [memory]. A capacitor marked below one without a unit counts microfarads:
common practice, no source. Codes of semiconductors: the systems of JEDEC, Pro Electron and JIS; those that are germanium or
schottky [memory].
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Figure
from violet_dial.core.mapping.kinds import COLOURS, UNIT_OF, UNITS, Key, PartKind
from violet_dial.core.power.cells import ALIASES, SIZES, size_of
from violet_dial.core.quantities import format_engineering, parse_number
from violet_dial.core.units import PREFIXES, parted

_CODE = re.compile(r"^\d{3}$")
_FIGURE = re.compile(r"^[.,]?\d[\d.,]*[a-zA-ZµμΩ]*\d*[a-zA-ZµμΩ]*$")
MILLIMETRE = re.compile(r"^(\d[\d.,]*)\s*mm$", re.IGNORECASE)
_SPACED = re.compile(r"^([.,]?\d[\d.,]*) ([pnuµμmkKMGR]|[Mm]eg)$")
_OTHER_UNIT = re.compile(r"^[.,]?\d[\d.,]* ?[nuµm]?H(?:z|enry)?$")
_TOLERANCE = re.compile(r"^±?(\d{1,2}(?:[.,]\d+)?) ?%$")
_WATTS = re.compile(r"^(?:\d/\d{1,2}|\d[\d.,]*) ?W$")
_STACK = re.compile(r"^([1-6]) ?[x×] ?(\d[\d.,]*) ?V$")
CODED = re.compile(r"^(?:[12]N\d{2,4}|[AB][A-FY]\d{3}|OA\d{2,3}|2S[A-D]\d{2,4})[A-Z]{0,2}$", re.IGNORECASE)
_GERMANIUM, _SCHOTTKY = ("1N34", "1N60", "1N270"), ("1N5711", "1N5817", "1N5818", "1N5819")
_BAND_TOLERANCE = {"brown": 0.01, "red": 0.02, "green": 0.005, "blue": 0.0025, "violet": 0.001, "gold": 0.05, "silver": 0.1}
_SENSIBLE: dict[Key, str] = {"ohm": "kKMGR", "r10": "kKMGR", "farad": "pnuµμ", "full_a": "nuµμm", "on_a": "uµμm"}
_PICO, _MICRO = 1e-12, 1e-6
MOST_WORDS = 6  # of a figure: six bands


@dataclass(frozen=True)
class Told:
    """What some words say of a part: its figure, and notes (key, words) beside it."""

    figure: Figure | None = None
    notes: tuple[tuple[str, str], ...] = ()


def told(words: Sequence[str], kind: PartKind, keys: Sequence[str] = ()) -> Told | None:
    """What words say of a part; None when they are nothing of it.

    ``keys``: of figures it has already. Raises InvalidInput: a figure with a unit that such a part has not, or one with two
    meanings.
    """
    text = " ".join(words)
    if kind.name == "resistor" and len(words) >= 3:
        return _of_bands(words)
    if kind.name == "battery" and (volts := cells_v(text)) is not None:
        return Told(Figure("volt", volts, text))
    if len(words) > 2:
        return None
    if match := _TOLERANCE.match(text):
        return Told(notes=(("tol", f"{parse_number(match[1], 'Tolerance') / 100:.6g}"),))
    if _WATTS.match(text) or (kind.name == "capacitor" and parted(text, ("V",))[1] == "V" and text[0].isdigit()):
        return Told(notes=(("rating", text),))
    if len(words) == 1 and kind.name in ("diode", "transistor") and CODED.match(text):
        return Told(notes=(*_sub_of(text), ("code", text)))
    figure = _figure(text, len(words), kind, keys)
    return None if figure is None else Told(figure)


def _sub_of(code: str) -> tuple[tuple[str, str], ...]:
    upper = code.upper()
    if upper.startswith(("A", "OA")) or upper.rstrip("ABC") in _GERMANIUM:
        return (("sub", "germanium"),)
    return (("sub", "schottky"),) if upper in _SCHOTTKY else ()


def cells_v(text: str) -> float | None:
    """Nominal volts of a cell or a stack by its name: ``2xAA``, ``LR44``, ``4 x 1.5 V``; None for what is none."""
    if match := _STACK.match(text):
        return int(match[1]) * parse_number(match[2], "Volts")
    bare = "".join(text.upper().split())
    if len(bare) < 2 or not (bare in SIZES or bare in ALIASES or re.match(r"^[1-6][X×]", bare)):
        return None
    try:
        size = size_of(text)
    except InvalidInput:
        return None
    return size.chemistry.nominal_v * size.cells


def _of_bands(words: Sequence[str]) -> Told | None:
    """Ohms and tolerance of three to six colour bands, said from the end that the first is nearest to."""
    bands = ["grey" if word.lower() == "gray" else word.lower() for word in words]
    if any(band not in (*COLOURS, "gold", "silver") for band in bands):
        return None
    count = 2 if len(bands) < 5 else 3
    digits, times, rest = bands[:count], bands[count], bands[count + 1 :]
    is_known = all(band in COLOURS for band in digits) and digits[0] != "black" and (not rest or rest[0] in _BAND_TOLERANCE)
    if not is_known:
        raise InvalidInput(
            "Colour bands", " ".join(bands),
            "two or three figures, the noughts, then gold, silver, brown, red or another tolerance: yellow violet red gold",
        )  # fmt: skip
    noughts = COLOURS.index(times) if times in COLOURS else {"gold": -1, "silver": -2}[times]
    value = int("".join(str(COLOURS.index(band)) for band in digits)) * 10.0**noughts
    notes = (("tol", f"{_BAND_TOLERANCE[rest[0]]:.6g}"),) if rest else ()
    return Told(Figure("ohm", value, " ".join(bands)), notes)


def _figure(text: str, count: int, kind: PartKind, said: Sequence[str]) -> Figure | None:
    """A figure of a part in one word or two: ``2k2``, ``10 k``, ``68 ohm``, ``226`` as a code, ``120 uA``."""
    if match := MILLIMETRE.match(text):
        return Figure("mm", parse_number(match[1], "Length"), text)
    keys: list[Key] = [key for key, _ in kind.usual]
    if _OTHER_UNIT.match(text):
        raise InvalidInput(kind.name, text, f"a figure of a {kind.name}: {', '.join(keys) or 'it has none'}")
    number, unit = parted(text, UNITS)
    if count == 2 and text[-2:] in (" a", " v", " f"):  # a spot of that name
        return None
    if unit is None and count == 2:
        match = _SPACED.match(text)
        if match is None or not any(match[2] in (*_SENSIBLE.get(key, ""), "meg", "Meg") for key in keys):
            return None
        number = f"{match[1]}{'M' if match[2].lower() == 'meg' else match[2]}"
    elif unit is None and not _FIGURE.match(text):
        return None
    if unit is None:
        return _bare(number, keys, kind, text, said) if keys and number else None
    key = next((one for one in keys if UNIT_OF.get(one) == unit), None)
    if key is None:
        raise InvalidInput(kind.name, text, f"a figure of a {kind.name}: {', '.join(keys) or 'it has none'}")
    return Figure(key, _positive(parse_number(number, kind.name), text, kind), text)


def _bare(number: str, keys: list[Key], kind: PartKind, text: str, said: Sequence[str]) -> Figure | None:
    """A figure without a unit: the first that the part has not yet; with k or M its ohms."""
    ohms = next((key for key in keys if key in ("ohm", "r10")), None)
    left = [key for key in keys if key not in said]
    key = ohms if ohms is not None and re.search("[kKMR]", number) else (left or keys)[0]
    if _CODE.match(number) and kind.name in ("resistor", "trimmer", "capacitor"):
        return _coded(number, key, kind)
    try:
        value = parse_number(number.rstrip("R") if key in ("ohm", "r10") else number, key)
    except InvalidInput:
        return None
    if key == "farad" and number[-1] not in PREFIXES and not re.search("[a-zA-Zµμ]", number):
        if value >= 1:
            raise InvalidInput(kind.name, text, f"its unit: {number}uF, {number}nF or {number}pF")
        value *= _MICRO
    return Figure(key, value, text) if value > 0 else None


def _coded(number: str, key: Key, kind: PartKind) -> Figure:
    """Three digits: two figures and the noughts; 9 and 8 divide on capacitors."""
    is_farad = key == "farad"
    power = int(number[2]) - (10 if is_farad and number[2] in "89" else 0)
    value = int(number[:2]) * 10.0**power * (_PICO if is_farad else 1.0)
    code = f"{format_engineering(value)}{'F' if is_farad else 'Ω'}"
    if number[2] == "0" or number[0] == "0":
        plain = f"{number}uF, {number}nF or {number}pF" if is_farad else f"{number}R"
        raise InvalidInput(kind.name, number, f"{plain}, or {code} where the code {number} is printed on it")
    return Figure(key, value, number)


def _positive(value: float, text: str, kind: PartKind) -> float:
    if value <= 0:
        raise InvalidInput(kind.name, text, "a figure above zero")
    return value


def with_usual(figures: tuple[Figure, ...], kind: PartKind) -> tuple[Figure, ...]:
    """The figures a part needs: those said, and the usual ones for the rest, marked as guessed."""
    said = {figure.key for figure in figures}
    return (*figures, *(Figure(key, value, "", True) for key, value in kind.usual if key not in said))


def figure_words(figure: Figure) -> str:
    """A figure as it is shown, with what a code or a name means: ``226 (22 µF)``. ``figure``: of a part."""
    unit = {"ohm": "Ω", "farad": "F", "volt": "V", "full_a": "A full scale", "on_a": "A when on", "r10": "Ω at 10 lx",
            "a_per_lx": "A per lx", "mm": "mm", "wide_mm": "mm wide"}.get(figure.key, "")  # fmt: skip
    shown = f"{format_engineering(figure.value)}{unit}"
    if figure.guessed:
        return f"{shown} (usual)"
    is_code = _CODE.match(figure.said) and figure.value != float(figure.said)
    is_name = is_code or figure.said[:1].isalpha() or "x" in figure.said.lower()
    return f"{figure.said} ({shown})" if is_name else shown
