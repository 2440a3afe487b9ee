"""The connection to the workshop file: opening checks, upgrade, transactions, and errors said plainly."""

import contextlib
import fcntl
import logging
import os
import secrets
import sqlite3
import stat
import struct
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from violet_dial.core.errors import SchemaTooNew, StoreDamaged, StoreError, StoreFull, StoreReadOnly
from violet_dial.store import tables
from violet_dial.store.placing import PRIVATE_FOLDER, free_name, place, private_file

QUICK_CHECK_BYTES = 32_000_000  # a larger file is checked as it is read; the check would delay the start
BUSY_MS = 250  # another program that reads the file for longer is told of
LONGEST_NAME = 200  # characters; a log and a part stand beside the file under longer names
_log = logging.getLogger(__name__)
Role = Literal["owner", "looking", "beside"]


class Connection:
    """An open, checked and up-to-date workshop file. Use it in the thread that opened it.

    ``role``: "owner" holds the file; "looking" and "beside" look and write in a worker while the process holds it elsewhere.
    Raises StoreDamaged, SchemaTooNew, StoreReadOnly, StoreError: nothing is changed in the file when one of these is raised.
    """

    def __init__(self, path: Path, role: Role = "owner") -> None:
        self.path, self.closed = path, False
        self._check_name()
        if role == "owner":
            self._make_where_missing()
        self.hold = Hold(path) if role == "owner" else None
        self.read_only_reason = self.hold.why_looking if self.hold else "opened to be looked at" * (role == "looking")
        try:
            self._check_length()
            self.db = self._connect()
            try:
                self._prepare()
            except BaseException:
                self.db.close()
                raise
        except BaseException:
            if self.hold is not None:
                self.hold.close()
            raise
        self.note()
        if self.hold is not None and self._log_is_left():
            self.settle()  # by a process that was killed: the one file is whole from the start

    def _log_is_left(self) -> bool:
        log = self.path.with_name(f"{self.path.name}-wal")
        return log.exists() and log.stat().st_size > 0

    def close(self) -> None:
        """Let go of the file; what the log holds is in it then."""
        self.db.close()
        if self.hold is not None:
            self.hold.close()
        self.hold, self.closed = None, True

    def leave(self) -> None:
        """Let go of a file that is not ours any more: nothing is written into it, no log is taken away."""
        if self.hold is not None:
            self.hold.keep_log()
        self.close()

    def _check_name(self) -> None:
        if len(self.path.name.encode()) > LONGEST_NAME:
            raise StoreError(f"The name {self.path.name[:40]}… is too long: at most {LONGEST_NAME} bytes. Nothing was written.")
        if self.path.is_dir():
            raise StoreDamaged(f"{self.path} is a folder. Name a workshop file, as in {self.path / 'workshop.violet'}.")

    def _make_where_missing(self) -> None:
        """A new, whole workshop file where there is none, its folder too; never over something that came meanwhile."""
        if self.path.exists():
            return
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
            self._set_old_logs_aside()
            part = self.path.with_name(f".{self.path.name}.new")
            private_file(part)
            with contextlib.closing(sqlite3.connect(part, isolation_level=None)) as db:
                db.executescript(
                    f"BEGIN; {tables.CREATE} PRAGMA application_id = {tables.APPLICATION_ID}; "
                    f"PRAGMA user_version = {tables.SCHEMA_VERSION}; COMMIT;"
                )
            place(part, self.path, beside=False)
        except (OSError, sqlite3.Error) as error:
            if self.path.exists():
                return
            said = getattr(error, "strerror", None) or "it cannot be written"
            raise StoreReadOnly(f"Cannot keep jobs in {self.path.parent}: {said}. Choose a folder you may write to.") from error

    def _set_old_logs_aside(self) -> None:
        """A log without its file belongs to one that was renamed, perhaps open elsewhere: it is not ours to write over."""
        for ending in ("-wal", "-shm"):
            old = self.path.with_name(f"{self.path.name}{ending}")
            if old.exists():
                old.rename(free_name(old.with_name(f"{old.name}.left")))

    def _check_length(self) -> None:
        size = self.path.stat().st_size if self.path.exists() else 0
        if size < tables.SHORTEST_BYTES:
            said = "is empty (0 bytes)" if size == 0 else f"is too short ({size} bytes) to be a workshop file"
            raise StoreDamaged(f"{self.path} {said}. It was left as it is: bring back a backup, or name another file.")

    def _connect(self) -> sqlite3.Connection:
        with self.translated():
            if not self.read_only_reason:
                return sqlite3.connect(self.path, isolation_level=None, timeout=BUSY_MS / 1000)
            mode = "mode=ro" if os.access(self.path.parent, os.W_OK) else "immutable=1"
            uri = f"{self.path.absolute().as_uri()}?{mode}"
            return sqlite3.connect(uri, uri=True, isolation_level=None, timeout=BUSY_MS / 1000)

    def _prepare(self) -> None:
        with self.translated():
            application, version = self._pragma("application_id"), self._pragma("user_version")
            if application != tables.APPLICATION_ID:
                raise StoreDamaged(f"{self.path} is some other database. It was left as it is; choose another file.")
            if version > tables.SCHEMA_VERSION:
                raise SchemaTooNew(
                    f"{self.path.name} was made by a newer Violet Dial (schema {version}, this one knows "
                    f"{tables.SCHEMA_VERSION}). Nothing was changed; install the newer version to open it."
                )
            if version < 1:
                raise StoreDamaged(self.damaged(f"it says schema {version}; there are 1 to {tables.SCHEMA_VERSION}"))
            self._check_sound()
            if self.read_only_reason:
                self._look_as_upgraded(version)
                return
            self.db.execute("PRAGMA journal_mode = WAL")
            self.db.execute("PRAGMA synchronous = FULL")
            self.db.execute("PRAGMA foreign_keys = ON")
            self.db.execute("PRAGMA secure_delete = ON")
            self.db.execute("PRAGMA wal_autocheckpoint = 0")  # `settle` does it, so that it is known who wrote the file
            self._upgrade(version)

    def _pragma(self, name: str) -> int:
        return int(self.db.execute(f"PRAGMA {name}").fetchone()[0])

    def _check_sound(self) -> None:
        if self.path.stat().st_size > QUICK_CHECK_BYTES:
            return
        found = str(self.db.execute("PRAGMA quick_check(1)").fetchone()[0])
        if found != "ok" and self.hold is not None and self.hold.why_looking == IN_USE:
            raise StoreError(f"{self.path} is open in another Violet Dial under another name. Look at it there.")
        if found != "ok":
            _log.info("%s: %s", self.path.name, found)
            raise StoreDamaged(self.damaged("its pages do not fit together"))

    def damaged(self, detail: str) -> str:
        """The sentence for a file that is hurt."""
        return (
            f"{self.path} is damaged: {detail.splitlines()[0]}. It was left as it is: save what can be read into a new "
            "file, or bring back a backup."
        )

    def _upgrade(self, version: int) -> None:
        """Bring an older file up to date, after a whole copy of it was put beside it."""
        if version == tables.SCHEMA_VERSION:
            return
        self.copy_to(self.path.with_name(f"{self.path.name}.before-{tables.SCHEMA_VERSION}"))
        with self.transaction():
            self._migrate(version)

    def _migrate(self, version: int) -> None:
        for step in range(version, tables.SCHEMA_VERSION):
            for statement in tables.MIGRATIONS[step].split(";"):
                self.db.execute(statement)
        self.db.execute(f"PRAGMA user_version = {tables.SCHEMA_VERSION}")

    def _look_as_upgraded(self, version: int) -> None:
        """An older file that may not be written is brought up to date in memory, to be looked at."""
        if version == tables.SCHEMA_VERSION:
            return
        copy = sqlite3.connect(":memory:", isolation_level=None)
        self.db.backup(copy)
        self.db.close()
        self.db = copy
        self._migrate(version)

    def copy_to(self, whole: Path, over: bool = True) -> Path:
        """A whole copy under its name, or none: one that was cut off is never taken for a copy.

        Returns the name it got: where ``over`` is not set and the name is taken, one beside it.
        """
        part = whole.with_name(f".{whole.name}.{secrets.token_hex(4)}.part")  # another worker may copy in the same second
        try:
            private_file(part)
            with self.translated(), contextlib.closing(sqlite3.connect(part)) as copy:
                self.db.backup(copy)
                copy.execute("PRAGMA journal_mode = DELETE")
            if not over:
                return place(part, whole)
            part.replace(whole)
        except OSError as error:
            part.unlink(missing_ok=True)
            raise StoreFull(f"No copy could be written to {whole}: {error.strerror}.") from error
        except BaseException:
            part.unlink(missing_ok=True)
            raise
        return whole

    def settle(self) -> bool:
        """All that is in the log, into the file itself: from now on the one file is the whole workshop. Only its owner does
        that: to whom holds the file, a change by any other is a foreign one. False when it could not be done now (something
        reads, the disk is full): what was kept is safe in the log, and it is tried again."""
        if self.closed or self.hold is None or self.read_only_reason or self.trouble():
            return False
        try:
            self.db.execute("PRAGMA wal_checkpoint(PASSIVE)")
        except sqlite3.Error as error:
            _log.info("%s is not settled: %s", self.path.name, error)
            return False
        finally:
            self.note()  # also what was written before it failed was our own work
        return True

    def note(self) -> None:
        """Know the file as it is now for our own work."""
        if self.hold is not None and not self.hold.why_looking:
            self.hold.note()

    def trouble(self) -> str:
        """What became of the file at the path when it is not the one that is open any more; empty when it is."""
        if self.hold is None or self.read_only_reason:
            return ""
        return self.hold.moved() or self.hold.overwritten()

    @contextlib.contextmanager
    def translated(self) -> Iterator[None]:
        """SQLite's errors become the product's at this one boundary."""
        try:
            yield
        except sqlite3.Error as error:
            raise self._named(error) from error

    def _named(self, error: sqlite3.Error) -> StoreError:
        name = getattr(error, "sqlite_errorname", "") or ""
        _log.info("%s: %s (%s)", self.path.name, error, name)
        if name.startswith(("SQLITE_FULL", "SQLITE_IOERR")):
            return StoreFull("The disk is full or failing. The last act was not kept; free some space, try again.")
        if name.startswith(("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM")):
            return StoreReadOnly(f"{self.path} cannot be written. The last act was not kept.")
        if name.startswith(("SQLITE_BUSY", "SQLITE_LOCKED", "SQLITE_PROTOCOL")):
            return StoreError(f"{self.path} is in use by another program. The last act was not kept; try again.")
        if name.startswith("SQLITE_NOTADB"):
            return StoreDamaged(self.damaged("it does not begin as a workshop file does"))
        return StoreDamaged(self.damaged("what it holds does not fit together"))

    @contextlib.contextmanager
    def transaction(self, durable: bool = True) -> Iterator[None]:
        """All or nothing; ``durable`` when it is on the disk on return, and not only on its way there."""
        if self.read_only_reason:
            raise StoreReadOnly(f"Only looking: {self.read_only_reason}. Nothing was kept.")
        with self.translated():
            self.db.execute(f"PRAGMA synchronous = {'FULL' if durable else 'NORMAL'}")
            self.db.execute("BEGIN IMMEDIATE")
            try:
                yield
                self.db.execute("COMMIT")
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    self.db.execute("ROLLBACK")
                raise


