"""Progress over all exercises of a practice workshop: skills and how they fade, what to practise today, how true chances were."""

import time
from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.errors import VioletDialError
from violet_dial.core.practice.exercise import LEVELS
from violet_dial.core.practice.memory import Advice, Done, Skill, advice, skills
from violet_dial.core.practice.score import Band, calibration
from violet_dial.core.task import Task
from violet_dial.services.practice_outcome import exercised
from violet_dial.services.workshop import Workshop
from violet_dial.store.workshop_file import WorkshopFile

BREATH_S = 0.001


@dataclass(frozen=True)
class Progress:
    """All of it: exercises in the order they ended, skills, what to practise today, chances said in bands."""

    done: tuple[Done, ...]
    skills: tuple[Skill, ...]
    advice: Advice
    bands: tuple[Band, ...]


def progress_of(done: tuple[Done, ...], today: float) -> Progress:
    """Progress from exercises.

    Parameters
    ----------
    today : days since 1970 in UTC
    """
    every = tuple(sorted(done, key=lambda one: one.day))
    said = tuple(pair for one in every for pair in one.said)
    return Progress(every, skills(every, today), advice(every, today, len(LEVELS)), calibration(said))


def progress_in(path: Path, today: float, task: Task) -> Progress:
    """Progress over the jobs of a workshop file; over a link of its own, for a worker.

    Raises
    ------
    StoreError, TaskCancelled
    """
    shop = Workshop(WorkshopFile(path, "looking"), lambda: ())
    found = []
    try:
        for card in shop.cards():
            task.check()
            try:
                one = exercised(shop.view(card.job_id).job)
            except VioletDialError:
                continue  # a job that cannot be read is said at the jobs screen
            if one is not None:
                found.append(one)
            time.sleep(BREATH_S)
    finally:
        shop.close()
    return progress_of(tuple(found), today)
