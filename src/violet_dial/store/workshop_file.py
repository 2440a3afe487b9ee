"""The workshop file: one SQLite database, one durable transaction per act.

Every version of a job is kept. ``current_id`` points to the version on the bench, ``top_id`` to the newest of its
line; undo and redo only move ``current_id``. A version is kept whole, or as what changed since a whole one.
"""

import contextlib
import hashlib
import sqlite3
import struct
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path

from violet_dial.core.errors import RecordMissing, StoreDamaged
from violet_dial.store import job_rows, packed, rescue
from violet_dial.store.connection import Connection, Role
from violet_dial.store.records import Card, Description, KeptVersion, LogRow, NewVersion
from violet_dial.store.salvage import Described, Salvage

MOST_LOG_ROWS = 1_000
MOST_UNSETTLED = 200  # acts after which the file is made whole, also while work goes on
MOST_SEARCHED, MOST_WORDS = 300, 12  # characters and words of a search


_LINE = (
    "WITH RECURSIVE line(id) AS (SELECT top_id FROM job WHERE job_id = ? UNION "
    "SELECT v.parent_id FROM version v JOIN line ON v.version_id = line.id WHERE v.parent_id IS NOT NULL)"
)


_CARD = "job_id, number, title, headline, waits_for, finding, kept_at, shelf, shelved_at"


