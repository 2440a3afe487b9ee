"""When a job's device was put right: repairs said at Prove, faults put right at Trace, rounds of cleaning, in time order."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from functools import lru_cache
from typing import Protocol, TypeVar

from violet_dial.job.document import Job
from violet_dial.job.proving import Cleaning, Mend


class Stamped(Protocol):
    """Something with the moment it was kept."""

    @property
    def at(self) -> str:
        """ISO 8601 with offset; empty where it is not known."""


T = TypeVar("T", bound=Stamped)


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


def mends_of(job: Job) -> tuple[Mend, ...]:
    """Every repair in time order, each with a name of its own."""
    rounds = tuple(Mend(_round_said(one), one.at) for one in job.proving.rounds if one.how != "as it came")
    traced = tuple(Mend(one.words[:60], one.at) for one in job.tracing.repairs)
    return _named((*job.proving.mends, *traced, *rounds))


def _round_said(one: Cleaning) -> str:
    return {"other": "contacts worked on"}.get(one.how, f"contacts, {one.how}")


@lru_cache(maxsize=64)
def _named(mends: tuple[Mend, ...]) -> tuple[Mend, ...]:
    found: list[Mend] = []
    seen: dict[str, int] = {}
    for one in sorted(mends, key=lambda one: order(one.at)):
        seen[one.words] = seen.get(one.words, 0) + 1
        found.append(one if seen[one.words] == 1 else replace(one, words=f"{one.words[:55]} ({seen[one.words]})"))
    return tuple(found)


def parted(job: Job, things: Sequence[T]) -> tuple[tuple[T, ...], tuple[T, ...]]:
    """Things measured before the newest repair that anything was measured after, and those after it; all of them after, where
    there is no such repair."""
    for mend in reversed(mends_of(job)):
        since = tuple(one for one in things if order(one.at) > order(mend.at))
        if since and moment(mend.at) is not None:
            return tuple(one for one in things if order(one.at) <= order(mend.at)), since
    return (), tuple(things)
