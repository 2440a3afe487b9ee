"""A hurt workshop file brought to a new one: every version, job and photo that can still be read.

Where the index of what lies where is hurt, rows are read page by page. The format is SQLite's own, published at
https://www.sqlite.org/fileformat2.html (sections 1.3 to 1.6 and 2.1 for records, 4.1 for the log). Only leaves of tables are
looked at; what a leaf or a chain of pages no longer holds is passed over.
"""

import contextlib
import hashlib
import os
import struct
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import BinaryIO

from violet_dial.core.errors import StoreFull
from violet_dial.store import packed
from violet_dial.store.placing import place
from violet_dial.store.records import Card, Description, NewVersion

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
        for nth in range(min(count, (self.size - start - 8) // 2)):
            try:
                at = struct.unpack_from(">H", page, start + 8 + 2 * nth)[0]
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
    for nth in range(8):
        byte = data[at + nth]
        value = value << 7 | byte & 0x7F
        if byte < 0x80:
            return value, at + nth + 1
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


Described = Callable[[bytes, Card], tuple[Card, Description | None]]  # a document and the card found -> the same made anew
JOB_COLUMNS, VERSION_COLUMNS, BLOB_COLUMNS = (10, 12, 13), 8, 3
SHA256_CHARACTERS = 64


@dataclass(frozen=True)
class Version:
    """One row of the table of versions, as it was kept."""

    version_id: int
    job_id: str
    parent_id: int | None
    kept_at: str
    station: str
    reason: str
    document: bytes
    base_id: int | None = None  # the first files knew none


@dataclass(frozen=True)
class Salvage:
    """What could be read: jobs with the rows they need, and what is known to be lost."""

    path: Path
    jobs: dict[str, tuple[Value, ...]]  # the rows of the table of jobs, without their numbers in it
    versions: dict[int, Version]
    blobs: frozenset[str]
    lost_versions: int
    lost_blobs: int

    def contents(self) -> Iterator[tuple[str, str, bytes]]:
        """Photos and files one after the other: hash, media type, content; together they may be larger than the memory."""
        given: set[str] = set()
        with contextlib.closing(pages_of(self.path)) as pages:
            for _, row in pages.rows():
                if _is_blob(row) and row[0] in self.blobs and row[0] not in given and _is_sound(row):
                    given.add(str(row[0]))
                    yield str(row[0]), str(row[1]), bytes(row[2])  # type: ignore[arg-type]

    @property
    def job_ids(self) -> tuple[str, ...]:
        """Every job of which at least one version can be read, oldest first."""
        return tuple(dict.fromkeys(version.job_id for version in self.versions.values()))

    def document(self, version_id: int) -> bytes:
        """The document of a version that was found."""
        version = self.versions[version_id]
        base = None if version.base_id is None else packed.unpacked(self.versions[version.base_id].document)
        return packed.unpacked(version.document, base)

    def holds(self, new: NewVersion) -> bool:
        """Whether a version was found with this very document."""
        mine = (number for number, version in self.versions.items() if version.job_id == new.card.job_id)
        return any(self.document(number) == new.document for number in mine)

    def standing(self, job_id: str) -> tuple[int, int]:
        """The version on the bench and the newest of its line; where they are lost, the newest that was found."""
        newest = max(number for number, version in self.versions.items() if version.job_id == job_id)
        row = self.jobs.get(job_id, (None,) * 5)
        current, top = (int(one) if isinstance(one, int) and one in self.versions else newest for one in row[3:5])
        return current, top

    def card(self, job_id: str, number: int) -> Card:
        """The card as it was kept; where it is lost, a plain one under a number."""
        row = self.jobs.get(job_id)
        if row is None or not all(isinstance(one, str) for one in row[5:10]):
            kept_at = self.versions[self.standing(job_id)[0]].kept_at
            return Card(job_id, number, "Found again", "", "describing", "", kept_at)
        shown = [str(one) for one in row[5:10]]
        shelf = [str(one) for one in row[10:12]] if len(row) > min(JOB_COLUMNS) else []
        return Card(job_id, int(row[2] or number), *shown, *shelf)


def read_out(path: Path) -> Salvage:
    """All that can be read in the workshop file at ``path``; the file is only looked at.

    Raises OSError, ValueError: it cannot be read at all, or is too large.
    """
    jobs: dict[str, tuple[Value, ...]] = {}
    versions: dict[int, Version] = {}
    blobs: set[str] = set()
    lost_blobs = 0
    with contextlib.closing(pages_of(path)) as pages:
        for number, row in pages.rows():
            if _is_version(row):
                versions[number] = Version(number, *row[1:])  # type: ignore[arg-type]
            elif len(row) in JOB_COLUMNS:
                _note_job(jobs, row)
            elif _is_blob(row):
                sound = _is_sound(row)
                lost_blobs += not sound
                blobs.update((str(row[0]),) if sound else ())
    sound_versions = _sound(versions)
    return Salvage(path, jobs, sound_versions, frozenset(blobs), len(versions) - len(sound_versions), lost_blobs)


def _is_blob(row: tuple[Value, ...]) -> bool:
    return len(row) == BLOB_COLUMNS and isinstance(row[0], str) and len(row[0]) == SHA256_CHARACTERS and isinstance(row[2], bytes)


def _is_sound(row: tuple[Value, ...]) -> bool:
    return isinstance(row[2], bytes) and hashlib.sha256(row[2]).hexdigest() == row[0]


def _is_version(row: tuple[Value, ...]) -> bool:
    if len(row) not in (VERSION_COLUMNS, VERSION_COLUMNS - 1):  # the first files knew no whole versions to lean on
        return False
    return (
        row[0] is None
        and all(isinstance(row[place], str) for place in (1, 3, 4, 5))
        and isinstance(row[6], bytes)
        and all(one is None or isinstance(one, int) for one in (row[2], *row[7:]))
    )


def _note_job(jobs: dict[str, tuple[Value, ...]], row: tuple[Value, ...]) -> None:
    """A row of the table of jobs; of several of one job, the one that stands at the newest version."""
    if not isinstance(row[1], str) or not all(isinstance(row[place], int) for place in (2, 3, 4)):
        return
    before = jobs.get(row[1])
    if before is None or int(before[3] or 0) <= int(row[3] or 0):
        jobs[row[1]] = row


def _sound(versions: dict[int, Version]) -> dict[int, Version]:
    """The versions whose documents can be unpacked; parents that are gone are no longer pointed to."""
    whole: dict[int, bytes] = {}
    found: dict[int, Version] = {}
    for number, version in sorted(versions.items(), key=lambda item: (item[1].base_id is not None, item[0])):
        try:
            if version.base_id is None:
                whole[number] = packed.unpacked(version.document)
            else:
                packed.unpacked(version.document, whole[version.base_id])
        except (zlib.error, struct.error, KeyError):
            continue
        found[number] = version
    return {number: _with_parent(found[number], found) for number in sorted(found)}


def _with_parent(version: Version, found: dict[int, Version]) -> Version:
    """The version under its parent; where that is lost, under the newest of its job before it."""
    if version.parent_id is None or (version.parent_id in found and version.parent_id < version.version_id):
        return version
    older = [number for number, one in found.items() if one.job_id == version.job_id and number < version.version_id]
    return replace(version, parent_id=max(older, default=None))


def write_out(found: Salvage, path: Path, unsaved_job: NewVersion | None = None, described: Described | None = None) -> None:
    """What was found into a new workshop file, and the job at work as it stands in memory.

    Raises StoreError: it cannot be written; nothing is there then.

    Parameters
    ----------
    unsaved_job : NewVersion or None; kept as the newest of its job
    described : callable or None; makes cards and words anew from documents; without it a lost card is a plain one
    """
    from violet_dial.store.workshop_file import WorkshopFile

    part = path.with_name(f".{path.name}.part")
    part.unlink(missing_ok=True)
    try:
        file = WorkshopFile(part)
        try:
            file.take_over(found, described)
            if unsaved_job is not None and not found.holds(unsaved_job):
                if unsaved_job.card.job_id in found.job_ids:
                    file.keep(unsaved_job)
                else:
                    file.add_job(unsaved_job)
        finally:
            file.close()
        place(part, path, beside=False)
    except OSError as error:
        raise StoreFull(f"{path} cannot be written: {error.strerror}.") from error
    finally:
        part.unlink(missing_ok=True)
