"""Backups of a workshop: made by the database's own call, kept by a rule, brought back without losing what is there now."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from violet_dial.core.errors import StoreDamaged, StoreError, StoreFull
from violet_dial.store.connection import Connection
from violet_dial.store.placing import PRIVATE_FOLDER, free_name, place, private_file, sync

FOLDER = "backups"
DAYS, WEEKS, MONTHS = 7, 4, 12  # the newest backup of so many days, weeks and months is kept
COPY_BYTES = 1 << 20
_STAMP = "%Y%m%d-%H%M%S"
_NAME = re.compile(r"\.(\d{8}-\d{6})(?:-(\d{1,9}))?\.violet\Z")


@dataclass(frozen=True)
class Backup:
    """One backup: where it is, when it was made (local time), how large it is."""

    path: Path
    made_at: datetime
    size_bytes: int

    def said(self, now: datetime) -> str:
        """When it was made, how long ago, how large it is."""
        days = (now.date() - self.made_at.date()).days
        ago = {0: "today", 1: "yesterday"}.get(days, f"{days} days ago" if days > 0 else "by a clock that was ahead")
        return f"{self.made_at:%Y-%m-%d  %H:%M}   {ago}   {max(self.size_bytes / 1e6, 0.1):.1f} MB"


def backups_of(workshop: Path) -> tuple[Backup, ...]:
    """Every backup of the workshop at this path, newest first."""
    found = []
    for path in (workshop.parent / FOLDER).glob("*.violet"):
        stamp = _NAME.search(path.name)
        if stamp is None or path.name[: stamp.start()] != workshop.stem or not path.is_file():
            continue
        try:
            made_at = datetime.strptime(stamp[1], _STAMP)
        except ValueError:
            continue
        number = int(stamp[2] or 1)  # of several in one second
        found.append((made_at, number, Backup(path, made_at, path.stat().st_size)))
    return tuple(backup for _, _, backup in sorted(found, key=lambda one: one[:2], reverse=True))


def is_due(workshop: Path, now: datetime) -> bool:
    """Whether the workshop has no backup of this day and was changed since the last one."""
    if not workshop.exists():
        return False
    made = backups_of(workshop)
    if not made:
        return True
    changed = max(one.stat().st_mtime for one in (workshop, workshop.with_name(f"{workshop.name}-wal")) if one.exists())
    return all(one.made_at.date() != now.date() for one in made) and changed > made[0].path.stat().st_mtime


def back_up(workshop: Path, now: datetime, to: Path | None = None) -> Path:
    """A whole copy of the workshop as it now stands, also while it is open; over a connection of its own.

    ``to``: Path or None; where to; without it among the backups of this workshop, and the old ones make room. Raises
    StoreError: the workshop cannot be read, or the copy cannot be written.
    """
    wanted = to or workshop.parent / FOLDER / f"{workshop.stem}.{now:{_STAMP}}.violet"
    try:
        wanted.parent.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
    except OSError as error:
        raise StoreFull(f"No backup could be written to {wanted.parent}: {error.strerror}.") from error
    link = Connection(workshop, "looking")
    try:
        made = link.copy_to(wanted, over=False)
    finally:
        link.close()
    if to is None:
        for one in superfluous(backups_of(workshop), now):
            one.path.unlink(missing_ok=True)
    return made


def superfluous(backups: Iterable[Backup], now: datetime) -> tuple[Backup, ...]:
    """Backups that the rule does not keep: it keeps all of today and the newest of each of the last days, weeks and months
    that have one.

    One from the future (a clock set back) is kept and counted as no day.
    """
    past = sorted((backup for backup in backups if backup.made_at <= now), key=lambda backup: backup.made_at, reverse=True)
    kept = {one.path for one in past if one.made_at.date() == now.date()}
    spans: tuple[tuple[Callable[[datetime], object], int], ...] = (
        (lambda at: at.date(), DAYS),
        (lambda at: at.isocalendar()[:2], WEEKS),
        (lambda at: (at.year, at.month), MONTHS),
    )
    for span_of, most in spans:
        newest: dict[object, Path] = {}
        for one in past:
            newest.setdefault(span_of(one.made_at), one.path)
        kept.update(list(newest.values())[:most])
    return tuple(one for one in past if one.path not in kept)


def restore(workshop: Path, backup: Path, now: datetime) -> Path | None:
    """Bring a backup back in place of the workshop, which must be closed; gives where the present one was put.

    Raises StoreError: the backup is no sound workshop file, the workshop is open elsewhere, or the disk is full; all stays as
    it was.
    """
    Connection(backup, "looking").close()
    part = workshop.with_name(f".{workshop.name}.part")
    try:
        workshop.parent.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
        _copied(backup, part)
        aside = _set_aside(workshop, now)
        place(part, workshop, beside=False)
    except OSError as error:
        raise StoreFull(f"{backup.name} could not be brought back: {error.strerror}. All is as it was.") from error
    finally:
        part.unlink(missing_ok=True)
    return aside


def _copied(whole: Path, part: Path) -> None:
    private_file(part)
    with open(whole, "rb") as source, open(part, "wb") as target:
        while piece := source.read(COPY_BYTES):
            target.write(piece)
    sync(part)


def _set_aside(workshop: Path, now: datetime) -> Path | None:
    """The present workshop under a name that says what it is; whole where it can be read, else as its files are."""
    if not workshop.exists():
        return None
    aside = free_name(workshop.with_name(f"{workshop.stem}.before-restore-{now:{_STAMP}}.violet"))
    try:
        link = Connection(workshop)
        busy = link.read_only_reason
        link.close()
    except StoreDamaged:
        busy = ""
    if busy:
        raise StoreError(f"Nothing was brought back: {busy}.")
    for ending in ("", "-wal", "-shm"):
        old = workshop.with_name(f"{workshop.name}{ending}")
        if old.exists():
            old.rename(aside.with_name(f"{aside.name}{ending}"))
    return aside
