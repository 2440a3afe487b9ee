"""The hold on a workshop file: who may write it, and whether the file at the path is still the one that is open.

The lock is on the file itself, not on one beside it, so it holds through links and other names, and leaves nothing behind.
"""

import contextlib
import fcntl
import os
import stat
import struct
import zlib
from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.errors import StoreDamaged, StoreReadOnly

MAGIC = b"SQLite format 3\0"
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
    """An open descriptor of the workshop file, locked where it may be written.

    Parameters
    ----------
    path : Path; the file must be there
    """

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
