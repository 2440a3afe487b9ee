"""Rows out of a hurt database file, page by page, without its index of what lies where.

The format is SQLite's own, published at https://www.sqlite.org/fileformat2.html (sections 1.3 to 1.6 and 2.1 for records,
4.1 for the log). Only leaves of tables are looked at; what a leaf or a chain of pages no longer holds is passed over.
"""

import os
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

Value = int | float | str | bytes | None
Row = tuple[int, tuple[Value, ...]]  # its number in the table, and its columns

LEAF = 0x0D
USUAL_PAGE = 4096
MOST_FILE_BYTES = 40_000_000_000
MOST_LOG_BYTES = 400_000_000
MOST_ROW_BYTES = 100_000_000
HEAD_BYTES = 100
_SIZES = {1: 1, 2: 2, 3: 3, 4: 4, 5: 6, 6: 8}  # bytes of whole numbers, by their serial type
_LOG_HEAD, _FRAME_HEAD = 32, 24


@dataclass(frozen=True)
class Pages:
    """The pages of a file as they stand with the log written over them; read where they lie, as they are wanted."""

    size: int
    file: BinaryIO
    length: int
    log: dict[int, bytes]

    def page(self, number: int) -> bytes:
        """One page, from 1; empty where there is none."""
        return self.log.get(number) or os.pread(self.file.fileno(), self.size, (number - 1) * self.size)

    def close(self) -> None:
        self.file.close()

    def rows(self) -> Iterator[Row]:
        """Every row of every leaf that can be read, whichever table it belongs to."""
        last = max(-(-self.length // self.size), max(self.log, default=0))
        for number in range(1, last + 1):
            page = self.page(number)
            start = 100 if number == 1 else 0
            if len(page) > start + 8 and page[start] == LEAF:
                yield from self._leaf(page, start)

    def _leaf(self, page: bytes, start: int) -> Iterator[Row]:
        count = struct.unpack_from(">H", page, start + 3)[0]
        for place in range(min(count, (self.size - start - 8) // 2)):
            try:
                at = struct.unpack_from(">H", page, start + 8 + 2 * place)[0]
                length, at = _varint(page, at)
                number, at = _varint(page, at)
                yield number, _columns(self._payload(page, at, length))
            except (IndexError, struct.error, UnicodeDecodeError, ValueError, KeyError):
                continue

    def _payload(self, page: bytes, at: int, length: int) -> bytes:
        """What a cell holds, with the pages it runs over into."""
        if length > MOST_ROW_BYTES:
            raise ValueError("longer than any row")
        most = self.size - 35
        if length <= most:
            return _exactly(page[at : at + length], length)
        least = (self.size - 12) * 32 // 255 - 23
        here = least + (length - least) % (self.size - 4)
        here = here if here <= most else least
        pieces, left = [page[at : at + here]], length - here
        following = struct.unpack_from(">I", page, at + here)[0]
        while left > 0:
            over = self.page(following) if following else b""
            following = struct.unpack_from(">I", over)[0]
            pieces.append(over[4 : 4 + left])
            left -= self.size - 4
        return _exactly(b"".join(pieces), length)


def _exactly(data: bytes, length: int) -> bytes:
    if len(data) != length:
        raise ValueError("cut short")
    return data


def _varint(data: bytes, at: int) -> tuple[int, int]:
    value = 0
    for place in range(8):
        byte = data[at + place]
        value = value << 7 | byte & 0x7F
        if byte < 0x80:
            return value, at + place + 1
    return value << 8 | data[at + 8], at + 9


def _columns(payload: bytes) -> tuple[Value, ...]:
    head, at = _varint(payload, 0)
    kinds: list[int] = []
    while at < head:
        kind, at = _varint(payload, at)
        kinds.append(kind)
    values: list[Value] = []
    for kind in kinds:
        value, at = _value(payload, at, kind)
        values.append(value)
    return tuple(values)


def _value(payload: bytes, at: int, kind: int) -> tuple[Value, int]:
    if kind in _SIZES:
        end = at + _SIZES[kind]
        return int.from_bytes(_exactly(payload[at:end], end - at), "big", signed=True), end
    if kind == 7:
        return float(struct.unpack_from(">d", payload, at)[0]), at + 8
    if kind in (0, 8, 9):
        return {0: None, 8: 0, 9: 1}[kind], at
    if kind < 12:
        raise ValueError("no kind of value")
    end = at + (kind - 12) // 2
    data = _exactly(payload[at:end], end - at)
    return (data.decode() if kind % 2 else data), end


def pages_of(path: Path) -> Pages:
    """The pages of the file at ``path``, with the log beside it where there is one.

    Raises OSError: it cannot be read; ValueError: it is larger than `MOST_FILE_BYTES`.
    """
    length = path.stat().st_size
    if length > MOST_FILE_BYTES:
        raise ValueError(f"larger than {MOST_FILE_BYTES} bytes")
    file = open(path, "rb")  # noqa: SIM115 - read as its pages are wanted, and closed with them
    size = _page_size(os.pread(file.fileno(), HEAD_BYTES, 0))
    log = path.with_name(f"{path.name}-wal")
    there = log.is_file() and not log.is_symlink() and log.stat().st_size <= MOST_LOG_BYTES
    return Pages(size, file, length, _from_log(log.read_bytes(), size) if there else {})


def _page_size(data: bytes) -> int:
    said = struct.unpack_from(">H", data, 16)[0] if len(data) >= 18 else 0
    said = 65536 if said == 1 else said
    return int(said) if said in {512 << step for step in range(8)} else USUAL_PAGE


def _from_log(log: bytes, size: int) -> dict[int, bytes]:
    """The newest page of each number in the log; frames of an earlier round carry other salts."""
    found: dict[int, bytes] = {}
    salts = log[16:24]
    for at in range(_LOG_HEAD, len(log) - _FRAME_HEAD - size + 1, _FRAME_HEAD + size):
        if log[at + 8 : at + 16] == salts:
            found[struct.unpack_from(">I", log, at)[0]] = log[at + _FRAME_HEAD : at + _FRAME_HEAD + size]
    return found
