"""Tables as text, in and out: separators recognised, columns matched by name, spreadsheet formulas defused."""

import csv
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
class Table:
    """A table as text, its columns known; ``rows`` with their line numbers."""

    separator: str
    columns: dict[str, int]
    ignored: tuple[str, ...]
    rows: list[tuple[int, list[str]]]

    def offer(self, make: Callable[[Cells], T]) -> Offered[T]:
        """What ``make`` makes of each row; a row it refuses with ``InvalidInput`` is rejected with that reason."""
        found: list[T] = []
        rejected: list[RejectedRow] = []
        for line, row in self.rows:
            try:
                found.append(make(lambda name, row=row: cell_of(row, self.columns, name)))  # type: ignore[misc]
            except InvalidInput as error:
                rejected.append(RejectedRow(line, str(error)))
        return Offered(tuple(found), tuple(rejected[:MOST_REJECTED_SHOWN]), len(rejected))


def table_of(data: bytes, what: str, known: Names) -> Table:
    """The table in the bytes of a CSV file.

    Raises
    ------
    InvalidInput
        Not text, too large, no header row, or a required column missing.
    """
    lines = text_lines(data, what, known.required)
    separator = separator_of(lines[0])
    columns, ignored = match_columns(what, lines[0], known)
    return Table(separator, columns, ignored, split_rows(lines, separator))


def text_lines(data: bytes, what: str, required: tuple[str, ...]) -> list[str]:
    """Lines of a text table, header first.

    Raises
    ------
    InvalidInput
        Not text, nothing, or too much of it.
    """
    if len(data) > MOST_BYTES:
        raise InvalidInput(what, f"{len(data)} bytes", f"at most {MOST_BYTES} bytes")
    if b"\0" in data:
        raise InvalidInput(what, "binary data", "a CSV text file")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", "replace")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    while lines and not lines[0].strip():
        lines.pop(0)
    if not lines:
        raise InvalidInput(what, "nothing", f"a first line with {' and '.join(required)}")
    if len(lines) > MOST_ROWS + 1 and any(line.strip() for line in lines[MOST_ROWS + 1 :]):
        raise InvalidInput(what, f"{len(lines)} lines", f"at most {MOST_ROWS} rows")
    return lines


def separator_of(header: str) -> str:
    """The separator of a table, from its header."""
    return max(SEPARATORS, key=header.count)


def match_columns(what: str, header: str, known: Names) -> tuple[dict[str, int], tuple[str, ...]]:
    """Place of each known column, and the names of columns that are not used."""
    parts = header[: MOST_CELL * 20].split(separator_of(header))
    names = [name.strip().strip('"').strip().lower() for name in parts]
    columns: dict[str, int] = {}
    ignored: list[str] = []
    for index, name in enumerate(names):
        column = known.others.get(name.replace("_", " "), name)
        if column in (*known.required, *known.optional):
            if column in columns:
                raise InvalidInput(what, header, f"one column named {column}; there are two")
            columns[column] = index
        elif name:
            ignored.append(name[:60])
    for required in known.required:
        if required not in columns:
            raise InvalidInput(what, header, f"a column named {required} in the first line")
    return columns, tuple(ignored[:50])


def split_rows(lines: list[str], separator: str) -> list[tuple[int, list[str]]]:
    """Rows under the header with their line numbers; empty lines are left out."""
    rows: list[tuple[int, list[str]]] = []
    for number, line in enumerate(lines[1:], start=2):
        if not line.strip():
            continue
        if len(line) > MOST_CELL * 10:
            rows.append((number, list(_TOO_LONG)))
            continue
        rows.append((number, next(csv.reader([line], delimiter=separator))))
    return rows


def cell_of(row: list[str], columns: dict[str, int], name: str) -> str:
    """One cell, its defusing apostrophe taken off; empty when the column is not there.

    Raises
    ------
    InvalidInput
        The row or the cell is too long to be what it should be.
    """
    if row == _TOO_LONG:
        raise InvalidInput("Row", "a very long line", f"cells of at most {MOST_CELL} characters")
    index = columns.get(name)
    text = row[index].strip() if index is not None and index < len(row) else ""
    if len(text) > MOST_CELL:
        raise InvalidInput(name, text, f"at most {MOST_CELL} characters")
    return text.removeprefix("'") if text[1:2] and text[1] in "".join(RISKY_STARTS) else text


def defused(text: str) -> str:
    """A text cell that a spreadsheet will not run as a formula: risky starts get an apostrophe."""
    return f"'{text}" if text.startswith(RISKY_STARTS) else text
