"""Readings in and out as CSV.

Reading in: separator and decimal comma are recognised, columns are matched by name, every rejected row is listed
with its reason, and good rows are offered. Nothing is taken by reading alone.
"""

import csv
import io
from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.core.records.light import DEFAULT_U_READING, DEFAULT_U_REFERENCE, Direction, LightReading
from violet_dial.job.act import Act
from violet_dial.job.csv_text import Cells, Names, RejectedRow, defused, table_of
from violet_dial.job.document import Job
from violet_dial.services.station import MOST_LISTED, FileIn, FileOut, Listing, rejected_said, rejected_section, unused_section
from violet_dial.stations.light.acts import add_readings

REQUIRED = ("reference_ev100", "indicated_ev100")
OPTIONAL = ("direction", "attitude", "u_reference", "u_reading")
OTHER_NAMES = {
    "reference": "reference_ev100", "reference ev": "reference_ev100", "reference ev100": "reference_ev100",
    "indicated": "indicated_ev100", "indicated ev": "indicated_ev100", "indicated ev100": "indicated_ev100",
    "reading": "indicated_ev100", "u reference": "u_reference", "u reading": "u_reading",
}  # fmt: skip


@dataclass(frozen=True)
class ReadResult:
    """What a CSV holds: readings offered, rows rejected (at most a screenful kept, all counted), columns ignored."""

    readings: tuple[LightReading, ...]
    rejected: tuple[RejectedRow, ...]
    rejected_count: int
    ignored_columns: tuple[str, ...]
    separator: str
    decimal_comma: bool


@dataclass(frozen=True)
class Defaults:
    """Standard uncertainties in stops for rows that state none."""

    u_reference: float = DEFAULT_U_REFERENCE
    u_reading: float = DEFAULT_U_READING


def read_readings(data: bytes, defaults: Defaults | None = None) -> ReadResult:
    """Readings from the bytes of a CSV file.

    Raises InvalidInput: not text, too large, no header row, or a required column missing.
    """
    table = table_of(data, "Readings file", Names(REQUIRED, OPTIONAL, OTHER_NAMES))
    decimal_comma = table.separator != "," and any("," in cell for _, row in table.rows for cell in row)
    offered = table.offer(lambda cell: _reading(cell, defaults or Defaults(), decimal_comma))
    return ReadResult(offered.found, offered.rejected, offered.rejected_count, table.ignored, table.separator, decimal_comma)


def _reading(cell: Cells, defaults: Defaults, decimal_comma: bool) -> LightReading:
    def number(name: str, default: float | None = None) -> float:
        text = cell(name)
        if not text and default is not None:
            return default
        return parse_number(text.replace(",", ".") if decimal_comma else text, name)

    return LightReading(
        reference_ev100=number("reference_ev100"),
        indicated_ev100=number("indicated_ev100"),
        direction=_direction(cell("direction")),
        attitude=cell("attitude")[:60],
        u_reference=number("u_reference", defaults.u_reference),
        u_reading=number("u_reading", defaults.u_reading),
    )


def _direction(text: str) -> Direction:
    lowered = text.lower()
    if lowered in ("rising", "up"):
        return "rising"
    if lowered in ("falling", "down"):
        return "falling"
    if lowered:
        raise InvalidInput("direction", text, "rising, falling or nothing")
    return ""


def write_readings(readings: tuple[LightReading, ...]) -> str:
    """Readings as CSV text with the columns `read_readings` knows, comma separated, point as decimal mark."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow((*REQUIRED, *OPTIONAL))
    for reading in readings:
        figures = (repr(reading.reference_ev100), repr(reading.indicated_ev100))
        texts = (reading.direction, defused(reading.attitude))
        writer.writerow((*figures, *texts, repr(reading.u_reference), repr(reading.u_reading)))
    return out.getvalue()


def listing(name: str, read: ReadResult) -> Listing:
    """A file of readings, said."""
    separator = {"\t": "tab", ";": "semicolon", ",": "comma"}[read.separator]
    comma = ", decimal comma" if read.decimal_comma else ""
    summary = f"{len(read.readings)} readings offered, {rejected_said(read.rejected_count)} ({separator} separated{comma})"
    offered = tuple(
        f"Ev {reading.reference_ev100:.2f} read {reading.indicated_ev100:.2f} {reading.direction} {reading.attitude}".rstrip()
        for reading in read.readings[:MOST_LISTED]
    )
    sections = (rejected_section(read.rejected), ("Offered", offered), *unused_section(read.ignored_columns))
    return Listing(f"Readings from {name}", summary, sections, len(read.readings), "readings")


def _offered(job: Job, name: str, data: bytes) -> tuple[Listing, Act]:
    read = read_readings(data, Defaults(u_reading=job.light.setup.u_reading))
    return listing(name, read), lambda one, at: add_readings(one, read.readings, name, at)


KINDS = "Readings (*.csv *.txt *.tsv)"
FILE_IN = FileIn("Readings from a CSV", KINDS, _offered)
FILE_OUT = FileOut(
    "Write readings as CSV",
    KINDS,
    lambda job: f"job-{job.label}-readings.csv",
    lambda job, name, run: write_readings((run or job.light.current).bare).encode(),
)