class WorkshopFile:
    """Jobs, versions and photos in one file. Use it in the thread that opened it.

    Raises StoreError: as `Connection` says; every method may raise it, and then the act was not kept.
    """

    def __init__(self, path: Path, role: Role = "owner") -> None:
        self._link = Connection(path, role)
        self._whole: tuple[str, int, bytes] | None = None  # the whole version read or kept last, and whose it is
        self._there: set[str] = set()  # contents that are known to be kept
        self._unsettled = 0  # acts since the file was last whole
        self.notice = ""  # what became of the file, to be said until it is read
        self.unsaved_job: Callable[[], NewVersion | None] = lambda: None  # the job at work, should the file be lost

    @property
    def path(self) -> Path:
        """Where the workshop is kept; another place once the file was lost and written again."""
        return self._link.path

    @property
    def read_only_reason(self) -> str:
        """Why nothing may be kept; empty when all is well."""
        return self._link.read_only_reason

    def close(self) -> None:
        """Let go of the file; it is whole then, and alone."""
        if self._link.trouble():
            self._link.leave()
        else:
            self._link.close()

    def settle(self) -> None:
        """Make the one file the whole workshop, when something was kept since it last was."""
        self.make_sure()
        if self._unsettled and self._link.settle():
            self._unsettled = 0

    def changed_beside(self) -> None:
        """Another connection of this process kept something: the file is not whole until it is settled."""
        self._unsettled += 1

    def copy_to(self, whole: Path) -> Path:
        """A whole copy of the workshop as it now stands, by the database's own call; over what is there."""
        return self._link.copy_to(whole)

    def faults(self) -> tuple[str, ...]:
        """What the database's own check of the whole file finds, in sentences; empty when it is sound."""
        with self._link.translated():
            found = self._link.db.execute("PRAGMA integrity_check(5)").fetchall()
            hurt = () if found[0][0] == "ok" else ("The pages of the file do not fit together.",)
            orphans = self._link.db.execute(
                "SELECT count(*) FROM job WHERE current_id NOT IN (SELECT version_id FROM version)"
            ).fetchone()[0]
        return (*hurt, *((f"{orphans} jobs have lost the version on the bench.",) if orphans else ()))

    def make_sure(self) -> None:
        """Where the file at the path is not the one that is open any more, write what is held into a new one beside and go on
        there; ``notice`` says so. Raises StoreError: that cannot be done either: nothing is kept until it can.
        """
        what = self._link.trouble()
        if not what:
            return
        old = self._link.path
        self._link = rescue.go_on_elsewhere(self._link, self.unsaved_job)
        self._whole = None
        self._there.clear()
        where = "it was written again" if self.path == old else f"what is held was written into {self.path.name} beside"
        self.notice = f"The workshop file {old.name} {what} while it was open: {where}, and is kept there from now on."

    @contextlib.contextmanager
    def _keeping(self, durable: bool = True) -> Iterator[sqlite3.Connection]:
        """One transaction in a file that is known to be the one at the path, before and after it."""
        self.make_sure()
        with self._link.transaction(durable):
            yield self._link.db
        self._unsettled += 1
        if self._unsettled > MOST_UNSETTLED:
            self.settle()
        else:
            self.make_sure()

    def next_number(self) -> int:
        """The number for the next job tag."""
        with self._link.translated():
            return int(self._link.db.execute("SELECT coalesce(max(number), 0) + 1 FROM job").fetchone()[0])

    def add_job(self, new: NewVersion) -> None:
        """Keep the first version of a new job and the contents that belong to it, all or nothing."""
        self.add_jobs([new])

    def add_jobs(self, many: list[NewVersion]) -> None:
        """Keep the first versions of many new jobs in one durable transaction."""
        with self._keeping() as db:
            for new in many:
                self._put_contents(db, new)
                job_rows.add(db, new)
        self._note_contents(*many)

    def _put_contents(self, db: sqlite3.Connection, new: NewVersion) -> None:
        """Contents of a version that are not kept yet, in its transaction."""
        rows = ((sha256, *content) for sha256, content in new.contents.items() if sha256 not in self._there)
        db.executemany("INSERT OR IGNORE INTO blob VALUES (?, ?, ?)", rows)

    def _note_contents(self, *several: NewVersion) -> None:
        """They are on the disk: no later version brings them again."""
        for new in several:
            self._there.update(new.contents)

    def keep(self, new: NewVersion) -> int:
        """Keep the next version of a job, durable on return; gives its identity."""
        with self._keeping() as db:
            row, current = job_rows.row_and_current(db, new.card.job_id)
            self._put_contents(db, new)
            data, base_id = self._leaning(new, current)
            version_id = job_rows.insert_version(db, new, current, (data, base_id))
            job_rows.point(db, row, version_id, new.card)
            db.execute("UPDATE job SET top_id = ? WHERE row = ?", (version_id, row))
        self._note_contents(new)
        if base_id is None:
            self._whole = (new.card.job_id, version_id, new.document)
        return version_id

    def keep_anew(self, new: NewVersion) -> int:
        """Keep the version on the bench anew, when it is the newest and nothing leans on it; else the next one."""
        current = self.current(new.card.job_id)
        with self._keeping() as db:
            row, _ = job_rows.row_and_current(db, new.card.job_id)
            leaning = db.execute(
                "SELECT 1 FROM version WHERE base_id = ? OR parent_id = ?", (current.version_id, current.version_id)
            ).fetchone()
            if leaning is None and current.parent_id is not None:
                self._put_contents(db, new)
                if self._whole is not None and self._whole[1] == current.version_id:
                    self._whole = None
                data, base_id = self._leaning(new, current.parent_id)
                db.execute(
                    "UPDATE version SET kept_at = ?, reason = ?, document = ?, base_id = ? WHERE version_id = ?",
                    (new.card.kept_at, new.reason, data, base_id, current.version_id),
                )
                job_rows.point(db, row, current.version_id, new.card)
                db.execute("UPDATE job SET described_id = 0 WHERE row = ?", (row,))
                return current.version_id
        return self.keep(new)

    def _leaning(self, new: NewVersion, parent: int) -> tuple[bytes, int | None]:
        """The document packed, and the whole version it leans on; None when it is kept whole itself. That is the whole one of the
        job read or kept last, also one that was undone, or the one its parent leans on."""
        with contextlib.suppress(RecordMissing, StoreDamaged):  # what cannot be read is not to be leaned on
            base_id, base = self._base(new.card.job_id, parent)
            leaning, size = self._link.db.execute(
                "SELECT (SELECT count(*) FROM version WHERE base_id = ?1), length(document) FROM version WHERE version_id = ?1",
                (base_id,),
            ).fetchone() or (0, 0)
            changed = packed.change(new.document, base) if leaning < packed.MOST_LEANING else None
            if changed is not None and len(changed) <= packed.WORTH * size:
                return changed, base_id
        return packed.packed(new.document), None

    def _base(self, job_id: str, parent: int) -> tuple[int, bytes]:
        if self._whole is None or self._whole[0] != job_id:
            found = self._link.db.execute("SELECT base_id FROM version WHERE version_id = ?", (parent,)).fetchone()
            base_id = parent if found is None or found[0] is None else int(found[0])
            self._whole = (job_id, base_id, self.document(base_id))
        return self._whole[1:]

    def describe(self, job_id: str, version_id: int, told: Description) -> bool:
        """Keep what was worked out of a version, while it is the one on the bench; False when it no longer is. What a power cut
        takes of this is worked out again."""
        with self._keeping(durable=False) as db:
            return job_rows.describe(db, job_id, version_id, told)

    def undescribed(self) -> tuple[str, ...]:
        """The jobs whose card is still that of another version, oldest first."""
        with self._link.translated():
            rows = self._link.db.execute("SELECT job_id FROM job WHERE described_id <> current_id ORDER BY row")
            return tuple(row[0] for row in rows)

    def step(self, job_id: str, to_version: int, card: Card, on_line: bool = True) -> None:
        """Move the bench to another version, durable on return: along its line (undo, redo), or to the top of another."""
        with self._keeping() as db:
            row, _ = job_rows.row_and_current(db, job_id)
            job_rows.point(db, row, to_version, card)
            if not on_line:
                db.execute("UPDATE job SET top_id = ? WHERE row = ?", (to_version, row))

    def current(self, job_id: str) -> KeptVersion:
        """The version on the bench."""
        self.make_sure()
        with self._link.translated():
            found = self._link.db.execute(
                "SELECT v.version_id, v.parent_id, v.kept_at, j.top_id FROM job j "
                "JOIN version v ON v.version_id = j.current_id WHERE j.job_id = ?",
                (job_id,),
            ).fetchone()
        if found is None:
            raise RecordMissing(f"There is no job {job_id} in this workshop.")
        return KeptVersion(found[0], found[1], found[2], found[0] != found[3])

    def document(self, version_id: int) -> bytes:
        """The document of any version. Raises RecordMissing, StoreDamaged: it is not there, or it cannot be unpacked."""
        with self._link.translated():
            found = self._link.db.execute(
                "SELECT v.document, b.document, v.base_id FROM version v LEFT JOIN version b ON b.version_id = v.base_id "
                "WHERE v.version_id = ?",
                (version_id,),
            ).fetchone()
        if found is None or (found[1] is None and found[2] is not None):
            raise RecordMissing(f"There is no version {version_id} in this workshop.")
        if not isinstance(found[0], bytes) or not isinstance(found[1], bytes | None):
            raise StoreDamaged(self._link.damaged(f"version {version_id} is no packed document"))
        try:
            return packed.unpacked(found[0], None if found[1] is None else packed.unpacked(found[1]))
        except (zlib.error, struct.error) as error:
            raise StoreDamaged(self._link.damaged(f"version {version_id} cannot be unpacked")) from error

    def log(self, job_id: str, most: int = MOST_LOG_ROWS) -> tuple[LogRow, ...]:
        """The acts of a job, newest first; those that are not behind where the bench stands are marked undone."""
        with self._link.translated():
            rows = self._link.db.execute(
                "WITH RECURSIVE recent AS (SELECT version_id, kept_at, station, reason FROM version WHERE job_id = ? "
                "ORDER BY version_id DESC LIMIT ?), "
                "behind(id) AS (SELECT current_id FROM job WHERE job_id = ? UNION "
                "SELECT v.parent_id FROM version v JOIN behind ON v.version_id = behind.id "
                "WHERE v.parent_id >= (SELECT min(version_id) FROM recent)) "
                "SELECT version_id, kept_at, station, reason, version_id NOT IN (SELECT id FROM behind) "
                "FROM recent ORDER BY version_id DESC",
                (job_id, most, job_id),
            ).fetchall()
        return tuple(LogRow(row[0], row[1], row[2], row[3], bool(row[4])) for row in rows)

    def forward(self, job_id: str) -> int | None:
        """The version that redo goes to: the next on the way from where the bench stands to the top; None at the top."""
        with self._link.translated():
            found = self._link.db.execute(
                f"{_LINE} SELECT v.version_id FROM version v JOIN line ON v.version_id = line.id "
                "WHERE v.parent_id = (SELECT current_id FROM job WHERE job_id = ?)",
                (job_id, job_id),
            ).fetchone()
        return int(found[0]) if found else None

    def on_line(self, job_id: str, version_id: int) -> bool:
        """Whether a version lies on the way from the first to the top: undo and redo reach it."""
        with self._link.translated():
            found = self._link.db.execute(f"{_LINE} SELECT 1 FROM line WHERE id = ?", (job_id, version_id)).fetchone()
        return found is not None

    def card(self, job_id: str) -> Card | None:
        """The card of one job; None when it is not here."""
        with self._link.translated():
            found = self._link.db.execute(f"SELECT {_CARD} FROM job WHERE job_id = ?", (job_id,)).fetchone()
        return Card(*found) if found else None

    def has_number(self, number: int) -> bool:
        """Whether a job tag has this number."""
        with self._link.translated():
            return self._link.db.execute("SELECT 1 FROM job WHERE number = ?", (number,)).fetchone() is not None

    def cards(self, search: str = "") -> tuple[Card, ...]:
        """Every job whose text has all the words searched for (each may be the start of a word), newest first."""
        words = ['"' + word.replace('"', '""') + '"*' for word in search[:MOST_SEARCHED].split()[:MOST_WORDS]]
        with self._link.translated():
            if words:
                sql = f"SELECT {_CARD} FROM job WHERE row IN (SELECT rowid FROM words WHERE words MATCH ?)"
                rows = self._link.db.execute(f"{sql} ORDER BY kept_at DESC", (" ".join(words),)).fetchall()
            else:
                rows = self._link.db.execute(f"SELECT {_CARD} FROM job ORDER BY kept_at DESC").fetchall()
        return tuple(map(Card._make, rows))

    def take_over(self, found: Salvage, described: Described | None = None) -> None:
        """Rows saved from another file, into this empty one, durable on return."""
        newest = max((int(row[2] or 0) for row in found.jobs.values()), default=0)
        with self._keeping() as db:
            for version in found.versions.values():
                db.execute("INSERT INTO version VALUES (?, ?, NULL, ?, ?, ?, ?, ?)", job_rows.version_row(version))
            for version in found.versions.values():
                db.execute("UPDATE version SET parent_id = ? WHERE version_id = ?", (version.parent_id, version.version_id))
            db.executemany("INSERT INTO blob VALUES (?, ?, ?)", found.contents())
            for job_id in found.job_ids:
                current, top = found.standing(job_id)
                card, told = found.card(job_id, newest + 1), None
                newest = max(newest, card.number)
                if described is not None:
                    card, told = described(found.document(current), card)
                job_rows.insert_job(db, card, (current, top))
                if told is not None:
                    job_rows.describe(db, job_id, current, told)

    def shelve(self, job_id: str, shelf: str, at: str) -> None:
        """Put a job on a shelf (`records.SHELVES`), or with an empty one back on the bench; its versions stay."""
        with self._keeping() as db:
            row, _ = job_rows.row_and_current(db, job_id)
            db.execute("UPDATE job SET shelf = ?, shelved_at = ? WHERE row = ?", (shelf, at if shelf else "", row))

    def remove(self, job_id: str) -> None:
        """Take a job with all its versions out of the file; nothing of its words is left in it."""
        with self._keeping() as db:
            row, _ = job_rows.row_and_current(db, job_id)
            db.execute("DELETE FROM job WHERE row = ?", (row,))
            db.execute("DELETE FROM words WHERE rowid = ?", (row,))
            db.execute("UPDATE version SET parent_id = NULL, base_id = NULL WHERE job_id = ?", (job_id,))
            db.execute("DELETE FROM version WHERE job_id = ?", (job_id,))
        self._whole = None

    def keep_blob(self, sha256: str, media_type: str, content: bytes) -> None:
        """Keep a photo's, a recording's or a file's content once, durable on return."""
        with self._keeping() as db:
            db.execute("INSERT OR IGNORE INTO blob VALUES (?, ?, ?)", (sha256, media_type, content))

    def blob(self, sha256: str) -> bytes:
        """Content by its hash. Raises RecordMissing, StoreDamaged: it is not there, or it is not any more what was kept."""
        with self._link.translated():
            found = self._link.db.execute("SELECT content FROM blob WHERE sha256 = ?", (sha256,)).fetchone()
        if found is None:
            raise RecordMissing(f"The content {sha256[:12]}… is not in this workshop.")
        content = found[0] if isinstance(found[0], bytes) else b""
        if hashlib.sha256(content).hexdigest() != sha256:
            raise StoreDamaged(
                f"The content {sha256[:12]}… is damaged: it is not what was kept. Bring it from a backup, or attach it again."
            )
        return content
