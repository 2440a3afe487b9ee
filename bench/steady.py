"""The steady-reading detector on invented touches: false takes, missed touches, delay after true settling."""

import math
import statistics
from dataclasses import dataclass

import numpy as np

from bench.measure import median_s, row
from bench.touches import KINDS, ProbeTouch, some_touch
from violet_dial.core.steady.detector import Detector
from violet_dial.core.steady.samples import Sample

PER_KIND, RATE_HZ = 120, 10.0
SHARE_WRONG, FLOOR_WRONG = 0.01, 0.005  # a take further off than this from where the figure ends is false


@dataclass(frozen=True)
class Outcome:
    """One touch: takes that were false, whether it was missed, seconds from true settling to the take."""

    false: int
    missed: bool
    delay_s: float


def play(touch: ProbeTouch) -> Outcome:
    """Feed a touch to a detector as the application does."""
    detector, takes = Detector(), []
    for at_s, value in zip(touch.times_s, touch.values, strict=True):
        verdict = detector.feed(Sample(float(at_s), float(value), touch.function))
        if verdict.kind == "steady" and verdict.fresh:
            takes.append((float(at_s), verdict.value))
            detector.taken()
    return judged(touch, takes)


def judged(touch: ProbeTouch, takes: list[tuple[float, float]]) -> Outcome:
    """Which takes were false: in the air, too far from the final figure, before it settled, or a second one."""
    good: list[float] = []
    false = 0
    for at_s, value in takes:
        wrong = max(SHARE_WRONG * abs(touch.final), FLOOR_WRONG)
        on = touch.touched_s <= at_s <= touch.lifted_s + 0.15
        if good or not touch.takeable or not on or abs(value - touch.final) > wrong:
            false += 1
        else:
            good.append(at_s)
    if not touch.takeable:
        return Outcome(false, False, math.nan)
    return Outcome(false, not good, good[0] - touch.settled_s if good else math.nan)


def report() -> None:
    everything = []
    for kind in KINDS:
        found = [play(some_touch(kind, np.random.default_rng([n, KINDS.index(kind)]), RATE_HZ)) for n in range(PER_KIND)]
        everything += found
        delays = [one.delay_s for one in found if not math.isnan(one.delay_s)]
        said = f"median delay {statistics.median(delays):.2f} s" if delays else "nothing to take"
        false, missed = sum(one.false for one in found), sum(one.missed for one in found)
        row(f"touches, {kind}, {len(found)}", f"{false} false, {missed} missed", said)
    delays = [one.delay_s for one in everything if not math.isnan(one.delay_s)]
    false_share = 100 * sum(one.false for one in everything) / len(everything)
    missed_share = 100 * sum(one.missed for one in everything) / len(everything)
    row(f"all {len(everything)} touches, false takes", f"{false_share:.2f} %", "goal: under 0.5 %")
    row("missed", f"{missed_share:.2f} %", "goal: under 2 %")
    row("delay after true settling, median", f"{statistics.median(delays):.2f} s", "goal: under 0.8 s at 10 readings a second")
    row("90 of 100 within", f"{np.quantile(delays, 0.9):.2f} s")
    touch = some_touch("clean", np.random.default_rng(1), RATE_HZ)
    each = median_s(lambda: play(touch), 20) / len(touch.times_s)
    polyfit = median_s(lambda: np.polyfit(np.arange(10.0), np.arange(10.0) ** 2, 1), 200)
    row("one reading through the detector", f"{each * 1e6:.0f} µs", f"{each / polyfit:.1f} times one NumPy polyfit of ten points")
