"""The workshop: jobs opened, acts performed and kept, undone and redone; bundles and photos in and out.

The list of jobs needs no document, so the modules that read documents are imported when the first job is opened:
the window is up before they are loaded.
"""

from __future__ import annotations

import logging
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from violet_dial.core.errors import InvalidInput, StoreError, VioletDialError
from violet_dial.services.places import is_practice
from violet_dial.services.remembered import Answers
from violet_dial.store.records import DELETED, Card, LogRow, NewVersion
from violet_dial.store.workshop_file import WorkshopFile

if TYPE_CHECKING:
    from violet_dial.core.task import Task
    from violet_dial.job.act import Act, ActResult
    from violet_dial.job.document import Job, Photo
    from violet_dial.services.appraisal import Appraisal
    from violet_dial.services.photos import CheckedPhoto
    from violet_dial.services.station import Station

LOG_ROWS_SHOWN = 200
WASTEBASKET_DAYS = 30
LONGEST_REASON = 300  # characters of an act's line in the log
MOST_PARSED = 16  # versions in memory: one shares with the next all that did not change
MOST_VERSIONS_TRIED = 200  # while looking for one that can be read
_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class JobView:
    """A frozen view of one job: the document, which version it is, its log, what may be undone, when it was kept."""

    job: Job
    version_id: int
    log: tuple[LogRow, ...]
    can_redo: bool
    kept_at: str


def _now() -> str:
    return datetime.now().astimezone().isoformat(timespec="seconds")


def card_of(job: Job, kept_at: str, before: Card | None = None) -> Card:
    """The card with what stands in the document; what a job waits for and its finding are said later, by its description."""
    title = job.device.name or "Not described yet"
    told_apart = job.device.serial or job.intake.owner  # two of one name
    headline = " · ".join(part for part in (job.intake.headline_fault, told_apart) if part)
    told = (before.waits_for, before.finding) if before else (job.waits_for, "")
    shelf = (before.shelf, before.shelved_at) if before else ()
    return Card(job.job_id, job.number, title, headline, *told, kept_at, *shelf)


