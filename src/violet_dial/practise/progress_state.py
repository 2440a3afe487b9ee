"""What the page Progress shows: each skill with how it fades, what to practise today, how true one's chances were."""

from dataclasses import dataclass

from violet_dial.core.practice.memory import decay
from violet_dial.practise.progress import Progress

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
