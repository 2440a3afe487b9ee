"""The connection to the workshop file: lock, opening checks, upgrade, transactions, and errors said plainly."""

import contextlib
import fcntl
import os
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from violet_dial.core.errors import SchemaTooNew, StoreDamaged, StoreError, StoreFull, StoreReadOnly
from violet_dial.store import tables

QUICK_CHECK_BYTES = 32_000_000  # a larger file is checked as it is read; the check would delay the start
BUSY_MS = 3_000


class Connection:
    """An open, checked and up-to-date workshop file. Use it in the thread that opened it.

    Parameters
    ----------
    path : Path; created with its folder when missing

    Raises
    ------
    StoreDamaged, SchemaTooNew, StoreReadOnly, StoreError
        Nothing is changed in the file when one of these is raised.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.read_only_reason = ""
        self._lock = self._take_lock()
        try:
            self.db = self._connect()
            self._prepare()
        except BaseException:
            self._drop_lock()
            raise

    def close(self) -> None:
        self.db.close()
        self._drop_lock()

    def _take_lock(self) -> IO[str] | None:
        """The lock beside the file tells a second instance that it may only look."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            lock = open(self.path.with_name(self.path.name + ".lock"), "w", encoding="utf-8")  # noqa: SIM115
        except OSError as error:
            if not self.path.exists():
                what = f"Cannot keep jobs in {self.path.parent}: {error.strerror}."
                raise StoreReadOnly(f"{what} Choose a folder you may write to.") from error
            self.read_only_reason = f"the folder {self.path.parent} may not be written to"
            return None
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.close()
            self.read_only_reason = "another Violet Dial has this workshop open"
            return None
        if self.path.exists() and not os.access(self.path, os.W_OK):
            self.read_only_reason = f"the file {self.path.name} may not be written to"
        return lock

    def _drop_lock(self) -> None:
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    def _connect(self) -> sqlite3.Connection:
        if self.path.exists() and 0 < self.path.stat().st_size < 512:
            raise StoreDamaged(f"{self.path} is too short to be a workshop file. It was left as it is.")
        with self.translated():
            if not self.read_only_reason:
                return sqlite3.connect(self.path, isolation_level=None, timeout=BUSY_MS / 1000)
            mode = "mode=ro" if os.access(self.path.parent, os.W_OK) else "immutable=1"
            uri = f"{self.path.absolute().as_uri()}?{mode}"
            return sqlite3.connect(uri, uri=True, isolation_level=None, timeout=BUSY_MS / 1000)

    def _prepare(self) -> None:
        with self.translated():
            application, version = self._pragma("application_id"), self._pragma("user_version")
            empty = self.db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0
            if not empty and application != tables.APPLICATION_ID:
                raise StoreDamaged(f"{self.path} is some other database. It was left as it is; choose another file.")
            if version > tables.SCHEMA_VERSION:
                raise SchemaTooNew(
                    f"{self.path.name} was made by a newer Violet Dial (schema {version}, this one knows "
                    f"{tables.SCHEMA_VERSION}). Nothing was changed; install the newer version to open it."
                )
            if not empty:
                self._check_sound()
            if self.read_only_reason:
                self._look_as_upgraded(version, empty)
                return
            self.db.execute("PRAGMA journal_mode = WAL")
            self.db.execute("PRAGMA synchronous = FULL")
            self.db.execute("PRAGMA foreign_keys = ON")
            self._create() if empty else self._upgrade(version)

    def _pragma(self, name: str) -> int:
        return int(self.db.execute(f"PRAGMA {name}").fetchone()[0])

    def _check_sound(self) -> None:
        if self.path.stat().st_size > QUICK_CHECK_BYTES:
            return
        found = self.db.execute("PRAGMA quick_check(1)").fetchone()[0]
        if found != "ok":
            raise StoreDamaged(self.damaged(str(found)))

    def damaged(self, detail: str) -> str:
        return (
            f"{self.path} is damaged ({detail.splitlines()[0]}). It was left as it is: copy it aside, "
            "then bring back your last copy or export."
        )

    def _create(self) -> None:
        with self.transaction():
            for statement in tables.CREATE.split(";"):
                if statement.strip():
                    self.db.execute(statement)
            self.db.execute(f"PRAGMA application_id = {tables.APPLICATION_ID}")
            self.db.execute(f"PRAGMA user_version = {tables.SCHEMA_VERSION}")

    def _upgrade(self, version: int) -> None:
        """Bring an older file up to date, after a whole copy of it was put beside it."""
        if version == tables.SCHEMA_VERSION:
            return
        self._back_up(self.path.with_name(f"{self.path.name}.before-{tables.SCHEMA_VERSION}"))
        with self.transaction():
            self._migrate(version)

    def _migrate(self, version: int) -> None:
        for step in range(version, tables.SCHEMA_VERSION):
            for statement in tables.MIGRATIONS[step].split(";"):
                self.db.execute(statement)
        self.db.execute(f"PRAGMA user_version = {tables.SCHEMA_VERSION}")

    def _look_as_upgraded(self, version: int, empty: bool) -> None:
        """An older file that may not be written is brought up to date in memory, to be looked at."""
        if empty or version == tables.SCHEMA_VERSION:
            return
        copy = sqlite3.connect(":memory:", isolation_level=None)
        self.db.backup(copy)
        self.db.close()
        self.db = copy
        self._migrate(version)

    def _back_up(self, whole: Path) -> None:
        """A whole copy under its name, or none: one that was cut off is never taken for a copy."""
        part = whole.with_name(f"{whole.name}.part")
        part.unlink(missing_ok=True)
        with contextlib.closing(sqlite3.connect(part)) as copy:
            self.db.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
        part.replace(whole)

    @contextlib.contextmanager
    def translated(self) -> Iterator[None]:
        """SQLite's errors become the product's at this one boundary."""
        try:
            yield
        except sqlite3.Error as error:
            raise self._named(error) from error

    def _named(self, error: sqlite3.Error) -> StoreError:
        name = getattr(error, "sqlite_errorname", "") or ""
        if name.startswith(("SQLITE_FULL", "SQLITE_IOERR")):
            return StoreFull(
                f"The disk is full or failing ({error}). The last act was not kept; free some space, try again."
            )
        if name.startswith(("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM")):
            return StoreReadOnly(f"{self.path} cannot be written ({error}). The last act was not kept.")
        if name.startswith("SQLITE_BUSY"):
            return StoreError(f"{self.path} is in use by another program. The last act was not kept; try again.")
        return StoreDamaged(self.damaged(str(error)))

    @contextlib.contextmanager
    def transaction(self) -> Iterator[None]:
        if self.read_only_reason:
            raise StoreReadOnly(f"Only looking: {self.read_only_reason}. Nothing was kept.")
        with self.translated():
            self.db.execute("BEGIN IMMEDIATE")
            try:
                yield
                self.db.execute("COMMIT")
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    self.db.execute("ROLLBACK")
                raise
