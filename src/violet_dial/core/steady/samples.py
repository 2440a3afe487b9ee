"""What an instrument sends: one figure after the other, each with its function and range."""

import math
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.errors import InvalidInput

Function = Literal["volt", "ohm", "amp", "continuity", "capacitance", "diode", "lux", "needle"]
FUNCTION_WORDS: dict[Function, str] = {
    "volt": "volts DC", "ohm": "ohms", "amp": "amperes DC", "continuity": "continuity", "capacitance": "capacitance",
    "diode": "diode test", "lux": "lux", "needle": "needle",
}  # fmt: skip
UNITS: dict[Function, str] = {
    "volt": "V", "ohm": "Ω", "amp": "A", "continuity": "Ω", "capacitance": "F", "diode": "V", "lux": "lx", "needle": "Ev",
}  # fmt: skip


@dataclass(frozen=True)
class Sample:
    """One figure: ``at_s`` on the link's own clock; ``value`` in the unit of ``function``, infinite beyond the range;
    ``full_scale`` of the range in that unit, 0 when not known."""

    at_s: float
    value: float
    function: Function
    full_scale: float = 0.0


@dataclass(frozen=True)
class Accuracy:
    """An instrument's stated accuracy, limits as its sheet gives them: ``share`` of the reading plus ``floor``."""

    share: float = 0.01
    floor: float = 0.0

    def __post_init__(self) -> None:
        if not (math.isfinite(self.share) and 0 <= self.share <= 0.5):
            raise InvalidInput("Accuracy", self.share, "a share of the reading from 0 to 0.5, for instance 0.5 %")
        if not (math.isfinite(self.floor) and self.floor >= 0):
            raise InvalidInput("Accuracy floor", self.floor, "0 or more, in the unit of the reading")

    def standard(self, value: float) -> float:
        """Standard uncertainty at a reading, in its unit: the limits as a rectangular distribution.

        Source: JCGM 100:2008, 4.3.7: half-width divided by the square root of 3.
        """
        return (self.share * abs(value) + self.floor) / math.sqrt(3.0)


@dataclass(frozen=True)
class Capture:
    """A reading as an instrument gave it, to be looked at again.

    ``value`` in the unit of ``function``, with ``u`` its standard uncertainty (noise, drift and stated accuracy
    together); ``full_scale`` of the range, 0 when not known; ``at`` ISO 8601 text with offset; ``window`` the raw
    samples behind it as (seconds before the take, value), oldest first.
    """

    instrument: str
    function: Function
    value: float
    u: float
    full_scale: float = 0.0
    at: str = ""
    window: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class Measured:
    """A value on its way into a record, from an instrument, the eye, a recording or a line that was read once: ``u`` its standard
    uncertainty in the same ``unit``, 0 where only the set-up says it; ``typed`` as it was said; ``capture`` what an instrument
    gave."""

    value: float
    u: float = 0.0
    unit: str = ""
    typed: str = ""
    capture: Capture | None = None

    @classmethod
    def of(cls, capture: Capture) -> "Measured":
        """What an instrument gave."""
        return cls(capture.value, capture.u, UNITS[capture.function], capture=capture)
