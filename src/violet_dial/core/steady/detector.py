"""When a live reading stands still: hunting, settling, steady, open leads, overload.

The last half second is looked at first, then longer stretches up to three seconds: a straight line is fitted to each.
A reading is steady where the mean is known well enough for its noise, and where it neither drifts nor may be drifting
by more than is allowed. A steady reading is fresh once: the leads must be lifted, or the figure must leap, before the
next one counts. Close to zero, leads in the air and a point at zero volts look alike; there a reading is fresh only
when the leads were seen in the air (restless) just before.

Source: Standard error of a mean and of a slope: Draper and Smith, Applied Regression Analysis, chapter 1 [memory]. The limits
are common practice, no source.
"""

import math
from collections import deque
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.steady.samples import Function, Sample

Array = npt.NDArray[Any]
Kind = Literal["hunting", "settling", "steady", "open", "overload"]
STRETCHES_S = (0.5, 1.0, 2.0, 3.0)
LEAST_SAMPLES = 5
LIFTED_S = 0.3  # shorter gaps are a bouncing probe, not a new touch
GAP_S = 1.5  # after a longer silence nothing is known of what went before
LEAP_SHARE = 0.02
OUT_OF_RANGE_IS_OPEN: tuple[Function, ...] = ("ohm", "continuity", "diode", "capacitance")


@dataclass(frozen=True)
class Steadiness:
    """How still is still enough, for one function.

    ``share`` and ``floor``: the mean must be known to the larger of them; ``drift_per_s``: so many times that may it
    still move in a second; ``near_zero``: below it leads in the air are possible; ``restless``: noise of leads in the
    air, in the unit of the function, 0 where such leads show no figure at all.
    """

    share: float = 0.002
    floor: float = 1e-3
    drift_per_s: float = 1.0
    near_zero: float = 0.0
    restless: float = 0.0

    def limit(self, mean: float) -> float:
        """What the mean must be known to, in the unit of the function."""
        return max(self.share * abs(mean), self.floor)


# Common practice, no source.
USUAL: dict[Function, Steadiness] = {
    "volt": Steadiness(0.002, 1e-3, near_zero=0.2, restless=8e-4),
    "diode": Steadiness(0.002, 1e-3, near_zero=0.02, restless=8e-4),
    "ohm": Steadiness(0.002, 0.1, drift_per_s=0.5),  # a photoresistor creeps: wait longer
    "continuity": Steadiness(0.01, 0.5),
    "amp": Steadiness(0.003, 1e-7, near_zero=1e-6),
    "capacitance": Steadiness(0.01, 1e-11, near_zero=5e-11),
    "lux": Steadiness(0.005, 0.02, drift_per_s=1.5),
    "needle": Steadiness(0.0, 0.03),
}


@dataclass(frozen=True)
class SteadyVerdict:
    """What a stream of samples shows now.

    ``value`` the mean of the stretch looked at (nan where there is no figure), ``u`` its standard uncertainty from
    noise and drift alone, ``still_s`` how long it has stood still, ``remaining_s`` the wait expected (nan when it
    cannot be said), ``fresh`` whether it may be taken by itself, ``window`` the samples behind it, ``doubtful`` whether
    it may be a point at zero as well as quiet leads in the air: then only the person can say.
    """

    kind: Kind
    value: float = math.nan
    u: float = math.nan
    still_s: float = 0.0
    remaining_s: float = math.nan
    fresh: bool = False
    window: tuple[Sample, ...] = ()
    doubtful: bool = False


@dataclass(frozen=True)
class _Trend:
    """A straight line through a stretch."""

    mean: float
    slope: float
    noise: float
    u_mean: float
    u_slope: float
    span_s: float
    count: int


