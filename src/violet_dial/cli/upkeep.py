"""The commands that look after a workshop file: ``backup``, ``restore``, ``doctor``."""

from argparse import ArgumentParser, Namespace
from datetime import datetime
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.services.places import own_workshop
from violet_dial.services.station import Command
from violet_dial.store.backups import Backup, back_up, backups_of, restore


def _workshop(options: Namespace) -> Path:
    path: Path = options.workshop or own_workshop()
    if not path.is_file():
        raise InvalidInput("--workshop", str(path), "a workshop file; make one by opening it in the window")
    return path


def _backup_arguments(parser: ArgumentParser) -> None:
    parser.add_argument(
        "-o", "--output", type=Path, metavar="FILE", help="where to (default: among the workshop's backups)"
    )


def _backup(options: Namespace) -> int:
    if options.output is not None and options.output.exists():
        raise InvalidInput("--output", str(options.output), "a name that is not taken")
    print(f"written: {back_up(_workshop(options), datetime.now(), options.output)}")
    return 0


def _restore_arguments(parser: ArgumentParser) -> None:
    parser.add_argument("backup", nargs="?", help="name or path of a backup, or 'newest'; without it they are listed")


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


def _doctor_arguments(parser: ArgumentParser) -> None:
    parser.add_argument("file", type=Path, nargs="?", help="the workshop file (default: one's own)")
    parser.add_argument(
        "--salvage", type=Path, metavar="NEW", help="write all that can be read into a new workshop file"
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
    Command("backup", "a whole copy of the workshop, also while it is open", _backup_arguments, _backup),
    Command("restore", "bring a backup back; what stands there now is put beside", _restore_arguments, _restore),
    Command("doctor", "look a workshop file over; save what can be read of a hurt one", _doctor_arguments, _doctor),
)
