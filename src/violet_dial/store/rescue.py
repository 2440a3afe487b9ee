"""A workshop file that was deleted, moved, replaced or overwritten while it was open: what is held goes into a new one."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from violet_dial.core.errors import StoreError, StoreFull
from violet_dial.store.connection import Connection
from violet_dial.store.placing import PRIVATE_FOLDER

if TYPE_CHECKING:
    from violet_dial.store.records import NewVersion


def go_on_elsewhere(link: Connection, unsaved_job: Callable[[], NewVersion | None]) -> Connection:
    """A new connection to a whole file that holds what ``link`` held; the file of ``link`` is left as it is.

    ``unsaved_job``: callable giving the job at work with its whole document, when there is one. Raises StoreError: no new file
    can be written; ``link`` stays as it was.
    """
    wanted = link.path.with_name(f"{link.path.stem}.rescued-{datetime.now():%Y%m%d-%H%M%S}{link.path.suffix}")
    try:
        wanted.parent.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
    except OSError as error:
        raise StoreFull(f"{link.path} is gone and {wanted.parent} cannot be written: {error.strerror}.") from error
    overwritten = link.hold is not None and link.hold.overwritten()
    return Connection(_salvaged(link, wanted, unsaved_job) if overwritten else _copied(link, wanted))


def _copied(link: Connection, wanted: Path) -> Path:
    """The open file is whole, only its name is lost: copied, under the old name where that is free."""
    with contextlib.suppress(StoreError), link.translated():
        link.db.execute("PRAGMA wal_checkpoint(PASSIVE)")  # whatever name it now has, it holds everything
    free = not os.path.lexists(link.path)
    link.copy_to(wanted)
    link.leave()
    if not free:
        return wanted
    for ending in ("-wal", "-shm"):
        link.path.with_name(f"{link.path.name}{ending}").unlink(missing_ok=True)
    try:
        os.link(wanted, link.path)
    except OSError:
        return wanted
    wanted.unlink()
    return link.path


def _salvaged(link: Connection, wanted: Path, unsaved_job: Callable[[], NewVersion | None]) -> Path:
    """The open file was written over: what its pages and its log still give, and the job at work."""
    from violet_dial.store.salvage import read_out, write_out

    held = unsaved_job()
    try:
        found = read_out(link.path)
    except (OSError, ValueError) as error:
        raise StoreFull(f"{link.path} was overwritten and cannot be read any more: {error}.") from error
    write_out(found, wanted, held)
    link.leave()
    return wanted
