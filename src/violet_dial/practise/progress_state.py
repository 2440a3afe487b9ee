"""Progress over all exercises of a practice workshop, and what the page Progress shows: each skill with how it fades, what to
practise today, how true one's chances were.
"""

from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.errors import VioletDialError
from violet_dial.core.practice.exercise import LEVELS
from violet_dial.core.practice.memory import Advice, PastCase, Skill, advice, decay, skills
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


AHEAD_DAYS = 14
DAYS = tuple(quarter / 4 for quarter in range(4 * AHEAD_DAYS + 1))
MOST_ROWS = 14  # skills that a page has room for, least known first


@dataclass(frozen=True)
class SkillShown:
    """A skill: its name, the chance that it is still at hand now and on each of the days ahead, in words, whether it is due."""

    name: str
    curve: tuple[float, ...]
    said: str
    is_due: bool


@dataclass(frozen=True)
class BandShown:
    """Chances said about ``said``: how often right, with the interval, and how many, in words."""

    said: float
    right: float
    low: float
    high: float
    words: str


@dataclass(frozen=True)
class ProgressShown:
    """All of it."""

    headline: str
    reason: str
    skills: tuple[SkillShown, ...] = ()
    bands: tuple[BandShown, ...] = ()


def progress_shown(progress: Progress | None) -> ProgressShown:
    """The progress as the page shows it."""
    if progress is None:
        return ProgressShown("Looking through the exercises…", "")
    done = progress.done
    if not done:
        return ProgressShown("No exercise has ended yet", f"{progress.advice.why} Ctrl+N at the jobs screen begins it.")
    skills = tuple(
        SkillShown(
            skill.name, tuple(skill.chance * decay(skill.half_life_days, day) for day in DAYS),
            f"{skill.chance:.0%}, {skill.good} of {skill.count} well", skill.is_due,
        )
        for skill in progress.skills[:MOST_ROWS]
    )  # fmt: skip
    more = len(progress.skills) - len(skills)
    bands = tuple(
        BandShown(band.said, band.right, band.right_low, band.right_high, f"said {band.said:.0%} on average: {band.right:.0%} of "
                  f"{band.count} right ({band.right_low:.0%} to {band.right_high:.0%})")
        for band in progress.bands
    )  # fmt: skip
    found = sum(one.found for one in done)
    mean = sum(one.points for one in done) / len(done)
    head = f"{len(done)} exercise{'s' if len(done) > 1 else ''} · {found} found · {mean:.0f} points on average"
    rest = f" {more} more skills, known better: F3 lists all." if more > 0 else ""
    return ProgressShown(head, f"Today: level {progress.advice.level}. {progress.advice.why}{rest}", skills, bands)
