"""Readings in and out as CSV.

Reading in: separator and decimal comma are recognised, columns are matched by name, every rejected row is listed
with its reason, and good rows are offered. Nothing is taken by reading alone.
"""

import csv
import io
from dataclasses import dataclass

from violet_dial.core.calibration.readings import DEFAULT_U_READING, DEFAULT_U_REFERENCE, Direction, Reading
from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number

MOST_BYTES = 5_000_000
MOST_ROWS = 5_000
MOST_CELL = 1_000  # characters; a longer cell is not a reading
MOST_REJECTED_SHOWN = 200
SEPARATORS = (";", "\t", ",")
REQUIRED = ("reference_ev100", "indicated_ev100")
OPTIONAL = ("direction", "attitude", "u_reference", "u_reading")
OTHER_NAMES = {
    "reference": "reference_ev100", "reference ev": "reference_ev100", "reference ev100": "reference_ev100",
    "indicated": "indicated_ev100", "indicated ev": "indicated_ev100", "indicated ev100": "indicated_ev100",
    "reading": "indicated_ev100", "u reference": "u_reference", "u reading": "u_reading",
}  # fmt: skip
RISKY_STARTS = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True)
class RejectedRow:
    """A row that was not offered: its line in the file and why."""

    line: int
    reason: str


@dataclass(frozen=True)
class ReadResult:
    """What a CSV holds: readings offered, rows rejected (at most a screenful kept, all counted), columns ignored."""

    readings: tuple[Reading, ...]
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

    Raises
    ------
    InvalidInput
        Not text, too large, no header row, or a required column missing.
    """
    lines = _lines(data)
    header = lines[0]
    separator = max(SEPARATORS, key=header.count)
    columns, ignored = _columns(header, separator)
    rows = _rows(lines, separator)
    decimal_comma = separator != "," and any("," in cell for _, row in rows for cell in row)
    readings: list[Reading] = []
    rejected: list[RejectedRow] = []
    for line, row in rows:
        try:
            readings.append(_reading(row, columns, defaults or Defaults(), decimal_comma))
        except InvalidInput as error:
            rejected.append(RejectedRow(line, str(error)))
    kept = tuple(rejected[:MOST_REJECTED_SHOWN])
    return ReadResult(tuple(readings), kept, len(rejected), ignored, separator, decimal_comma)


def _lines(data: bytes) -> list[str]:
    if len(data) > MOST_BYTES:
        raise InvalidInput("Readings file", f"{len(data)} bytes", f"at most {MOST_BYTES} bytes")
    if b"\0" in data:
        raise InvalidInput("Readings file", "binary data", "a CSV text file")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", "replace")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    while lines and not lines[0].strip():
        lines.pop(0)
    if not lines:
        raise InvalidInput("Readings file", "nothing", f"a first line with {' and '.join(REQUIRED)}")
    if len(lines) > MOST_ROWS + 1 and any(line.strip() for line in lines[MOST_ROWS + 1 :]):
        raise InvalidInput("Readings file", f"{len(lines)} lines", f"at most {MOST_ROWS} rows")
    return lines


def _columns(header: str, separator: str) -> tuple[dict[str, int], tuple[str, ...]]:
    names = [name.strip().strip('"').strip().lower() for name in header[: MOST_CELL * 20].split(separator)]
    columns: dict[str, int] = {}
    ignored: list[str] = []
    for index, name in enumerate(names):
        known = OTHER_NAMES.get(name.replace("_", " "), name)
        if known in (*REQUIRED, *OPTIONAL):
            if known in columns:
                raise InvalidInput("Readings file", header, f"one column named {known}; there are two")
            columns[known] = index
        elif name:
            ignored.append(name[:60])
    for required in REQUIRED:
        if required not in columns:
            raise InvalidInput("Readings file", header, f"a column named {required} in the first line")
    return columns, tuple(ignored[:50])


def _rows(lines: list[str], separator: str) -> list[tuple[int, list[str]]]:
    rows: list[tuple[int, list[str]]] = []
    for number, line in enumerate(lines[1:], start=2):
        if not line.strip():
            continue
        if len(line) > MOST_CELL * 10:
            rows.append((number, ["too long"]))
            continue
        rows.append((number, next(csv.reader([line], delimiter=separator))))
    return rows


def _reading(row: list[str], columns: dict[str, int], defaults: Defaults, decimal_comma: bool) -> Reading:
    if row == ["too long"]:
        raise InvalidInput("Row", "a very long line", f"cells of at most {MOST_CELL} characters")

    def cell(name: str) -> str:
        index = columns.get(name)
        text = row[index].strip() if index is not None and index < len(row) else ""
        if len(text) > MOST_CELL:
            raise InvalidInput(name, text, f"at most {MOST_CELL} characters")
        return text.removeprefix("'") if text[1:2] and text[1] in "".join(RISKY_STARTS) else text

    def number(name: str, default: float | None = None) -> float:
        text = cell(name)
        if not text and default is not None:
            return default
        return parse_number(text.replace(",", ".") if decimal_comma else text, name)

    return Reading(
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


def defused(text: str) -> str:
    """A text cell that a spreadsheet will not run as a formula: risky starts get an apostrophe."""
    return f"'{text}" if text.startswith(RISKY_STARTS) else text


def write_readings(readings: tuple[Reading, ...]) -> str:
    """Readings as CSV text with the columns `read_readings` knows, comma separated, point as decimal mark."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow((*REQUIRED, *OPTIONAL))
    for one in readings:
        figures = (repr(one.reference_ev100), repr(one.indicated_ev100))
        texts = (one.direction, defused(one.attitude))
        writer.writerow((*figures, *texts, repr(one.u_reference), repr(one.u_reading)))
    return out.getvalue()
