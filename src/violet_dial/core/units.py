"""Units and their prefixes: one room for every place that reads or writes them.

Letters as decimal mark (2k2, 47R) are those of IEC 60062 [memory]. Both micro signs (U+00B5 and U+03BC) and both ohm signs
(U+03A9 and U+2126) are read; the first of each is written. ``m`` is milli and ``M`` mega everywhere but in SPICE text.
"""

import re
from typing import Literal

from violet_dial.core.errors import InvalidInput

Unit = Literal["V", "Ω", "A", "F", "lx", "cd/m²", "Hz", "s"]
PREFIXES: dict[str, float] = {
    "p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "k": 1e3, "K": 1e3, "M": 1e6, "G": 1e9,
}  # fmt: skip
SHOWN_PREFIXES: tuple[tuple[float, str], ...] = (
    (1e9, "G"), (1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"),
)  # fmt: skip
# SPICE has letters without regard to case, with meg for mega (ngspice manual, scale factors).
SPICE_PREFIXES: dict[str, float] = {
    "t": 1e12, "g": 1e9, "meg": 1e6, "k": 1e3, "mil": 25.4e-6, "m": 1e-3, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "n": 1e-9,
    "p": 1e-12, "f": 1e-15,
}  # fmt: skip
SPELLINGS: dict[Unit, tuple[str, ...]] = {
    "V": ("V", "VDC", "volt", "volts"),
    "Ω": ("Ω", "Ω", "ohm", "ohms", "R"),
    "A": ("A", "ADC", "amp", "amps", "ampere", "amperes"),
    "F": ("F", "farad", "farads"),
    "lx": ("lx", "lux"),
    "cd/m²": ("cd/m²", "cd/m2", "cd/m^2", "nit", "nits"),
    "Hz": ("Hz", "hertz"),
    "s": ("s", "sec", "second", "seconds"),
}
WRITTEN: dict[Unit, str] = {"Ω": "ohm"}  # in files, where a plain spelling is safest
OVERLOAD_WORDS = ("ol", "o.l", "o.l.", "open", "inf", "infinite", "infinity", "∞", "overload", "over")
_R_AS_POINT = re.compile(r"^[+-]?\d+[rR]\d+$")


def is_overload(text: str) -> bool:
    """Whether a text says that a meter shows nothing because its range is too small, or the way is open."""
    return text.strip().lower() in OVERLOAD_WORDS


def unit_named(text: str) -> Unit | None:
    """The unit a spelling without prefix means; None for none that is known."""
    low = text.strip().lower()
    for unit, spellings in SPELLINGS.items():
        if low in (spelling.lower() for spelling in spellings):
            return unit
    return None


def prefixed_unit(text: str) -> tuple[float, Unit]:
    """Factor and unit of a unit with its prefix: ``mV``, ``kohm``, ``µA``, ``MΩ``, ``VDC``.

    Raises InvalidInput: no unit that is known.
    """
    said = text.strip()
    unit = unit_named(said)
    if unit is not None:
        return 1.0, unit
    unit = unit_named(said[1:])
    if said[:1] in PREFIXES and unit is not None:
        return PREFIXES[said[0]], unit
    known = ", ".join(dict.fromkeys(spellings[0] for spellings in SPELLINGS.values()))
    raise InvalidInput("Unit", text, f"one of {known}, with p, n, µ, m, k, M or G before it")


def parted(text: str, units: tuple[Unit, ...]) -> tuple[str, Unit | None]:
    """A figure parted from its unit, where it says one of ``units``: ``38 kohm`` into ``38 k`` and ``Ω``.

    ``47R`` and ``2R2`` say ohms by their letter. Without a unit the text comes back whole.
    """
    said = text.strip()
    if "Ω" in units and _R_AS_POINT.match(said):
        return said, "Ω"
    spelled = [(spelling, unit) for unit in units for spelling in SPELLINGS[unit]]
    for spelling, unit in sorted(spelled, key=lambda pair: -len(pair[0])):
        if len(said) > len(spelling) and said.lower().endswith(spelling.lower()):
            number = said[: len(said) - len(spelling)].rstrip()
            if number and (number[-1].isdecimal() or number[-1] in PREFIXES or number[-1] in ".,½¼¾⅓⅔⅛"):
                return number, unit
    return said, None
