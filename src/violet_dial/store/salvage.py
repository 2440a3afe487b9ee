"""A hurt workshop file brought to a new one: every version, job and photo that can still be read."""

import contextlib
import hashlib
import struct
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from violet_dial.core.errors import StoreFull
from violet_dial.store import packed
from violet_dial.store.pages import Value, pages_of
from violet_dial.store.placing import place
from violet_dial.store.records import Card, Description, NewVersion

Described = Callable[
    [bytes, Card], tuple[Card, Description | None]
]  # a document and the card found -> the same made anew
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
    return (
        len(row) == BLOB_COLUMNS
        and isinstance(row[0], str)
        and len(row[0]) == SHA256_CHARACTERS
        and isinstance(row[2], bytes)
    )


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


def write_out(
    found: Salvage, path: Path, unsaved_job: NewVersion | None = None, described: Described | None = None
) -> None:
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
