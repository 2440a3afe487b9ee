"""What is known of an exercise as it stands: how likely what is true is, who leads, which test is worth most; for a device that
is a circuit, and for one judged by readings alone."""

from dataclasses import dataclass, replace

import numpy as np

from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.case import Diagnosis
from violet_dial.core.diagnosis.next_test import ONE_MORE_MIN, Ranking, Test, rank_tests
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.drawn import same
from violet_dial.core.practice.form import UNLISTED, Form, bits, by_name, minutes_of, posterior
from violet_dial.core.records.circuit import Evidence, Fault, Prefer
from violet_dial.core.task import SilentTask, Task

LEAST_CHANCE = 1e-6  # of what is true, so that its bits stay finite
NEWS = ("test", "mended")  # moves after which something else is known
Ask = Evidence | str


@dataclass(frozen=True)
class Asked:
    """The test that is worth most: what it is, its bits and minutes; ``test`` with its outcomes where it has such, else what is
    ``likely`` now, by name."""

    ask: Ask
    bits: float
    minutes: float
    test: Test | None = None
    likely: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Known:
    """``truth``: the chance that what is known gives to what is true; the leader that was not mended yet with its chance, None
    for none; the best test, None where none is left or asked for."""

    truth: float
    leader: Fault | None = None
    chance: float = 0.0
    best: Asked | None = None


class Mind:
    """Keeps what was solved of one device, so that one more test costs only its own arithmetic. Called from one worker at a
    time."""

    def __init__(self) -> None:
        self._keeper = Diagnostician()
        self._truths: dict[tuple[Move, ...], float] = {}

    def know(self, course: Course, task: Task | None = None, asks: bool = True, prefer: Prefer = "least minutes") -> Known:
        """What is known; ``asks``: the best test too, which costs more; ``prefer``: what that is to save.

        Raises CannotSolve, TaskCancelled.
        """
        task = task or SilentTask()
        task.check()
        if course.form is not None:
            known = _of_form(course, course.form, prefer)
            self._truths[_news(course)] = known.truth
            return known
        found = self._keeper.diagnose(course.case, task)
        likely = _truth(course, found)
        self._truths[_news(course)] = likely
        if not asks:
            return Known(likely)
        ranking = rank_tests(found, course.now, Reach(opened=course.opened, taken=course.case.now, prefer=prefer), task)
        leader, chance = _leader(found, ranking, course)
        best = ranking.tests[0] if ranking.tests else None
        return Known(likely, leader, chance, Asked(best.ask, best.bits, best.minutes, best) if best else None)

    def bits(self, course: Course, task: Task | None = None) -> tuple[float, ...]:
        """Bits about what is true that each step brought: how much likelier it became, as a logarithm to base 2; 0 for what is no
        test. Shape (steps,)."""
        at = begin(course.circuit, course.hidden, form=course.form)
        before = self._truth(at, task)
        found = []
        for step in course.steps:
            at = at.after(step.move)
            now = before if at.works else self._truth(at, task)
            found.append(float(np.log2(now / before)) if step.move.kind == "test" else 0.0)
            before = now
        return tuple(found)

    def _truth(self, at: Course, task: Task | None) -> float:
        """How likely what is true was, as it was known before or is worked out now."""
        news = _news(at)
        if news not in self._truths:
            self.know(at, task, False)
        return max(self._truths[news], LEAST_CHANCE)


def _news(course: Course) -> tuple[Move, ...]:
    """The moves on which what is known rests."""
    return tuple(step.move for step in course.steps if step.move.kind in NEWS)


def _of_form(course: Course, form: Form, prefer: Prefer) -> Known:
    """A device judged by readings alone."""
    chance = posterior(form, course.readings)
    names = by_name(form, chance)
    left = {one.name for one in course.left}
    done = {one.name for one in course.mended}
    fresh = [name for name in names if name != "no fault" and UNLISTED not in name and name not in done]
    leader = next(
        (hypothesis for hypothesis in form.hypotheses if hypothesis is not None and fresh and hypothesis.name == fresh[0]), None
    )
    worth = bits(form, chance)
    before = course.readings[-1].test if course.readings else ""
    minutes = np.array([minutes_of(form, test, before) for test in form.tests])
    place = int(np.argmax(worth / (minutes + ONE_MORE_MIN) if prefer == "least minutes" else worth))
    best = Asked(form.tests[place], float(worth[place]), float(minutes[place]), likely=tuple(names.items())[:4])
    is_read = any(step.move.reading is not None for step in course.steps)
    return Known(sum(names.get(name, 0.0) for name in left), leader if is_read else None, names[fresh[0]] if fresh else 0.0, best)


def _truth(course: Course, found: Diagnosis) -> float:
    """The chance of what is true among suspects."""
    return sum(
        suspect.probability
        for suspect in found.suspects
        if any(same(course.circuit, suspect.faults, hidden, course.tried) for hidden in course.left)
    )


def _leader(found: Diagnosis, ranking: Ranking, course: Course) -> tuple[Fault | None, float]:
    """The likeliest suspect that was not put right yet, with the chance of those no test tells from it."""
    done = {one.part for one in course.mended}
    fresh = [suspect for suspect in found.suspects if suspect.faults and not {each.part for each in suspect.faults} <= done]
    if not fresh or not course.tests:
        return None, 0.0
    top = fresh[0]
    group = next((one for one in ranking.groups if top.name in one), (top.name,))
    chance = sum(one.probability for one in fresh if one.name in group)
    todo = sorted(top.faults, key=lambda fault: fault.part in done)
    return replace(todo[0]), chance
