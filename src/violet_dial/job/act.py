"""An act at the bench: it takes the job and the time, and gives the next job with one line for the log."""

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass

from violet_dial.job.document import Job


def changes_said(before: object, after: object) -> str:
    """The fields of a record that changed, with their new values where these are short."""
    names = []
    for item in dataclasses.fields(after):  # type: ignore[arg-type]
        old, new = getattr(before, item.name), getattr(after, item.name)
        if old != new:
            name = item.name.replace("_", " ")
            names.append(f"{name} {new}" if isinstance(new, (str, float, int)) and len(str(new)) < 60 else name)
    return ", ".join(names) or "nothing changed"


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
