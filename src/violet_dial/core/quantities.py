"""Numbers as people at the bench type them.

Every reader returns the value in base SI (or EV) or raises `InvalidInput` with a sentence that says what to
type instead. Nothing is guessed: a text with two honest meanings is refused and both are named.
"""

import re
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.units import PREFIXES, SHOWN_PREFIXES, Unit, parted

LONGEST_TEXT = 60  # characters; a longer text is a slip (a paste), never a reading

VULGAR_FRACTIONS = {"¼": 0.25, "½": 0.5, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3, "⅛": 0.125}
SPACES = " \u00a0\u202f\u2009"  # plain, no-break, narrow no-break, thin

_PLAIN = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?\Z")
_LETTER_AS_POINT = re.compile(r"([+-]?\d+)([pnuµμmkKMGRr])(\d+)\Z")
_PREFIXED = re.compile(r"(.*\d\.?)([pnuµμmkKMG])\Z", re.DOTALL)
_FRACTION = re.compile(r"([+-]?)(\d+)/(\d+)\Z")
_MIXED = re.compile(r"([+-]?)(\d+) (\d+)/(\d+)\Z")
_GROUPED_BY_SPACE = re.compile(r"[+-]?\d{1,3}( \d{3})+([.,]\d*)?\Z")


@dataclass(frozen=True)
class Quantity:
    """A number that was understood, with its unit and how to show it.

    ``value`` is in base units of ``unit``; ``understood`` is the text shown beside the field.
    """

    value: float
    unit: str
    understood: str


def parse_number(text: str, field: str = "Number") -> float:
    """The plain number a text means, without a unit.

    ``text``: str; for instance ``1/125``, ``2k2``, ``38k``, ``0,31``, ``10 240``, ``-0.7``, ``2½``, ``2 1/2``. Raises
    InvalidInput: empty, not a number, not finite, or with two meanings (``1,234``).

    Source: Letters as decimal mark: IEC 60062 [memory]. The rest: common practice, no source.

    Example
    -------
    >>> parse_number("2k2"), parse_number("0,31"), parse_number("-0.7")
    (2200.0, 0.31, -0.7)
    """
    compact = _tidied(text, field)
    for reader in (_read_fraction, _read_letter_as_point, _read_prefixed):
        found = reader(compact, field)
        if found is not None:
            return found
    return _read_decimal(compact, field)


def _tidied(text: str, field: str) -> str:
    if len(text) > LONGEST_TEXT:
        raise InvalidInput(field, text, f"a number of at most {LONGEST_TEXT} characters")
    compact = text.strip().replace("−", "-").replace("–", "-")
    for space in SPACES:
        compact = compact.replace(space, " ")
    compact = re.sub(r" +", " ", compact)
    if not compact:
        raise InvalidInput(field, text, "a number, for instance 12.6")
    return compact


def _divided(sign: str, top: str, bottom: str, field: str, text: str) -> float:
    if int(bottom) == 0:
        raise InvalidInput(field, text, "a fraction whose lower number is not zero")
    value = int(top) / int(bottom)
    return -value if sign == "-" else value


def _read_fraction(text: str, field: str) -> float | None:
    if match := _FRACTION.match(text):
        return _divided(match[1], match[2], match[3], field, text)
    if match := _MIXED.match(text):
        part = _divided("", match[3], match[4], field, text)
        if part >= 1:
            raise InvalidInput(field, text, "a whole number and a fraction below one, for instance 2 1/2")
        value = int(match[2]) + part
        return -value if match[1] == "-" else value
    if text[-1] in VULGAR_FRACTIONS and re.fullmatch(r"[+-]?\d* ?", text[:-1]):
        head = text[:-1].strip()
        value = (int(head.lstrip("+-") or "0")) + VULGAR_FRACTIONS[text[-1]]
        return -value if head.startswith("-") else value
    return None


