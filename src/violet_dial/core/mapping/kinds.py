"""What kinds of thing lie on a board: their words, their legs, and what is usual of each where nothing is said.

Source: Usual figures: common practice, no source. Three-figure codes: two digits and a count of noughts, ohms for resistors and
picofarads for capacitors, IEC 60062 [memory].
"""

import re
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Figure
from violet_dial.core.quantities import format_engineering, parse_number
from violet_dial.core.units import Unit, parted

Said = Literal["ohm", "farad", "volt", "full_a", "on_a", "r10", "a_per_lx", "mm", "wide_mm"]
UNIT_OF: dict[Said, Unit] = {"ohm": "Ω", "farad": "F", "volt": "V", "full_a": "A", "on_a": "A", "r10": "Ω"}
COLOURS = ("red", "black", "blue", "green", "orange", "white", "yellow", "brown", "grey", "violet")
DESIGNATOR = re.compile(r"^[A-Za-z]{1,3}\d{1,3}[a-z]?$")
_CODE = re.compile(r"^\d{3}$")
_FIGURE = re.compile(r"^\d[\d.,]*[a-zA-ZµμΩ]*\d*[a-zA-ZµμΩ]*$")
MILLIMETRE = re.compile(r"^(\d[\d.,]*)\s*mm$", re.IGNORECASE)
USUAL_WIDE_MM = 0.5


@dataclass(frozen=True)
class PartKind:
    """A kind of thing: the words for it, its legs in order, figures it has with the usual values, the first one first; what
    it is called where the board gives no name."""

    name: str
    words: tuple[str, ...]
    legs: tuple[str, ...] = ("a", "b")
    usual: tuple[tuple[Said, float], ...] = ()
    letters: tuple[str, ...] = ()
    subs: tuple[str, ...] = ()


LEADS = ("wire", "track", "joint", "connector", "contact", "clip", "flex")
KINDS: tuple[PartKind, ...] = (
    *(PartKind(lead, (lead,)) for lead in LEADS),
    PartKind("resistor", ("resistor",), usual=(("ohm", 10e3),), letters=("R",)),
    PartKind("trimmer", ("trimmer", "pot", "potentiometer"), usual=(("ohm", 10e3),), letters=("VR", "RV", "P")),
    PartKind("capacitor", ("capacitor", "cap"), usual=(("farad", 1e-6),), letters=("C",)),
    PartKind("diode", ("diode",), ("a", "band"), letters=("D",), subs=("schottky", "silicon", "germanium")),
    PartKind("led", ("led",), ("a", "band"), (("on_a", 3e-3),)),
    PartKind("transistor", ("transistor",), ("e", "b", "c"), letters=("Q", "T"), subs=("npn", "pnp")),
    PartKind("cds", ("cds",), usual=(("r10", 200e3),), subs=("cds",)),
    PartKind("selenium", ("selenium",), ("+", "-"), (("a_per_lx", 1e-7),), subs=("selenium",)),
    PartKind("silicon cell", ("photodiode",), ("+", "-"), (("a_per_lx", 5e-9),), subs=("silicon",)),
    PartKind("movement", ("movement", "meter", "galvanometer"), ("+", "-"), (("full_a", 100e-6), ("ohm", 1500.0)), ("M",)),
    PartKind("lamp", ("lamp", "bulb"), usual=(("ohm", 150.0), ("on_a", 15e-3)), letters=("L",)),
    PartKind("solenoid", ("magnet", "solenoid", "electromagnet"), usual=(("ohm", 120.0), ("on_a", 15e-3))),
    PartKind("coil", ("coil",), usual=(("ohm", 20.0), ("on_a", 20e-3))),
    PartKind("motor", ("motor",), ("+", "-"), (("ohm", 6.0), ("on_a", 150e-3))),
    PartKind("battery", ("battery", "cells", "cell pack"), ("+", "-"), (("volt", 1.5),), letters=("BT",)),
    PartKind("fuse", ("fuse",), usual=(("ohm", 0.1),), letters=("F",)),
)
BY_WORD = {word: kind for kind in KINDS for word in kind.words}
BY_NAME = {kind.name: kind for kind in KINDS}
UNITS: tuple[Unit, ...] = ("V", "Ω", "A", "F", "Hz", "lx")


def kind_of_designator(name: str) -> PartKind | None:
    """What a printed designator says: R4 is a resistor; None where it says nothing."""
    letters = re.sub(r"\d.*$", "", name).upper()
    return next((kind for kind in KINDS if letters in kind.letters), None)


def figure_of(text: str, kind: PartKind) -> Figure | None:
    """A figure of a part as typed or printed: ``2k2``, ``68 ohm``, ``226`` as a code, ``120 uA``; None when it is none.

    Raises InvalidInput: a figure with a unit that such a part has not.
    """
    compact = " ".join(text.split())
    number, unit = parted(compact, UNITS)
    if unit is None and not _FIGURE.match(compact):
        return None
    keys: list[Said] = [key for key, _ in kind.usual]
    if unit is None:
        if not keys or not number:
            return None
        return _bare(number, keys[0])
    key = next((one for one in keys if UNIT_OF.get(one) == unit), None)
    if key is None:
        raise InvalidInput(kind.name, text, f"a figure of a {kind.name}: {', '.join(keys) or 'it has none'}")
    return Figure(key, _positive(parse_number(number, kind.name), text, kind), compact)


def _bare(number: str, key: Said) -> Figure | None:
    """A figure without a unit: three digits are a code on resistors and capacitors."""
    if _CODE.match(number) and key in ("ohm", "farad"):
        value = int(number[:2]) * 10.0 ** int(number[2])
        return Figure(key, value * (1e-12 if key == "farad" else 1.0), number)
    try:
        value = parse_number(number, key)
    except InvalidInput:
        return None
    return Figure(key, value, number) if value > 0 else None


def _positive(value: float, text: str, kind: PartKind) -> float:
    if value <= 0:
        raise InvalidInput(kind.name, text, "a figure above zero")
    return value


def with_usual(figures: tuple[Figure, ...], kind: PartKind) -> tuple[Figure, ...]:
    """The figures a part needs: those said, and the usual ones for the rest, marked as guessed."""
    said = {figure.key for figure in figures}
    return (*figures, *(Figure(key, value, "", True) for key, value in kind.usual if key not in said))


def figure_words(figure: Figure) -> str:
    """A figure as it is shown, with what a code means: ``226 (22 µF)``. ``figure``: of a part."""
    unit = {"ohm": "Ω", "farad": "F", "volt": "V", "full_a": "A full scale", "on_a": "A when on", "r10": "Ω at 10 lx",
            "a_per_lx": "A per lx", "mm": "mm", "wide_mm": "mm wide"}.get(figure.key, "")  # fmt: skip
    shown = f"{format_engineering(figure.value)}{unit}"
    if figure.guessed:
        return f"{shown} (usual)"
    return f"{figure.said} ({shown})" if _CODE.match(figure.said) else shown


def track_ohm(length_mm: float, wide_mm: float = USUAL_WIDE_MM) -> float:
    """What a copper track of 35 µm should measure, ohm.

    Source: Resistivity of copper 17.2 nΩ m (IEC 60028) [memory]; thickness of usual foil: common practice, no source.
    """
    return 17.2e-6 * length_mm / (wide_mm * 0.035)
