"""What a station is to the rest of the house: one frozen description, looped over by all that must know every station.

The line of stations, Next, the jobs screen, search, bundle, sheet, command line, keys and pictures are made from these.
A station is a folder below ``stations`` and a line in its tuple; services never import one.
"""

import argparse
import json
import sys
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from violet_dial.job.act import Act, ActResult
from violet_dial.job.bundle import Member
from violet_dial.job.csv_text import RejectedRow
from violet_dial.job.document import Job
from violet_dial.report.blocks import Block
from violet_dial.services.keys import Key

if TYPE_CHECKING:
    from violet_dial.services.next import NextAct
    from violet_dial.services.photos import CheckedPhoto


MOST_SAID = 20  # rejected rows of a file, one by one


def as_json(data: dict[str, object]) -> str:
    """Plain data as JSON text without NaN or infinity."""
    return json.dumps(data, indent=2, ensure_ascii=False, allow_nan=False)


def say_rejected(result: dict[str, Any]) -> None:
    """Rows of a file that were not used, on standard error: each line and why, as the JSON has them."""
    rows = result["rejected"]
    for row in rows[:MOST_SAID]:
        sys.stderr.write(f"violet-dial: line {row['line']} was not used: {row['reason']}\n")
    more = max(result.get("rejected_count", len(rows)) - MOST_SAID, 0)
    if more:
        sys.stderr.write(f"violet-dial: and {more} more lines were not used\n")


StationState = Literal["open", "begun", "done"]
Section = tuple[str, tuple[str, ...]]  # a title and its lines; a tab in a line parts a key from its meaning


class Option:
    """One argument of a command: its name or names, what it is, what stands for its value, what it is where it is not given;
    ``more`` goes to argparse as it is."""

    def __init__(
        self, name: str | tuple[str, ...], help: str, metavar: str | tuple[str, ...] = "", default: Any = None, **more: Any
    ) -> None:
        self.names = (name,) if isinstance(name, str) else name
        said = {"help": help, "metavar": metavar or None, "default": default, **more}
        self.how = {key: value for key, value in said.items() if value is not None}


JSON = Option("--json", "one JSON object", action="store_true")


@dataclass(frozen=True)
class Command:
    """One command without the window: its arguments, and what it does; gives the exit status."""

    name: str
    help: str
    arguments: tuple[Option, ...]
    run: Callable[[argparse.Namespace], int]


@dataclass(frozen=True)
class Screenshot:
    """One picture of the demo: its name, the job's title (empty: the jobs screen), page, theme and text size; ``view``: how
    often the page's own key (Ctrl+R) is pressed before."""

    name: str
    title: str = ""
    page: int = 0
    theme: Literal["day", "night"] = "day"
    percent: int = 100
    view: int = 0


@dataclass(frozen=True)
class Listing:
    """What a file holds, said before anything is taken: title, one-line summary, sections, how many of what."""

    title: str
    summary: str
    sections: tuple[Section, ...]
    offered: int
    noun: str


@dataclass(frozen=True)
class FileIn:
    """What a station takes from a file: kinds as a chooser names them; reading gives a listing and the act of taking.

    ``listing`` None means: take it at once (nothing to choose from, and undo takes it back).
    """

    title: str
    kinds: str
    read: Callable[[Job, str, bytes], tuple[Listing | None, Act]]
    photos: Callable[[str, bytes], tuple["CheckedPhoto", ...]] | None = None  # in a file of this name, where it may hold any
    most_bytes: int = 6_000_000


@dataclass(frozen=True)
class FileOut:
    """What a station writes into a file; ``write`` gives the bytes for the name that was chosen, and for the part of the
    job that the page shows (as the page names it)."""

    title: str
    kinds: str
    name: Callable[[Job], str]
    write: Callable[[Job, str, Any], bytes]
    # Where the name ends so, it is written with the content of the job's photos by SHA-256, beside the window's work.
    with_photos: Mapping[str, Callable[[Job, str, Mapping[str, bytes]], bytes]] = field(default_factory=dict)


MOST_LISTED = 300  # things of a file said one by one; all are counted


def rejected_said(count: int) -> str:
    """How many rows of a file were not offered."""
    return f"{count} rejected" if count else "none rejected"


def unused_section(columns: tuple[str, ...]) -> tuple[Section, ...]:
    """Columns of a file that were passed over; nothing when there are none."""
    return (("Columns not used", columns),) if columns else ()


def rejected_section(rows: tuple[RejectedRow, ...]) -> Section:
    """Rows of a file that were not offered, each with its reason."""
    return "Rejected rows", tuple(f"line {row.line}\t{row.reason}" for row in rows) or ("none",)


def no_finding(job: Job) -> str:
    """For stations that say nothing on a job's card."""
    return ""


def no_card(job: Job) -> tuple[tuple[str, str], ...]:
    """For stations with nothing on the short card."""
    return ()


def no_paper(job: Job) -> tuple[Block, ...]:
    """For stations with nothing on the sheet."""
    return ()


@dataclass(frozen=True)
class Exercises:
    """What a line with exercises knows of them, for the rooms below it that only know jobs.

    ``counted`` adds to an act at a station what it counts in the exercise; ``acts_in`` a file of at most ``most_bytes`` are acts
    that lay its exercises into new jobs; ``under_test`` is a word for how the device stands, and what makes it (None: its seal is
    broken); ``told`` what an exercise of a form hides, empty once it works (None: it is of another).
    """

    counted: Callable[[Job, ActResult, str], ActResult]
    acts_in: Callable[[bytes], tuple[Act, ...]]
    most_bytes: int
    under_test: Callable[[Job], tuple[str, Callable[[], Any]] | None]
    told: Callable[[Job, str], str | None]


@dataclass(frozen=True)
class Station:
    """One station of the line.

    Parameters
    ----------
    name, page : how it is called; the class that shows it, as ``module:Class``, imported when it is first shown
    next : what it wants done, given its page's result (None: none yet)
    words : what a person wrote, for search
    finding : in a few words for the card
    fallback : keys that a station has nothing for (sum, set-up, files) go to this one
    ticked : what one key at the jobs screen ticks off, where something is due
    """

    name: str
    page: str
    state: Callable[[Job], StationState]
    next: Callable[[Job, Any], "NextAct | None"]
    words: Callable[[Job], tuple[str, ...]]
    finding: Callable[[Job], str] = no_finding
    members: Callable[[Job], tuple[Member, ...]] = lambda job: ()
    paper: Callable[[Job], tuple[Block, ...]] = no_paper
    card: Callable[[Job], tuple[tuple[str, str], ...]] = no_card
    opened: Callable[[Job], tuple[str, tuple[Section, ...]] | None] = lambda job: None
    file_in: FileIn | None = None
    file_out: FileOut | None = None
    print_out: FileOut | None = None
    commands: tuple[Command, ...] = ()
    keys: tuple[Key, ...] = ()
    shots: tuple[Screenshot, ...] = ()
    fallback: bool = False
    ticked: Callable[[Job], Act | None] = lambda job: None
    exercises: Exercises | None = None


def exercises_of(stations: tuple[Station, ...]) -> Exercises | None:
    """What a line knows of exercises; None where it works no exercises."""
    return next((station.exercises for station in stations if station.exercises is not None), None)
