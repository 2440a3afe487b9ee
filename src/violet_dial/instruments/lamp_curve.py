"""A lamp fed by a supply: what light it gives at which volts or amps, as it was measured once (a characterised lamp)."""

import math
import re
from dataclasses import dataclass
from typing import Literal

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_with_unit

MOST_POINTS = 40
MOST_FED = {"V": 60.0, "A": 20.0}  # a bench lamp; more is a slip of the finger
DARK_SHARE = 0.02  # of the least that was measured: below it the lamp gives nothing
EXPECTED = "volts (or amps) and lux, rising, from measurement: 3 V 40 lx; 4.5 V 160 lx; 6 V 420 lx"
_POINT = re.compile(r"(?P<fed>.+[VAva])\s+(?P<light>.+)")


@dataclass(frozen=True)
class LampCurve:
    """Points of a lamp, rising: ``fed`` in ``unit`` (V or A), ``lux`` at the meter under test. Between them straight lines of
    logarithms: a filament's light goes with a power of its volts (about 3.4 [memory]). Beyond them nothing is known."""

    unit: Literal["V", "A"]
    fed: tuple[float, ...]
    lux: tuple[float, ...]

    def light(self, fed: float) -> float:
        """Lux at what the supply gives; infinite above what was measured or between dark and the least of it."""
        if abs(fed) < DARK_SHARE * self.fed[0]:
            return 0.0
        if not self.fed[0] * 0.99 <= fed <= self.fed[-1] * 1.01:
            return math.inf
        return float(np.exp(np.interp(math.log(fed), np.log(self.fed), np.log(self.lux))))

    def reaches(self, lux: float) -> bool:
        """Whether a light is within what was measured."""
        return self.lux[0] <= lux <= self.lux[-1]

    def setting(self, lux: float) -> float:
        """What the supply must give for a light; never beyond what was measured."""
        at = min(max(lux, self.lux[0]), self.lux[-1])
        return float(np.exp(np.interp(math.log(at), np.log(self.lux), np.log(self.fed))))


def understood_curve(typed: str) -> LampCurve:
    """A lamp's curve from what is typed.

    Raises InvalidInput: fewer than two points, units mixed, not rising, or more than a bench lamp takes.
    """
    parts = [part.strip() for part in typed.split(";") if part.strip()]
    if not 2 <= len(parts) <= MOST_POINTS:
        raise InvalidInput("Lamp", typed[:60] or "nothing", f"2 to {MOST_POINTS} points: {EXPECTED}")
    fed, lux, units = [], [], set()
    for part in parts:
        met = _POINT.fullmatch(part)
        if met is None:
            raise InvalidInput("Lamp", part[:40], EXPECTED)
        given = parse_with_unit(met["fed"], ("V", "A"), "Lamp")
        fed.append(given.value)
        units.add(given.unit)
        lux.append(parse_with_unit(met["light"], ("lx",), "Lamp", "lx").value)
    if len(units) != 1:
        raise InvalidInput("Lamp", typed[:60], f"either volts or amps; {EXPECTED}")
    unit: Literal["V", "A"] = "V" if units == {"V"} else "A"
    if min(*fed, *lux) <= 0 or any(np.diff(fed) <= 0) or any(np.diff(lux) <= 0) or fed[-1] > MOST_FED[unit]:
        raise InvalidInput("Lamp", typed[:60], f"{EXPECTED}; at most {MOST_FED[unit]:g} {unit}")
    return LampCurve(unit, tuple(fed), tuple(lux))
