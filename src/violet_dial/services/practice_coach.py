"""A coach for an exercise at work: whether each test brought what is true nearer, what Next would ask; kept from step to step."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.next_test import rank_tests
from violet_dial.core.diagnosis.posterior import Diagnosis, Diagnostician
from violet_dial.core.practice.course import LEAST_CHANCE, Course, Move, begin, truth
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.services.practice import course_of, moves_of
from violet_dial.services.practice_outcome import ask_words, why_best


@dataclass(frozen=True)
class Coached:
    """What a coach knows of an exercise as it stands: ``bits`` that each step brought, what Next would ask, its bits and why.
    ``moves`` are those it belongs to."""

    job_id: str
    moves: tuple[Move, ...]
    bits: tuple[float, ...]
    next_words: str = ""
    next_bits: float = 0.0
    why: str = ""


class Coach:
    """Called from one worker at a time."""

    def __init__(self) -> None:
        self._keeper = Diagnostician()
        self._known: dict[tuple[Move, ...], float] = {}
        self._job_id = ""

    def look(self, job: Job, task: Task) -> Coached:
        """The exercise as it stands.

        Raises
        ------
        InvalidInput, TaskCancelled
        """
        if job.job_id != self._job_id:
            self._known, self._keeper, self._job_id = {}, Diagnostician(), job.job_id
        moves, whole = moves_of(job), course_of(job)
        at = begin(whole.circuit, whole.hidden)
        chances, found = [self._truth(at, task)], None
        for move in moves:
            task.check()
            at = at.after(move)
            chances.append(chances[-1] if at.works or move.kind not in ("test", "mended") else self._truth(at, task))
        bits = tuple(
            float(np.log2(after / before)) if move.kind == "test" else 0.0
            for move, before, after in zip(moves, chances[:-1], chances[1:], strict=True)
        )
        if at.is_over:
            return Coached(job.job_id, moves, bits)
        found = self._keeper.diagnose(at.case, task)
        return self._with_next(job, at, found, bits, task)

    def _truth(self, at: Course, task: Task) -> float:
        key = tuple(one.move for one in at.steps)
        if key not in self._known:
            self._known[key] = max(truth(at, self._keeper.diagnose(at.case, task)), LEAST_CHANCE)
        return self._known[key]

    @staticmethod
    def _with_next(job: Job, at: Course, found: Diagnosis, bits: tuple[float, ...], task: Task) -> Coached:
        ranking = rank_tests(found, at.now, Reach(opened=at.opened, taken=at.case.now), task)
        moves = tuple(one.move for one in at.steps)
        if not ranking.tests:
            return Coached(job.job_id, moves, bits)
        test = ranking.tests[0]
        return Coached(job.job_id, moves, bits, ask_words(at.circuit, test.ask), test.bits, why_best(at.circuit, test))