HEAD_BYTES = 100
MOST_SUMMED_BYTES = 16_000_000  # larger files are known again by size and head alone
IN_USE = "another Violet Dial has this workshop open"


_SQLITE_SHARED = (0x40000000 + 2, 510)  # the bytes SQLite locks; held by us, no closing link may take down the log


@dataclass(frozen=True)
class _Seen:
    """The file as it was left by ourselves."""

    size: int
    changed_ns: int
    head: bytes
    sum: int | None


class Hold:
    """An open descriptor of the workshop file, locked where it may be written. ``path``: Path; the file must be there."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.why_looking = ""
        try:
            self._fd = os.open(path, os.O_RDWR | os.O_CLOEXEC | os.O_NONBLOCK)
        except OSError as error:
            self.why_looking = f"the file {path.name} may not be written to"
            try:
                self._fd = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
            except OSError:
                raise StoreReadOnly(f"{path} cannot be opened: {error.strerror}.") from error
        if not stat.S_ISREG(os.fstat(self._fd).st_mode):
            self.close()
            raise StoreDamaged(f"{path} is no plain file. Name a workshop file.")
        if not self.why_looking:
            self._lock()
        self._seen = self._look()

    def _lock(self) -> None:
        try:
            fcntl.flock(self._fd, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            self.why_looking = IN_USE
        except OSError as error:
            cannot = f"files in {self._path.parent} cannot be locked ({error.strerror})"
            self.why_looking = f"{cannot}; copy the workshop to a disk of this machine"

    def _look(self) -> _Seen:
        about = os.fstat(self._fd)
        found = None
        if about.st_size <= MOST_SUMMED_BYTES:
            found = zlib.crc32(os.pread(self._fd, about.st_size, 0))
        return _Seen(about.st_size, about.st_mtime_ns, os.pread(self._fd, HEAD_BYTES, 0), found)

    def note(self) -> None:
        """The file as it now is was left so by ourselves."""
        self._seen = self._look()

    def moved(self) -> str:
        """Whether the path no longer leads to the file that is open: what happened, in words; empty when it does."""
        mine = os.fstat(self._fd)
        try:
            there = os.stat(self._path)
        except OSError:
            return "was deleted or renamed"
        return "" if (there.st_dev, there.st_ino) == (mine.st_dev, mine.st_ino) else "was replaced by another file"

    def overwritten(self) -> str:
        """Whether something else wrote into the open file: what happened, in words; empty when nothing did."""
        about = os.fstat(self._fd)
        if (about.st_size, about.st_mtime_ns) == (self._seen.size, self._seen.changed_ns):
            return ""
        if about.st_size < self._seen.size:
            return "was cut short"
        now = self._look()
        if (now.size, now.head, now.sum) == (self._seen.size, self._seen.head, self._seen.sum):
            self._seen = now  # touched, not changed
            return ""
        return "was overwritten"

    def keep_log(self) -> None:
        """From now on, closing a link writes nothing into the file and takes no log away: both may be another's by now."""
        wanted = struct.pack("hhqqi4x", fcntl.F_RDLCK, os.SEEK_SET, *_SQLITE_SHARED, 0)
        with contextlib.suppress(OSError):
            fcntl.fcntl(self._fd, fcntl.F_OFD_SETLK, wanted)

    def close(self) -> None:
        """Let go; only after every link to the file is closed, since closing drops this process's locks on it."""
        os.close(self._fd)
