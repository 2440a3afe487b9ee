"""The commands that look after a workshop file: ``backup``, ``restore``, ``doctor``."""

from argparse import Namespace
from datetime import datetime
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.services.places import own_workshop
from violet_dial.services.station import Command, Option
from violet_dial.store.backups import Backup, back_up, backups_of, restore


def _workshop(options: Namespace) -> Path:
    path: Path = options.workshop or own_workshop()
    if not path.is_file():
        raise InvalidInput("--workshop", str(path), "a workshop file; make one by opening it in the window")
    return path


BACKUP_ARGUMENTS = (Option(("-o", "--output"), "where to (default: among the workshop's backups)", "FILE", type=Path),)


def _backup(options: Namespace) -> int:
    if options.output is not None and options.output.exists():
        raise InvalidInput("--output", str(options.output), "a name that is not taken")
    print(f"written: {back_up(_workshop(options), datetime.now(), options.output)}")
    return 0


RESTORE_ARGUMENTS = (Option("backup", "name or path of a backup, or 'newest'; without it they are listed", nargs="?"),)


def _restore(options: Namespace) -> int:
    workshop = options.workshop or own_workshop()
    there = backups_of(workshop)
    if options.backup is None:
        lines = (f"{one.said(datetime.now())}   {one.path.name}" for one in there)
        print("\n".join(lines) or f"There is no backup of {workshop} yet.")
        return 0
    aside = restore(workshop, _chosen(options.backup, there), datetime.now())
    print(f"brought back: {workshop}")
    if aside is not None:
        print(f"what stood there is now: {aside}")
    return 0


def _chosen(wanted: str, there: tuple[Backup, ...]) -> Path:
    if wanted == "newest" and there:
        return there[0].path
    named = next((one.path for one in there if one.path.name == wanted), Path(wanted))
    if not named.is_file():
        raise InvalidInput("Backup", wanted, "'newest', or one of those listed by: violet-dial restore")
    return named


DOCTOR_ARGUMENTS = (
    Option("file", "the workshop file (default: one's own)", type=Path, nargs="?"),
    Option("--salvage", "write all that can be read into a new workshop file", "NEW", type=Path),
)


def _doctor(options: Namespace) -> int:
    from violet_dial.services.upkeep import examine, said, salvage

    path = options.file or _workshop(options)
    if options.salvage is None:
        found = examine(path)
        print("\n".join(said(found)))
        if found.hurt:
            print(f"To save what can be read: violet-dial doctor '{path}' --salvage NEW.violet")
        return 2 if found.hurt else 0
    from violet_dial.stations import STATIONS

    print("\n".join((f"written: {options.salvage}", *said(salvage(path, options.salvage, STATIONS)))))
    return 0


COMMANDS = (
    Command("backup", "a whole copy of the workshop, also while it is open", BACKUP_ARGUMENTS, _backup),
    Command("restore", "bring a backup back; what stands there now is put beside", RESTORE_ARGUMENTS, _restore),
    Command("doctor", "look a workshop file over; save what can be read of a hurt one", DOCTOR_ARGUMENTS, _doctor),
)
