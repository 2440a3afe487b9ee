"""A coach for an exercise at work: whether each test brought what is true nearer, what Next would ask; kept from step to step."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.mind import LEAST_CHANCE, Mind
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
        self._mind = Mind()
        self._known: dict[tuple[Move, ...], float] = {}
        self._job_id = ""

    def look(self, job: Job, task: Task) -> Coached:
        """The exercise as it stands.

        Raises
        ------
        InvalidInput, TaskCancelled
        """
        if job.job_id != self._job_id:
            self._known, self._mind, self._job_id = {}, Mind(), job.job_id
        moves, whole = moves_of(job), course_of(job)
        at = begin(whole.circuit, whole.hidden, form=whole.form)
        chances = [self._truth(at, task)]
        for move in moves:
            at = at.after(move)
            is_news = move.kind in ("test", "mended") and not at.works
            chances.append(self._truth(at, task) if is_news else chances[-1])
        bits = tuple(
            float(np.log2(after / before)) if move.kind == "test" else 0.0
            for move, before, after in zip(moves, chances[:-1], chances[1:], strict=True)
        )
        best = None if at.is_over else self._mind.know(at, task).best
        if best is None:
            return Coached(job.job_id, moves, bits)
        return Coached(job.job_id, moves, bits, ask_words(at.circuit, best.ask), best.bits, why_best(at.circuit, best))

    def _truth(self, at: Course, task: Task) -> float:
        key = tuple(one.move for one in at.steps)
        if key not in self._known:
            self._known[key] = max(self._mind.know(at, task, False).truth, LEAST_CHANCE)
        return self._known[key]