class Detector:
    """Fed one sample after the other, says what they show. `taken` tells it that a reading was used."""

    def __init__(self, usual: dict[Function, Steadiness] | None = None) -> None:
        self._usual = USUAL | (usual or {})
        self._window: deque[Sample] = deque()
        self._settings = self._usual["volt"]
        self._last: Sample | None = None
        self._armed = False
        self._started = False  # whether anything but the very first state was seen
        self._level = math.nan  # where the figure stood while nothing may be taken
        self._away_since = math.nan
        self._air_since = math.nan
        self._air_seen = False
        self._steady_since = math.nan

    def taken(self) -> None:
        """The steady reading was used: none more before the leads were lifted or the figure leapt."""
        self._armed, self._air_seen, self._started = False, False, True
        self._away_since = math.nan
        self._level = self._last.value if self._last is not None else math.nan

    def arm(self) -> None:
        """The next steady reading counts, whatever came before: for an instrument that touches nothing."""
        self._armed = True

    def feed(self, sample: Sample) -> SteadyVerdict:
        """Take in one sample and say what is seen."""
        last = self._last
        if last is None or sample.function != last.function:
            self._settings = self._usual[sample.function]
            self._window.clear()
            self._level = self._away_since = math.nan  # the touch stays the touch it was
        elif sample.full_scale != last.full_scale or sample.at_s - last.at_s > GAP_S:
            self._window.clear()
        self._last = sample
        if not math.isfinite(sample.value):
            return self._beyond(sample)
        self._window.append(sample)
        while self._window[0].at_s < sample.at_s - STRETCHES_S[-1] - 0.05:
            self._window.popleft()
        verdict = self._judged(sample)
        self._follow(sample, verdict)
        return verdict

    # what the samples show

    def _beyond(self, sample: Sample) -> SteadyVerdict:
        self._window.clear()
        self._steady_since = math.nan
        self._note_air(sample.at_s)
        kind: Kind = "open" if sample.function in OUT_OF_RANGE_IS_OPEN else "overload"
        return SteadyVerdict(kind, math.inf)

    def _judged(self, sample: Sample) -> SteadyVerdict:
        times = np.array([one.at_s for one in self._window]) - sample.at_s
        values = np.array([one.value for one in self._window])
        shortest: _Trend | None = None
        for stretch in STRETCHES_S:
            first = int(np.searchsorted(times, -stretch - 1e-6))
            count = len(times) - first
            if count < LEAST_SAMPLES or -times[first] < 0.75 * stretch:
                continue
            line = _fitted(times[first:], values[first:])
            shortest = shortest or line
            if self._in_air(line):
                return self._air(sample, line.mean)
            if self._stands(line, values[first:]):
                return self._steady(sample, line, count)
        mean = shortest.mean if shortest else float(values.mean())
        if self._still_in_air(mean):
            return self._air(sample, mean)
        self._steady_since = math.nan
        self._air_since = math.nan
        if shortest is None:
            wait = STRETCHES_S[0] - (-times[0] if len(times) else 0.0)
            return SteadyVerdict("settling", mean, remaining_s=max(wait, 0.0), window=tuple(self._window))
        return self._moving(shortest, times, values)

    def _in_air(self, line: _Trend) -> bool:
        set_to = self._settings
        return set_to.restless > 0 and abs(line.mean) < set_to.near_zero and line.noise > set_to.restless

    def _still_in_air(self, mean: float) -> bool:
        """Leads that were in the air are still there while the figure neither leaves zero nor stands: air has calm spells,
        and a meter may change its range in it."""
        return not math.isnan(self._air_since) and abs(mean) < self._settings.near_zero

    def _air(self, sample: Sample, mean: float) -> SteadyVerdict:
        self._steady_since = math.nan
        self._note_air(sample.at_s)
        if sample.at_s - self._air_since >= LIFTED_S:
            self._air_seen = True
        return SteadyVerdict("open", mean)

    def _stands(self, line: _Trend, values: Array) -> bool:
        limit = self._settings.limit(line.mean)
        quiet = line.u_mean <= limit / 2 and np.abs(values - line.mean).max() <= max(4.0 * line.noise, limit)
        return bool(quiet and abs(line.slope) + line.u_slope <= limit * self._settings.drift_per_s)

    def _steady(self, sample: Sample, line: _Trend, count: int) -> SteadyVerdict:
        if math.isnan(self._steady_since):
            self._steady_since = sample.at_s - line.span_s
        self._air_since = math.nan
        u = math.hypot(line.u_mean, line.slope * line.span_s / math.sqrt(12.0))
        window = tuple(self._window)[-count:]
        new = self._armed or not self._started
        zero = abs(line.mean) < self._settings.near_zero  # it counts only when the leads were seen in the air before
        fresh, doubtful = (self._air_seen, new and not self._air_seen) if zero else (new, False)
        return SteadyVerdict("steady", line.mean, u, sample.at_s - self._steady_since, 0.0, fresh, window, doubtful)

    def _moving(self, line: _Trend, times: Array, values: Array) -> SteadyVerdict:
        """Settling where the drift dies away and rises above the noise, hunting where not."""
        limit = self._settings.limit(line.mean)
        window = tuple(self._window)
        drifting = abs(line.slope) > 3.0 * line.u_slope  # over half a second, few samples: chance slopes are common
        if not drifting and line.u_mean > limit / 2:
            return SteadyVerdict("hunting", line.mean, window=window)
        half = len(times) // 2
        wait = math.nan
        if half >= 3:
            early = abs(_fitted(times[:half], values[:half]).slope)
            late = abs(_fitted(times[half:], values[half:]).slope)
            allowed = limit * self._settings.drift_per_s
            if early > late > 0:
                decay_s = (times[-1] - times[0]) / 2 / math.log(early / late)
                wait = max(decay_s * math.log(max(late / allowed, 1.0)), 0.0) + STRETCHES_S[0]
        return SteadyVerdict("settling", line.mean, remaining_s=wait, window=window)

    # touches and lifts

    def _note_air(self, at_s: float) -> None:
        """In the air since the figure left where it stood: air takes a while to be known for air."""
        if math.isnan(self._air_since):
            self._air_since = at_s if math.isnan(self._away_since) else self._away_since
        if at_s - self._air_since >= LIFTED_S:
            self._armed, self._started = True, True

    def _follow(self, sample: Sample, verdict: SteadyVerdict) -> None:
        """Watch for the figure to leap away from where it stood, and stay away."""
        if verdict.kind == "open":
            self._level = self._away_since = math.nan
            return
        if math.isnan(self._level):
            self._level = verdict.value if verdict.kind == "steady" else math.nan
            return
        noise = verdict.u * math.sqrt(max(len(verdict.window), 1)) if verdict.kind == "steady" else 0.0
        leap = max(LEAP_SHARE * abs(self._level), 3.0 * self._settings.floor, 6.0 * noise)
        if abs(sample.value - self._level) > leap:
            if math.isnan(self._away_since):
                self._away_since = sample.at_s
            if sample.at_s - self._away_since >= LIFTED_S:
                self._armed, self._started = True, True
                self._level, self._away_since = math.nan, math.nan
        else:
            self._away_since = math.nan
            if verdict.kind == "steady":
                self._level = verdict.value  # follows a slow creep, so that only a leap counts


def _fitted(times: Array, values: Array) -> _Trend:
    """Least squares of a straight line; noise is what is left about it."""
    count = len(times)
    middle, mean = times.mean(), values.mean()
    about = times - middle
    square = float(about @ about)
    slope = float(about @ (values - mean)) / square if square > 0 else 0.0
    left = values - mean - slope * about
    noise = math.sqrt(float(left @ left) / max(count - 2, 1))
    span = float(times[-1] - times[0])
    u_slope = noise / math.sqrt(square) if square > 0 else math.inf
    return _Trend(float(mean), slope, noise, noise / math.sqrt(count), u_slope, span, count)
