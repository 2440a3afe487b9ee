"""New files put in their place: for one's own eyes, never through a link, never over something else."""

import contextlib
import itertools
import os
from pathlib import Path

PRIVATE_FILE, PRIVATE_FOLDER = 0o600, 0o700


def private_file(path: Path) -> None:
    """A new empty file that only its owner may read; what stood there before is unlinked, never written through.

    Raises OSError: it cannot be made.
    """
    path.unlink(missing_ok=True)
    os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_RDWR | os.O_CLOEXEC, PRIVATE_FILE))


def free_name(path: Path) -> Path:
    """The path, or where something stands there, one with a number before its ending."""
    names = (path.with_name(f"{path.stem}-{count}{path.suffix}") for count in itertools.count(2))
    return next(name for name in itertools.chain((path,), names) if not os.path.lexists(name))


def place(part: Path, wanted: Path, beside: bool = True) -> Path:
    """Give a finished file its name; where that is taken, a free one beside, if that will do.

    Raises OSError: it cannot be done, or the name is taken and no other will do; the finished file is gone then.
    """
    sync(part)
    try:
        while True:
            target = free_name(wanted) if beside else wanted
            try:
                os.link(part, target)
            except FileExistsError:
                if not beside:
                    raise
                continue  # it came between looking and placing
            except OSError:  # a file system without links
                part.rename(target)
            sync(target.parent)
            return target
    finally:
        part.unlink(missing_ok=True)


def sync(path: Path) -> None:
    """Wait until a file or a folder is on the disk."""
    with contextlib.suppress(OSError):
        descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)
