"""An act at the bench: it takes the job and the time, and gives the next job with one line for the log."""

from collections.abc import Callable
from dataclasses import dataclass

from violet_dial.job.document import Job


@dataclass(frozen=True)
class ActResult:
    """The job after an act, the station where it was done, and the line for the log."""

    job: Job
    station: str
    reason: str


Act = Callable[[Job, str], ActResult]


@dataclass(frozen=True)
class Understood:
    """A typed line in words, and the act it means."""

    words: str
    act: Act
