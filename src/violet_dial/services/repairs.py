"""When a job's device was put right, and what was measured since: the one place that parts what was read before a repair from
what was read after it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from typing import Protocol, TypeVar

from violet_dial.core.mapping.board import Touch
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing
from violet_dial.job.proving import Cleaning, NamedRepair
from violet_dial.services.remembered import remembered


class Stamped(Protocol):
    """Something with the moment it was kept."""

    @property
    def at(self) -> str:
        """ISO 8601 with offset; empty where it is not known."""


T = TypeVar("T", bound=Stamped)


@lru_cache(maxsize=8192)
@lru_cache(maxsize=4096)
def moment(at: str) -> datetime | None:
    """A moment as it was kept; None where none was."""
    try:
        return datetime.fromisoformat(at).astimezone()
    except ValueError:
        return None


def order(at: str) -> float:
    """A moment for sorting; what has none comes first."""
    when = moment(at)
    return when.timestamp() if when is not None else 0.0


def repairs_of(job: Job) -> tuple[NamedRepair, ...]:
    """Every repair in time order, each with a name of its own."""
    rounds = tuple(NamedRepair(_round_said(one), one.at) for one in job.proving.rounds if one.how != "as it came")
    traced = tuple(NamedRepair(repair.words[:60], repair.at) for repair in job.tracing.repairs)
    return _named((*job.proving.mends, *traced, *rounds))


def _round_said(one: Cleaning) -> str:
    return {"other": "contacts worked on"}.get(one.how, f"contacts, {one.how}")


@lru_cache(maxsize=64)
def _named(mends: tuple[NamedRepair, ...]) -> tuple[NamedRepair, ...]:
    found: list[NamedRepair] = []
    seen: dict[str, int] = {}
    for one in sorted(mends, key=lambda mend: order(mend.at)):
        seen[one.words] = seen.get(one.words, 0) + 1
        found.append(one if seen[one.words] == 1 else replace(one, words=f"{one.words[:55]} ({seen[one.words]})"))
    return tuple(found)


def split_at_repair(job: Job, things: Sequence[T]) -> tuple[tuple[T, ...], tuple[T, ...]]:
    """Things measured before the newest repair that anything was measured after, and those after it; all of them after, where
    there is no such repair."""
    for mend in reversed(repairs_of(job)):
        since = tuple(thing for thing in things if order(thing.at) > order(mend.at))
        if since and moment(mend.at) is not None:
            return tuple(thing for thing in things if order(thing.at) <= order(mend.at)), since
    return (), tuple(things)


@dataclass(frozen=True)
class Sides:
    """Expose's share of a job before the newest repair that each kind of thing was measured after, and since; traces of a working
    unit are of no repair, and stand in both."""

    before: Exposing
    since: Exposing


@remembered(lambda job: (job.exposing, job.proving.mends, job.proving.rounds, job.tracing.repairs))
def around_repair(job: Job) -> Sides:
    """Firings, looks at lamps, times that were chosen, test shots and traces, on both sides of a repair."""
    exposing = job.exposing
    own = tuple(trace for trace in exposing.traces if not trace.sister)
    sides = {
        name: split_at_repair(job, things)
        for name, things in (
            ("fired", exposing.fired), ("lamps", exposing.lamps), ("auto", exposing.auto), ("shots", exposing.shots),
            ("traces", own),
        )
    }  # fmt: skip
    late = set(map(id, sides["traces"][1]))
    before, since = ({name: side[place] for name, side in sides.items()} for place in (0, 1))
    before["traces"] = tuple(trace for trace in exposing.traces if trace.sister or id(trace) not in late)
    since["traces"] = tuple(trace for trace in exposing.traces if trace.sister or id(trace) in late)
    return Sides(replace(exposing, **before), replace(exposing, **since))  # type: ignore[arg-type]


def since_repair(job: Job) -> Exposing:
    """Expose's share of the job, without what was measured before the repair."""
    return around_repair(job).since


def touches_since(job: Job) -> tuple[Touch, ...]:
    """Touches of the map since the last fault that was put right at Trace, as its evidence is."""
    since = job.tracing.repairs[-1].at if job.tracing.repairs else ""
    return tuple(touch for touch in job.tracing.board.touches if touch.at >= since)
