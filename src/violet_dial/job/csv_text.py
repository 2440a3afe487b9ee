"""Tables as text, in and out: separators recognised, columns matched by name, spreadsheet formulas defused."""

import csv
import io
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from violet_dial.core.errors import InvalidInput

MOST_BYTES = 5_000_000
MOST_ROWS = 5_000
MOST_CELL = 1_000  # characters; a longer cell is no figure and no note
MOST_REJECTED_SHOWN = 200
SEPARATORS = (";", "\t", ",")
RISKY_STARTS = ("=", "+", "-", "@", "\t", "\r")
_TOO_LONG = ["too long"]
T = TypeVar("T")
Cells = Callable[[str], str]  # one row's cell by the name of its column


@dataclass(frozen=True)
class RejectedRow:
    """A row that was not offered: its line in the file and why."""

    line: int
    reason: str


@dataclass(frozen=True)
class Names:
    """Columns a table must have, may have, and other names they are known by."""

    required: tuple[str, ...]
    optional: tuple[str, ...] = ()
    others: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Offered(Generic[T]):
    """What rows gave: things offered, rows rejected (at most a screenful kept, all counted)."""

    found: tuple[T, ...]
    rejected: tuple[RejectedRow, ...]
    rejected_count: int


@dataclass(frozen=True)
class CsvTable:
    """A table as text, its columns known; ``rows`` with their line numbers."""

    separator: str
    columns: dict[str, int]
    ignored: tuple[str, ...]
    rows: list[tuple[int, list[str]]]
    width: int = MOST_CELL  # cells of the first line

    def offer(self, make: Callable[[Cells], T]) -> Offered[T]:
        """What ``make`` makes of each row; a row it refuses with ``InvalidInput`` is rejected with that reason."""
        found: list[T] = []
        rejected: list[RejectedRow] = []
        for line, row in self.rows:
            try:
                self._check_width(row)
                found.append(make(lambda name, row=row: cell_of(row, self.columns, name)))  # type: ignore[misc]
            except InvalidInput as error:
                rejected.append(RejectedRow(line, str(error)))
        return Offered(tuple(found), tuple(rejected[:MOST_REJECTED_SHOWN]), len(rejected))

    def _check_width(self, row: list[str]) -> None:
        """A row with more cells than the first line is not what it seems: a figure was cut in two."""
        cells = len(row)
        while cells and not row[cells - 1].strip():
            cells -= 1
        if cells > self.width:
            commas = "decimal commas in a file parted by commas? Use points, or part it by semicolons"
            why = commas if self.separator == "," else "a separator within a text? Put it in quotes"
            raise InvalidInput("Row", f"{cells} cells", f"at most the {self.width} of the first line ({why})")


def table_of(data: bytes, what: str, known: Names) -> CsvTable:
    """The table in the bytes of a CSV file; cells in quotes may hold separators, quotes and line ends.

    Raises InvalidInput: not text, too large, no header row, or a required column missing.
    """
    text = decoded(data, what)
    separator = separator_of(text)
    rows = _rows(text, separator, what)
    if not rows:
        raise InvalidInput(what, "nothing", f"a first line with {' and '.join(known.required)}")
    columns, ignored = match_columns(what, rows[0][1], known)
    if len(rows) > MOST_ROWS + 1:
        raise InvalidInput(what, f"{len(rows) - 1} rows", f"at most {MOST_ROWS} rows")
    return CsvTable(separator, columns, ignored, rows[1:], len(rows[0][1]))


def decoded(data: bytes, what: str) -> str:
    """The text of a file, line ends alike. Raises InvalidInput: not text, or too much of it."""
    if len(data) > MOST_BYTES:
        raise InvalidInput(what, f"{len(data)} bytes", f"at most {MOST_BYTES} bytes")
    if b"\0" in data:
        raise InvalidInput(what, "binary data", "a CSV text file")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", "replace")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def separator_of(text: str) -> str:
    """The separator of a table: the commonest in its first line, outside quotes."""
    header = text.lstrip("\n \t").split("\n", 1)[0] if text.strip() else ""
    outside = "".join(header.split('"')[::2])
    return max(SEPARATORS, key=outside.count)


def _rows(text: str, separator: str, what: str) -> list[tuple[int, list[str]]]:
    """Rows with the number of the line each begins in; empty ones are left out, one beyond the limit is enough."""
    reader = csv.reader(io.StringIO(text), delimiter=separator)
    rows: list[tuple[int, list[str]]] = []
    begins = 1
    while len(rows) <= MOST_ROWS + 1:
        try:
            row = next(reader, None)
        except csv.Error:  # a cell beyond what the reader takes: the row is rejected, the next one read
            row = list(_TOO_LONG)
        if row is None:
            break
        if any(cell.strip() for cell in row):
            rows.append((begins, list(_TOO_LONG) if sum(map(len, row)) > MOST_CELL * 10 else row))
        begins = reader.line_num + 1
    return rows


def match_columns(what: str, header: list[str], known: Names) -> tuple[dict[str, int], tuple[str, ...]]:
    """Place of each known column, and the names of columns that are not used."""
    said = ", ".join(header)
    columns: dict[str, int] = {}
    ignored: list[str] = []
    for index, name in enumerate(" ".join(cell.split()).lower() for cell in header):
        column = known.others.get(name.replace("_", " "), name)
        if column in (*known.required, *known.optional):
            if column in columns:
                raise InvalidInput(what, said, f"one column named {column}; there are two")
            columns[column] = index
        elif name:
            ignored.append(name[:60])
    for required in known.required:
        if required not in columns:
            raise InvalidInput(what, said, f"a column named {required} in the first line")
    return columns, tuple(ignored[:50])


def cell_of(row: list[str], columns: dict[str, int], name: str) -> str:
    """One cell, its defusing apostrophe taken off; empty when the column is not there.

    Raises InvalidInput: the row or the cell is too long to be what it should be.
    """
    if row == _TOO_LONG:
        raise InvalidInput("Row", "a very long line", f"cells of at most {MOST_CELL} characters")
    index = columns.get(name)
    text = row[index].strip() if index is not None and index < len(row) else ""
    if len(text) > MOST_CELL:
        raise InvalidInput(name, text, f"at most {MOST_CELL} characters")
    return text[1:] if text.startswith("'") and _risky(text[1:]) else text


def defused(text: str) -> str:
    """A text cell that a spreadsheet will not run as a formula: risky starts get an apostrophe."""
    return f"'{text}" if _risky(text) else text


def _risky(text: str) -> bool:
    """Whether a spreadsheet may take a text for a formula, also one whose beginning was written with apostrophes."""
    return text.lstrip("'").startswith(RISKY_STARTS)
