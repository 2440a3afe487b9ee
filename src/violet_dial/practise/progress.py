"""Progress over all exercises of a practice workshop: skills and how they fade, what to practise today, how true chances were."""

from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.errors import VioletDialError
from violet_dial.core.practice.exercise import LEVELS
from violet_dial.core.practice.memory import Advice, PastCase, Skill, advice, skills
from violet_dial.core.practice.score import Band, calibration
from violet_dial.core.task import Task
from violet_dial.practise.outcome import exercised
from violet_dial.services.every_job import every_job


@dataclass(frozen=True)
class Progress:
    """All of it: exercises in the order they ended, skills, what to practise today, chances said in bands."""

    done: tuple[PastCase, ...]
    skills: tuple[Skill, ...]
    advice: Advice
    bands: tuple[Band, ...]


def progress_of(done: tuple[PastCase, ...], today: float) -> Progress:
    """Progress from exercises. ``today``: days since 1970 in UTC."""
    every = tuple(sorted(done, key=lambda one: one.day))
    said = tuple(pair for one in every for pair in one.said)
    return Progress(every, skills(every, today), advice(every, today, len(LEVELS)), calibration(said))


def progress_in(path: Path, today: float, task: Task) -> Progress:
    """Progress over the jobs of a workshop file; over a link of its own, for a worker. Raises StoreError, TaskCancelled."""
    found = []
    for job in every_job(path, task):
        try:
            one = exercised(job) if job is not None else None
        except VioletDialError:
            continue  # that it cannot be read is said where it is opened
        if one is not None:
            found.append(one)
    return progress_of(tuple(found), today)