class Workshop:
    """The use cases over one workshop file.

    Parameters
    ----------
    stations : callable giving the stations of the line; called when the first document is read or kept
    clock : callable giving ISO 8601 text with offset
    """

    def __init__(self, file: WorkshopFile, stations: Callable[[], tuple[Station, ...]], clock: Callable[[], str] = _now) -> None:
        self._file = file
        self._stations = stations
        self._clock = clock
        # the versions read or kept last, so that none is parsed again on the way back and forth
        self._parsed = Answers(MOST_PARSED)
        # the job on the bench, should the file be lost; not one that was only looked up
        self._at_work: Job | None = None
        self._shown: dict[str, tuple[int, tuple[LogRow, ...]]] = {}  # the log of the job that was seen last, and of which version
        self._typed_on: tuple[str, int, Job] | None = None  # the act that grows: its name, version, the job before it
        file.unsaved_job = self._unsaved_job

    def close(self) -> None:
        self._file.close()

    def again(self) -> Workshop:
        """The same workshop opened again after it was closed. Raises StoreError."""
        return Workshop(WorkshopFile(self.path), self._stations, self._clock)

    def settle(self) -> None:
        """Make the one file the whole workshop; where it was lost, write it anew and say so in `notice`. Raises StoreError."""
        self._file.settle()

    @property
    def notice(self) -> str:
        """What became of the workshop file while it was open; empty when all is well."""
        return self._file.notice

    def notice_read(self) -> None:
        """The person knows what became of the file; it is not said again."""
        self._file.notice = ""

    def changed_beside(self) -> None:
        """Another connection of this process kept something in the file: it is made whole at the next rest."""
        self._file.changed_beside()

    def _unsaved_job(self) -> NewVersion | None:
        """The job at work as it stands in memory."""
        job = self._at_work
        return None if job is None else self._version(job, job, "Job", "Saved when the workshop file was lost")

    @property
    def read_only_reason(self) -> str:
        """Why nothing may be kept; empty when all is well."""
        return self._file.read_only_reason

    @property
    def path(self) -> Path:
        return self._file.path

    @property
    def stations(self) -> tuple[Station, ...]:
        """The stations of the line, in the order of the work."""
        return self._stations()

    def cards(self, search: str = "") -> tuple[Card, ...]:
        """Cards of all jobs that have every searched word, newest first."""
        return self._file.cards(search)

    def view(self, job_id: str) -> JobView:
        """The job as it stands on the bench.

        Raises InvalidInput, StoreError: it cannot be read; `readable` offers older versions.
        """
        kept = self._file.current(job_id)
        log = self._file.log(job_id, LOG_ROWS_SHOWN)
        self._at_work = job = self._job_of(kept.version_id)
        return self._seen(job_id, JobView(job, kept.version_id, log, kept.can_redo, kept.kept_at))

    def read(self, job_id: str) -> Job:
        """A job that is only looked up: the one at work stays the one at work.

        Raises InvalidInput, StoreError: it cannot be read.
        """
        from violet_dial.job.schema import job_from_json

        return job_from_json(self._file.document(self._file.current(job_id).version_id), self._file.blob)

    def _job_of(self, version_id: int) -> Job:
        from violet_dial.job.schema import job_from_json

        job: Job | None = self._parsed.get((self.path, version_id))
        if job is None:
            job = job_from_json(self._file.document(version_id), self._file.blob)
            self._parsed.put((self.path, version_id), job)
        return job

    def trouble(self, job_id: str) -> str:
        """Why a job cannot be read, in a sentence; empty when it can."""
        try:
            self.read(job_id)
        except VioletDialError as error:
            return str(error)
        return ""

    def readable(self, job_id: str) -> tuple[LogRow, ...]:
        """Acts of a job after which it can be read, newest first; for one that cannot be read as it stands."""
        from violet_dial.job.schema import job_from_json

        found = []
        for row in self._file.log(job_id)[:MOST_VERSIONS_TRIED]:
            try:
                job_from_json(self._file.document(row.version_id))
            except VioletDialError:
                continue
            found.append(row)
        return tuple(found)

    def new_job(self) -> JobView:
        """An empty job with the next number."""
        from violet_dial.job.document import Job

        job = Job(job_id=uuid.uuid4().hex, number=self._file.next_number())
        self._file.add_job(self._version(None, job, "Job", "Job opened"))
        return self.view(job.job_id)

    @contextmanager
    def beginning(self) -> Iterator[str]:
        """A new job, by its identity, that is begun within; nothing is left of it where anything fails there."""
        job_id = self.new_job().job.job_id
        try:
            yield job_id
        except BaseException:
            self.remove(job_id)
            raise

    def perform(self, job_id: str, act: Act, burst: str = "") -> JobView:
        """Perform one act on the job and keep it; durable when this returns, and nothing is judged before: `describe` does that.

        ``burst`` names what is typed on and on: with the same one as the last act of this job, that act is kept anew in its
        place instead of another after it, so that a text typed in one go is undone in one. Raises InvalidInput: the act cannot
        be done, or what it gives could not be read again; nothing is kept then.
        """
        kept = self._file.current(job_id)
        before = self._job_of(kept.version_id)
        now = self._clock()
        grows = burst and self._typed_on is not None and self._typed_on[:2] == (burst, kept.version_id)
        began = self._typed_on[2] if grows and self._typed_on else before
        done = self._counted(began, act(began, now), now)
        if done.job == before:
            return self.view(job_id)
        version = self._version(began, done.job, done.station, done.reason)
        version_id = self._file.keep_anew(version) if grows else self._file.keep(version)
        self._typed_on = (burst, version_id, began)
        self._at_work = done.job
        self._parsed.put((self.path, version_id), done.job)
        log, row = self._shown.get(job_id), LogRow(version_id, version.card.kept_at, version.station, version.reason, False)
        follows = log is not None and not grows and log[0] == kept.version_id
        rows = (row, *log[1][: LOG_ROWS_SHOWN - 1]) if log and follows else self._file.log(job_id, LOG_ROWS_SHOWN)
        return self._seen(job_id, JobView(done.job, version_id, rows, False, version.card.kept_at))

    def _seen(self, job_id: str, view: JobView) -> JobView:
        """The log of a view is remembered: an act puts one row on top of it."""
        self._shown = {job_id: (view.version_id, view.log)}
        return view

    def _counted(self, before: Job, done: ActResult, at: str) -> ActResult:
        """What was read at a station in an exercise counts there, in the same act."""
        if not before.practising.is_open:
            return done
        from violet_dial.services.station import exercises_of

        exercises = exercises_of(self.stations)
        try:
            return exercises.counted(before, done, at) if exercises is not None else done
        except Exception:  # noqa: BLE001 - what counts is judged; the act itself is kept whatever becomes of that
            _log.exception("what was read in an exercise could not be counted")
            return done

    def drop_untouched(self, job_id: str) -> bool:
        """A job that was opened and left as it was leaves nothing behind; True when it was one."""
        from violet_dial.job.document import Job

        if self.read_only_reason or len(self._file.log(job_id, 2)) != 1:
            return False
        job = self._job_of(self._file.current(job_id).version_id)
        if job != Job(job_id=job.job_id, number=job.number):
            return False
        self.remove(job_id)
        return True

    def remove(self, job_id: str) -> None:
        """Take a job out of the workshop with all its versions."""
        self._parsed.forget()  # numbers of versions come again
        self._typed_on = self._at_work = None
        self._file.remove(job_id)

    def shelve(self, job_id: str, shelf: str) -> None:
        """Put a job on a shelf (`store.records.SHELVES`), or with an empty one back on the bench."""
        self._file.shelve(job_id, shelf, self._clock())

    def empty_wastebasket(self) -> int:
        """Remove the jobs that were deleted over `WASTEBASKET_DAYS` ago; gives how many."""
        before = (datetime.fromisoformat(self._clock()) - timedelta(days=WASTEBASKET_DAYS)).isoformat()
        old = [card for card in self.cards() if card.shelf == DELETED and card.shelved_at < before]
        for card in old:
            self.remove(card.job_id)
        return len(old)

    def undo(self, job_id: str) -> JobView:
        """One act back; nothing is lost, `redo` brings it again."""
        kept = self._file.current(job_id)
        if kept.parent_id is None:
            raise InvalidInput("Undo", "the first act", "an act before it")
        return self._step(job_id, kept.parent_id)

    def redo(self, job_id: str) -> JobView:
        """The act that was undone last, done again."""
        version_id = self._file.forward(job_id)
        if version_id is None:
            raise InvalidInput("Redo", "the newest act", "an act that was undone")
        return self._step(job_id, version_id)

    def stand_at(self, job_id: str, version_id: int) -> JobView:
        """The job as it stood after any act in its log, also one that was undone and left aside; nothing is lost."""
        if all(row.version_id != version_id for row in self._file.log(job_id)):
            raise InvalidInput("Log", version_id, "an act of this job")
        return self._step(job_id, version_id, self._file.on_line(job_id, version_id))

    def _step(self, job_id: str, version_id: int, on_line: bool = True) -> JobView:
        job = self._job_of(version_id)
        self._file.step(job_id, version_id, card_of(job, self._clock()), on_line)
        return self.view(job_id)

    def describe(self, job_id: str, appraisal: Appraisal) -> bool:
        """Keep what the stations say of the version on the bench; False when it is another one by now."""
        return self._file.describe(job_id, appraisal.version_id, appraisal.told)

    def undescribed(self) -> tuple[str, ...]:
        """Jobs whose card is of another version; none where nothing may be kept."""
        return () if self.read_only_reason else self._file.undescribed()

    def describe_pending(self, task: Task | None = None) -> int:
        """Describe every job whose card is of another version; gives how many. One that cannot be read keeps its card.

        Raises StoreError, TaskCancelled.
        """
        from violet_dial.services.appraisal import appraise

        count = 0
        for job_id in self.undescribed():
            if task is not None:
                task.check()
            try:
                kept = self._file.current(job_id)
                appraisal = appraise(self.read(job_id), kept.version_id, self.stations)
            except VioletDialError:
                continue
            count += self.describe(job_id, appraisal)
        return count

    def _version(self, before: Job | None, job: Job, station: str, reason: str) -> NewVersion:
        """The next version, after it was made sure that it can be read again."""
        from violet_dial.job.schema import check_kept, job_to_kept

        data, contents = job_to_kept(job)
        check_kept(before, job, len(data))
        line = reason if len(reason) <= LONGEST_REASON else f"{reason[: LONGEST_REASON - 1]}…"
        return NewVersion(card_of(job, self._clock()), station, line, data, contents)

    def attach_photo(self, job_id: str, checked: CheckedPhoto) -> JobView:
        """Keep a checked photo's content and put it into the job."""
        from violet_dial.services.photos import add_photo

        record = checked.record
        self._file.keep_blob(record.sha256, record.media_type, checked.content)
        return self.perform(job_id, lambda job, at: add_photo(job, record, at))

    def blob(self, sha256: str) -> bytes:
        """Content of a photo."""
        return self._file.blob(sha256)

    def export_bundle(self, job_id: str) -> bytes:
        """The job with what its stations hold and its photos as a zip."""
        from violet_dial.job.bundle import Bundle, write_bundle

        job = self.read(job_id)
        photos = {photo.sha256: self._photo_content(photo) for photo in job.photos}
        members = tuple(member for station in self.stations for member in station.members(job))
        return write_bundle(Bundle(job, photos), members)

    def _photo_content(self, photo: Photo) -> bytes:
        try:
            return self._file.blob(photo.sha256)
        except StoreError as error:
            raise StoreError(f"The photo {photo.file_name} cannot be written: {error}") from error

    def import_bundle(self, data: bytes) -> JobView:
        """A job from a bundle; under a new number when its own is taken, refused when it is already here."""
        from violet_dial.job.bundle import read_bundle

        bundle = read_bundle(data)
        job = bundle.job
        if job.practising.is_one != is_practice(self.path):
            what, where = ("an exercise", "practice") if job.practising.is_one else ("a job", "the jobs")
            raise StoreError(f"The bundle is {what}: take it in at {where} (Ctrl+Shift+P). Nothing was imported.")
        there = self._file.card(job.job_id)
        if there is not None:
            where = " (in the wastebasket)" if there.shelf == DELETED else ""
            raise StoreError(f"Job {job.label} is already in this workshop{where}; the bundle was not imported.")
        if self._file.has_number(job.number):
            job = replace(job, number=self._file.next_number())
        version = self._version(None, job, "Job", "Imported from a bundle")
        photos = {photo.sha256: (photo.media_type, bundle.photos[photo.sha256]) for photo in job.photos}
        self._file.add_job(replace(version, contents={**version.contents, **photos}))
        return self.view(job.job_id)
