"""What the workshop file is given and gives: cards, versions, rows of the log."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

COLLECTED, PUT_AWAY, DELETED = "collected", "put away", "deleted"
SHELVES = (COLLECTED, PUT_AWAY, DELETED)  # where a job goes that is not on the bench any more


class Card(NamedTuple):
    """What the jobs screen shows of a job, kept beside it so that no document is opened for the list. What it waits for and its
    finding are worked out after a version was kept, and may be those of the version before for a moment."""

    job_id: str
    number: int
    title: str
    headline: str
    waits_for: str
    finding: str
    kept_at: str
    shelf: str = ""  # empty on the bench; see `SHELVES`
    shelved_at: str = ""


@dataclass(frozen=True)
class KeptVersion:
    """One version as kept: identity and place in the line; `WorkshopFile.document` has its bytes."""

    version_id: int
    parent_id: int | None
    kept_at: str
    can_redo: bool


@dataclass(frozen=True)
class LogRow:
    """One act: when, at which station, what; ``undone`` when the bench stands before it."""

    version_id: int
    kept_at: str
    station: str
    reason: str
    undone: bool


@dataclass(frozen=True)
class NewVersion:
    """What is kept by one act: the card as it is afterwards, the act, the document, and contents that it names by hash
    (media type and content)."""

    card: Card
    station: str
    reason: str
    document: bytes
    contents: Mapping[str, tuple[str, bytes]] = field(default_factory=dict)


@dataclass(frozen=True)
class Description:
    """What is worked out of a version once it is kept: what the job waits for, its finding, the words that search finds it by."""

    waits_for: str
    finding: str
    words: str
