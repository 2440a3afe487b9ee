"""A coach for an exercise at work: whether each test brought what is true nearer, what Next would ask; kept from step to step."""

from dataclasses import dataclass

from violet_dial.core.practice.course import Move
from violet_dial.core.practice.mind import Mind
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.practise.exercise import course_of, moves_of
from violet_dial.practise.outcome import ask_words, why_best


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
        self._job_id = ""

    def look(self, job: Job, task: Task) -> Coached:
        """The exercise as it stands. Raises InvalidInput, TaskCancelled."""
        if job.job_id != self._job_id:
            self._mind, self._job_id = Mind(), job.job_id
        moves, at = moves_of(job), course_of(job)
        bits = self._mind.bits(at, task)
        best = None if at.is_over else self._mind.know(at, task).best
        if best is None:
            return Coached(job.job_id, moves, bits)
        return Coached(job.job_id, moves, bits, ask_words(at.circuit, best.ask), best.bits, why_best(at.circuit, best))