def _read_letter_as_point(text: str, _field: str) -> float | None:
    match = _LETTER_AS_POINT.match(text)
    if match is None:
        return None
    return float(f"{match[1]}.{match[3]}") * PREFIXES.get(match[2], 1.0)


def _read_prefixed(text: str, field: str) -> float | None:
    match = _PREFIXED.match(text.replace(" ", "")) if not _GROUPED_BY_SPACE.match(text) else None
    if match is None:
        return None
    return _read_decimal(match[1], field) * PREFIXES[match[2]]


def _read_decimal(text: str, field: str) -> float:
    plain = text.replace(" ", "") if _GROUPED_BY_SPACE.match(text) else text
    if "," in plain:
        plain = _without_commas(plain, field)
    elif plain.count(".") > 1:
        raise InvalidInput(field, text, "one decimal mark; write groups with spaces, for instance 10 240")
    if not _PLAIN.match(plain):
        raise InvalidInput(field, text, "a number, for instance 12.6, 1/125, 2k2, 0,31 or 10 240")
    value = float(plain)
    if value in (float("inf"), float("-inf")):
        raise InvalidInput(field, text, "a finite number")
    return value


def _without_commas(text: str, field: str) -> str:
    """Decimal comma or grouping comma: told apart where that is possible, refused where not."""
    if "." in text:
        if re.fullmatch(r"[+-]?\d{1,3}(,\d{3})+\.\d*", text):
            return text.replace(",", "")
        if re.fullmatch(r"[+-]?\d{1,3}(\.\d{3})+,\d*", text):
            return text.replace(".", "").replace(",", ".")
        raise InvalidInput(field, text, "one decimal mark; write groups with spaces, for instance 10 240.5")
    if text.count(",") > 1:
        raise InvalidInput(field, text, "one decimal mark; write groups with spaces, for instance 1 234 567")
    whole, decimals = text.split(",")
    if len(decimals) == 3 and whole.lstrip("+-") not in ("", "0"):
        meanings = f"{whole} {decimals} or {whole}.{decimals}"
        raise InvalidInput(field, text, f"one meaning: it could be {meanings}; type one of these")
    return text.replace(",", ".")


def parse_with_unit(text: str, units: tuple[Unit, ...], field: str, bare: Unit | None = None) -> Quantity:
    """A number followed by one of the allowed units, engineering prefix allowed.

    Raises InvalidInput: not a number, or a number without a unit where one must be said.

    Parameters
    ----------
    text : str; for instance ``38 kohm``, ``0,31 V``, ``47R``
    bare : Unit or None; what a figure without a unit means; None: the unit must be said
    """
    number, unit = parted(text, units)
    said = unit or bare
    if said is None:
        raise InvalidInput(field, text, f"a number with its unit ({', '.join(units)})")
    value = parse_number(number, field)
    return Quantity(value, said, f"{format_engineering(value)}{said}")


def format_engineering(value: float, digits: int = 4) -> str:
    """A number with an engineering prefix and a true minus, ready for a unit: ``38000`` becomes ``38 k``.

    ``value``: in the unit shown; finite.
    """
    if value == 0:
        return "0 "
    fitting = (one for one in SHOWN_PREFIXES if abs(value) >= one[0] * (1 - 1e-9))
    factor, prefix = next(fitting, SHOWN_PREFIXES[-1])
    return f"{value / factor:.{digits}g} {prefix}".replace("-", "−")


def format_grouped(value: float, decimals: int = 0) -> str:
    """A number with no-break spaces between thousands: ``10 240``. ``value``: in the unit shown; finite."""
    return f"{value:,.{decimals}f}".replace(",", "\u00a0")


def format_signed(value: float, decimals: int = 2) -> str:
    """A number with its sign always shown and a true minus: ``+0.68``, ``−0.70``, ``0.00``.

    ``value``: in the unit shown; finite.
    """
    text = f"{value:+.{decimals}f}"
    if float(text) == 0:
        return text[1:]
    return text.replace("-", "−")
