"""What an exercise is worth: what was said with a chance by a proper rule, minutes against the best path, slips, needless parts.

Source: The quadratic rule: Brier, Monthly Weather Review 78 (1950) 1 [memory]. For a chance p said of something that holds with
chance q, q (1 - (1 - p)^2) - (1 - q) p^2 = 2 p q - p^2 is greatest at p = q: nobody gains by saying more or less than is
believed.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.course import Course, CourseStep
from violet_dial.core.proof.counting import interval

SAID, TIME = 60.0, 40.0  # points for what was said, and for the time it took
SLIP, NEEDLESS = 10.0, 5.0  # points a slip and a needless part cost
COACHED = {"silent": 0.0, "a nod": 5.0, "next after a minute": 15.0, "everything": 30.0}  # and what a coach tells; usual
LEAST_SAID, MOST_SAID = 0.01, 0.99
BINS = (0.0, 0.35, 0.65, 0.85, 1.0)  # of chances said


@dataclass(frozen=True)
class Score:
    """Points with what they are made of: ``said`` by the quadratic rule, ``time`` by minutes against the best path."""

    points: float
    said: float
    time: float
    slips: int
    needless: int
    found: bool
    coached: str = "silent"

    def opened(self) -> tuple[str, ...]:
        """The sum, a line a term."""
        lines = (
            f"said with a chance: {self.said:+.1f} of {SAID:.0f}",
            f"minutes against the best path: {self.time:+.1f} of {TIME:.0f}",
            f"slips: {0.0 - SLIP * self.slips:+.0f} ({self.slips} of {SLIP:.0f})",
            f"needless parts: {0.0 - NEEDLESS * self.needless:+.0f} ({self.needless} of {NEEDLESS:.0f})",
            f"coached ({self.coached}): {0.0 - COACHED[self.coached]:+.0f}",
            f"points = {self.points:.1f}",
        )
        return tuple(line.replace("-", "−") for line in lines)


def checked_chance(chance: float) -> float:
    """A chance that may be said.

    ``chance``: 0 to 1. Raises InvalidInput: below 1 % or above 99 %: nobody is that sure at the bench.
    """
    if not LEAST_SAID <= chance <= MOST_SAID:
        raise InvalidInput("Chance", f"{chance:.0%}", f"{LEAST_SAID:.0%} to {MOST_SAID:.0%}: nobody is surer at the bench")
    return chance


def quadratic(chance: float, is_right: bool) -> float:
    """The quadratic rule: 1 at most, -1 at least, 0 for nothing said."""
    return 1.0 - (1.0 - chance) ** 2 if is_right else -(chance**2)


def score_of(course: Course, best_minutes: float, coached: str = "silent") -> Score:
    """The score of a course.

    Parameters
    ----------
    best_minutes : of the best path for the same device
    coached : the most that a coach told, a word of `COACHED`
    """
    hidden = max(len(course.hidden), 1)
    said = SAID * min(sum(quadratic(step.move.chance, step.is_right) for step in _last_said(course)), hidden) / hidden
    time = TIME * min(best_minutes / max(course.minutes, 1e-9), 1.0) if course.works else 0.0
    slips, needless = len(course.slips), len(course.needless)
    points = said + time - SLIP * slips - NEEDLESS * needless - COACHED[coached]
    return Score(points, said, time, slips, needless, course.works, coached)


def _last_said(course: Course) -> tuple[CourseStep, ...]:
    """What was said last of each place before it was put right: who says it again has thought again, and gains nothing by it."""
    found: dict[object, CourseStep] = {}
    mended: list[object] = []
    for step in course.steps:
        fault = step.move.fault
        if fault is None:
            continue
        place = (fault.part, fault.mode if course.form else fault.to_node)
        if step.move.kind == "mended":
            mended.append(place)
        elif step.move.kind == "said":
            found[place, mended.count(place)] = step
    return tuple(found.values())


@dataclass(frozen=True)
class Band:
    """Chances said between two ends: how many, what was said on average, how many were right, and the exact interval in which the
    share of right ones lies (Clopper-Pearson, 95 %)."""

    low: float
    high: float
    count: int
    said: float
    right: float
    right_low: float
    right_high: float


def calibration(said: tuple[tuple[float, bool], ...]) -> tuple[Band, ...]:
    """How true the chances said were, band by band; bands without any are left out.

    ``said``: pairs of a chance and whether it was right.
    """
    bands = []
    for low, high in pairwise(BINS):
        inside = [(p, right) for p, right in said if low <= p < high or (high == 1.0 and p == 1.0)]
        if inside:
            right = sum(one for _, one in inside)
            ends = interval(right, len(inside))
            mean = float(np.mean([p for p, _ in inside]))
            bands.append(Band(low, high, len(inside), mean, right / len(inside), *ends))
    return tuple(bands)
