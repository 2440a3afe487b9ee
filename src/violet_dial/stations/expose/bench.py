"""The ladder of a job's shutter and what is wrong with it, from what was kept."""

from dataclasses import dataclass, replace

from violet_dial.core.exposure.ladder import Ladder, Rung, SpeedTolerance, Timed, ladder, next_speed
from violet_dial.core.exposure.pattern import LEAST_RUNGS, Pattern, patterns
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing, Fired
from violet_dial.services.job_shutter import speeds_of
from violet_dial.services.remembered import remembered
from violet_dial.services.repairs import around_repair, moment, since_repair

RESTS_MIN = 30.0  # minutes without a firing, after which it has rested


def tolerance_of(exposing: Exposing) -> SpeedTolerance:
    """What is allowed."""
    return SpeedTolerance(exposing.tolerance_stops, exposing.fastest_tolerance_stops)


MOST_TIMED = 10_000
_TIMED: dict[int, tuple[Fired, Timed]] = {}  # by the firing itself: an act brings one more


def timed_of(fired: tuple[Fired, ...]) -> tuple[Timed, ...]:
    """Firings for the core, each with how many were fired since the shutter rested."""
    found, since, last = [], 0, None
    for firing in fired:
        at = moment(firing.at)
        if firing.rested or last is None or (at is not None and (at - last).total_seconds() > 60 * RESTS_MIN):
            since = 0
        known = _TIMED.get(id(firing))
        if known is None or known[0] is not firing or known[1].since_rest != since:
            timed = Timed(firing.marked_s, firing.time_s, firing.u_s, since, firing.taper_stops)
            known = _TIMED[id(firing)] = firing, timed
        found.append(known[1])
        since, last = since + 1, at if at is not None else last
    if len(_TIMED) > MOST_TIMED:
        _TIMED.clear()
    return tuple(found)


@dataclass(frozen=True)
class Speeds:
    """The ladder, the speed to fire next (None: all decided), the patterns with their weights (none with too few speeds, and
    as long as they were not weighed)."""

    ladder: Ladder | None
    next: Rung | None
    patterns: tuple[Pattern, ...]


def _speeds_of(job: Job) -> tuple[object, ...]:
    """All that the ladder and its patterns rest on."""
    return job.exposing, job.device.kind, job.proving.mends, job.proving.rounds, job.tracing.repairs, job.practising


@remembered(_speeds_of)
def ladder_of(job: Job) -> Speeds:
    """The ladder of the firings since the newest repair that was fired after; nothing is weighed."""
    return _laid(since_repair(job).fired, speeds_of(job), tolerance_of(job.exposing))


@remembered(_speeds_of)
def patterns_of(job: Job) -> tuple[Pattern, ...]:
    """What may be wrong by these firings, weighed. None in an exercise whose fault is the trainee's to find."""
    timed = timed_of(since_repair(job).fired)
    if job.practising.hides or len({one.marked_s for one in timed}) < LEAST_RUNGS:
        return ()
    return patterns(timed)


def speeds_judged(job: Job) -> Speeds:
    """What the firings of a job say."""
    return replace(ladder_of(job), patterns=patterns_of(job))


def speeds_so_far(job: Job) -> Speeds:
    """The same at once: without patterns, where they were not weighed yet."""
    return speeds_judged(job) if patterns_of.knows(job) else ladder_of(job)


def speeds_before(job: Job) -> Ladder | None:
    """The ladder before that repair; None where there is none, or nothing was fired before."""
    before = around_repair(job).before.fired
    return _laid(before, speeds_of(job), tolerance_of(job.exposing)).ladder if before else None


def _laid(fired: tuple[Fired, ...], marked: tuple[float, ...], tolerance: SpeedTolerance) -> Speeds:
    if not marked and not fired:
        return Speeds(None, None, ())
    found = ladder(marked, timed_of(fired), tolerance)
    return Speeds(found, next_speed(found), ())
