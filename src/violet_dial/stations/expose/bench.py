"""What a job's shutter is: how it works, the speeds on its dial, its ladder and what is wrong with it, from what was kept."""

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from violet_dial.core.exposure.ladder import Ladder, Rung, Timed, Tolerance, ladder, next_speed
from violet_dial.core.exposure.pattern import LEAST_RUNGS, Pattern, Works, patterns
from violet_dial.core.light.marks import time_marks
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing, Fired
from violet_dial.services.shutter import Channels, channels_said

RESTS_MIN = 30.0  # minutes without a firing, after which it has rested
FASTEST: dict[Works, float] = {"leaf": 2.0**-9, "focal plane": 2.0**-10, "electronic": 2.0**-9}
SLOWEST_S = 1.0
USUAL_WORKS: dict[str, Works] = {
    "reflex": "focal plane", "rangefinder": "focal plane", "rangefinder compact": "leaf", "instant camera": "electronic",
}  # fmt: skip


def works_of(job: Job) -> Works:
    """How the shutter works: as said, else as is usual for the kind of device."""
    return job.exposing.works or USUAL_WORKS.get(job.device.kind, "leaf")


def has_shutter(job: Job) -> bool:
    """Whether there is a shutter to fire: cameras have one, hand meters have none unless speeds were said."""
    return job.device.kind != "hand meter" or bool(job.exposing.speeds or job.exposing.fired)


def speeds_of(job: Job) -> tuple[float, ...]:
    """True times of the marks on its dial, s, slowest first; the usual of its kind where none were said."""
    if job.exposing.speeds:
        return job.exposing.speeds
    if not has_shutter(job):
        return ()
    fastest = FASTEST[works_of(job)]
    return tuple(one.true_value for one in time_marks() if fastest * 0.99 <= one.true_value <= SLOWEST_S * 1.01)


def channels_of(job: Job, count: int) -> Channels:
    """What the channels of a recording are of: as said, else light at every sensor where there are as many, else at the first.

    Raises
    ------
    InvalidInput
        What was said does not fit so many channels.
    """
    exposing = job.exposing
    sensors = exposing.sensors_mm if len(exposing.sensors_mm) == count else ()
    text = exposing.channels or ("travel" if sensors and count > 1 else "light")
    lights = channels_said(text, count, exposing.frame_mm)
    if lights.frame is not None and len(exposing.sensors_mm) == len(lights.frame.sensors_mm):
        return channels_said(text, count, exposing.frame_mm, exposing.sensors_mm)
    return lights


def card_channels(job: Job) -> int:
    """How many channels a sound card is to bring: those that were said, else one for each sensor."""
    said = [word for word in job.exposing.channels.split(",") if word.strip()]
    return len(said) if said and said != ["travel"] else max(len(job.exposing.sensors_mm), 1)


def tolerance_of(exposing: Exposing) -> Tolerance:
    """What is allowed."""
    return Tolerance(exposing.tolerance_stops, exposing.fastest_tolerance_stops)


def timed_of(fired: tuple[Fired, ...]) -> tuple[Timed, ...]:
    """Firings for the core, each with how many were fired since the shutter rested."""
    found, since, last = [], 0, None
    for one in fired:
        at = _moment(one.at)
        if one.rested or last is None or (at is not None and (at - last).total_seconds() > 60 * RESTS_MIN):
            since = 0
        found.append(Timed(one.marked_s, one.time_s, one.u_s, since, one.taper_stops))
        since, last = since + 1, at if at is not None else last
    return tuple(found)


def _moment(at: str) -> datetime | None:
    try:
        return datetime.fromisoformat(at).astimezone()
    except ValueError:
        return None


@dataclass(frozen=True)
class Speeds:
    """The ladder, the speed to fire next (None: all decided), the patterns with their weights (none with too few speeds)."""

    ladder: Ladder | None
    next: Rung | None
    patterns: tuple[Pattern, ...]


def speeds_judged(job: Job) -> Speeds:
    """What the firings of a job say; the same job is judged once."""
    return _judged(job.exposing.fired, speeds_of(job), tolerance_of(job.exposing))


@lru_cache(maxsize=64)
def _judged(fired: tuple[Fired, ...], marked: tuple[float, ...], tolerance: Tolerance) -> Speeds:
    if not marked and not fired:
        return Speeds(None, None, ())
    timed = timed_of(fired)
    found = ladder(marked, timed, tolerance)
    told = len({one.marked_s for one in timed}) >= LEAST_RUNGS
    return Speeds(found, next_speed(found), patterns(timed) if told else ())
