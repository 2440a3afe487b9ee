"""A simulated meter: a needle that follows the light with its own errors, sticks, swings and remembers; a camera before it."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial

C_LX_S = 250.0
STEP_S = 0.02  # of the needle's own time
LIMITS = ("offset", "slope", "stick", "slow", "damping", "hertz", "dark", "lamps")
F_NUMBER, SLOW_S, SHORT_S = 8.0, 0.03125, 0.001953125  # where its ring stands; from where its lamps light
LAMPS_AT = ((70.0, 60.0), (110.0, 60.0))
Frame = npt.NDArray[np.uint8]


@dataclass(frozen=True)
class MeterTruth:
    """A meter's own truth: offset (stops), slope (stops for each Ev from 10), the stick of its pointer (stops), seconds its cell
    remembers, damping and natural frequency of its needle, the Ev below which it falls off by half a stop for each Ev,
    and by how many stops its slow lamp lights too early (nan: it has no lamps)."""

    offset: float = 0.0
    slope: float = 0.0
    stick: float = 0.0
    slow: float = 0.0
    damping: float = 0.6
    hertz: float = 1.2
    dark: float = -10.0
    lamps: float = math.nan

    def lit(self, lux: float) -> tuple[bool, bool]:
        """Whether its slow and its over lamp are lit in a light, its ring at f/8, ISO 100."""
        time_s = F_NUMBER**2 * C_LX_S / (max(lux, 1e-3) * 100.0)
        return time_s > SLOW_S * 2**-self.lamps, time_s < SHORT_S

    def steady(self, ev100: float) -> float:
        """What it would show in a light at last, its pointer free."""
        return ev100 + self.offset + self.slope * (ev100 - 10.0) - 0.5 * max(self.dark - ev100, 0.0)


def meter_truth(text: str) -> MeterTruth:
    """A truth said as ``offset 0.67; stick 0.2``. Raises InvalidInput: another word, or no figure."""
    found: dict[str, float] = {}
    for part in filter(None, (part.strip() for part in text.split(";"))):
        name, _, figure = part.partition(" ")
        if name not in LIMITS:
            raise InvalidInput("Meter", part, f"a figure after one of {', '.join(LIMITS)}")
        found[name] = parse_number(figure, name)
    return MeterTruth(**found)


class SimulatedMeter:
    """A needle in time under a light that is asked for; ``clock`` in seconds."""

    def __init__(self, truth: MeterTruth, lux: Callable[[], float], clock: Callable[[], float]) -> None:
        self.truth, self._lux, self._clock = truth, lux, clock
        start = self._target(max(lux(), 1e-3))
        self._cell = self._shaft = start
        self._speed = 0.0
        self.shows = start  # the pointer, which may stick
        self._at = clock()

    def lit(self) -> tuple[bool, ...]:
        """Its lamps, slow and over; none where it has none."""
        return self.truth.lit(self._lux()) if math.isfinite(self.truth.lamps) else ()

    def _target(self, lux: float) -> float:
        return self.truth.steady(math.log2(max(lux, 1e-3) / (C_LX_S / 100.0)))

    def now(self) -> float:
        """What the pointer shows, Ev."""
        now = self._clock()
        target, one = self._target(self._lux()), self.truth
        omega = 2 * math.pi * one.hertz
        steps = min(int((now - self._at) / STEP_S), 2_000)
        for _step in range(steps):
            self._cell += (target - self._cell) * (1.0 if one.slow <= 0 else 1 - math.exp(-STEP_S / one.slow))
            pull = omega**2 * (self._cell - self._shaft) - 2 * one.damping * omega * self._speed
            self._speed += pull * STEP_S
            self._shaft += self._speed * STEP_S
            off = self._shaft - self.shows
            if abs(off) > one.stick / 2:
                self.shows = self._shaft - math.copysign(one.stick / 2, off)
        self._at = now if steps == 2_000 else self._at + steps * STEP_S
        return self.shows


class SimulatedCamera:
    """Pictures of a dial whose needle a simulated meter moves."""

    name = "simulated camera"

    def __init__(self, meter: SimulatedMeter, look: DialLook | None = None, seed: int = 4) -> None:
        self.meter = meter
        lamps = LAMPS_AT if math.isfinite(meter.truth.lamps) else ()
        usual = DialLook(640, 480, first=0.0, last=20.0, marks=11, span_deg=100.0, lamps=lamps, has_finder=bool(lamps))
        self.dial = SimulatedDial(look or usual, seed)
        self._rng = np.random.default_rng(seed)
        self.covered: tuple[float, float, float] | None = None  # something before the lens
        self.moved_px = (0.0, 0.0)
        self.is_there = True
        self.ring: float | None = None  # where the pointer of a ring stands

    def empty(self) -> Frame:
        """The dial without its needle."""
        return self.dial.frame((), DialShot(noise=0.004))

    def picture(self) -> Frame | None:
        """The newest picture; None where there is none."""
        if not self.is_there:
            return None
        look = self.dial.look
        shown = min(max(self.meter.now(), look.first - 0.3), look.last + 0.3)
        light, lit = float(self._rng.uniform(0.95, 1.05)), self.meter.lit()
        shot = DialShot(light=light, noise=0.008, moved_px=self.moved_px, lit=lit, pointer=self.ring)
        return self.dial.frame((shown,), shot, self.covered)
