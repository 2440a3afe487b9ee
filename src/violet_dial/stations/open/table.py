"""A strip-down list in and out as CSV: one row per step, in the order of removal."""

import csv
import io
from dataclasses import dataclass, replace
from typing import Any

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import FINISHES, HANDS, HEADS, KIND_WORDS, SEALANTS, Step
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import Act
from violet_dial.job.csv_text import Cells, Names, RejectedRow, defused, table_of
from violet_dial.job.document import Job
from violet_dial.services.station import MOST_LISTED, FileIn, Listing, rejected_said, rejected_section, unused_section
from violet_dial.stations.open.acts import add_steps
from violet_dial.stations.open.words import said

REQUIRED = ("kind", "home")
_TEXTS = ("size", "tool", "tray", "preset", "marks", "wire_colour", "wire_from", "wire_to", "orientation", "test_before", "note")
_CHOICES: dict[str, tuple[str, ...]] = {"head": HEADS, "finish": FINISHES, "hand": HANDS, "sealant": SEALANTS}
_NAMES = ("under", "hides", "back_after")
_FLAGS = ("no_bath", "no_fingers")
OPTIONAL = ("count", *_CHOICES, *_TEXTS, *_NAMES, *_FLAGS, "minutes")
COLUMNS = (*REQUIRED, *OPTIONAL)
_YES = ("yes", "true", "1", "x")


@dataclass(frozen=True)
class StripResult:
    """What a CSV holds: steps offered, rows rejected with reasons (all counted), columns not used."""

    steps: tuple[Step, ...]
    rejected: tuple[RejectedRow, ...]
    rejected_count: int
    ignored_columns: tuple[str, ...]


def read_strip(data: bytes) -> StripResult:
    """Steps from the bytes of a CSV file; nothing is taken by reading alone.

    Raises InvalidInput: not text, too large, no header row, or a required column missing.
    """
    table = table_of(data, "Strip-down file", Names(REQUIRED, OPTIONAL))
    offered = table.offer(_step)
    steps = tuple(replace(step, step_id=f"s{place}") for place, step in enumerate(offered.found, 1))
    return StripResult(steps, offered.rejected, offered.rejected_count, table.ignored)


def _step(cell: Cells) -> Step:
    kind = KIND_WORDS.get(cell("kind").lower())
    if kind is None:
        raise InvalidInput("kind", cell("kind"), "a kind of part, for instance screw, knob or cover")
    fields: dict[str, Any] = {name: cell(name) for name in _TEXTS}
    for name, choices in _CHOICES.items():
        by_lower = {choice.lower(): choice for choice in choices}
        if cell(name).lower() not in by_lower:
            raise InvalidInput(name, cell(name), f"one of {', '.join(choice for choice in choices if choice)}, or nothing")
        fields[name] = by_lower[cell(name).lower()]
    for name in _NAMES:
        fields[name] = tuple(part.strip() for part in cell(name).split("+") if part.strip())
    for name in _FLAGS:
        fields[name] = cell(name).lower() in _YES
    count = parse_number(cell("count") or "1", "count")
    if count != int(count):
        raise InvalidInput("count", cell("count"), "a whole number")
    minutes = parse_number(cell("minutes") or "0", "minutes")
    return Step(step_id="s", kind=kind, home=cell("home"), count=int(count), minutes=minutes, **fields)


def write_strip(steps: tuple[Step, ...]) -> str:
    """Steps as CSV text with the columns `read_strip` knows."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for step in steps:
        writer.writerow([defused(_cell(step, name)) for name in COLUMNS])
    return out.getvalue()


def _cell(step: Step, name: str) -> str:
    value = getattr(step, name)
    if name in _NAMES:
        return " + ".join(value)
    if name in _FLAGS:
        return "yes" if value else ""
    if name == "minutes":
        return f"{value:g}" if value else ""
    return str(value)


def listing(name: str, read: StripResult) -> Listing:
    """A file of a strip-down, said."""
    offered = tuple(said(step) for step in read.steps[:MOST_LISTED])
    sections = (rejected_section(read.rejected), ("Offered as a plan", offered), *unused_section(read.ignored_columns))
    summary = f"{len(read.steps)} steps offered, {rejected_said(read.rejected_count)}"
    return Listing(f"Strip-down from {name}", summary, sections, len(read.steps), "steps")


def _offered(job: Job, name: str, data: bytes) -> tuple[Listing, Act]:
    read = read_strip(data)
    return listing(name, read), lambda one, at: add_steps(one, read.steps, name, at)


FILE_IN = FileIn("A strip-down from a CSV", "Strip-down (*.csv *.txt *.tsv)", _offered)
