"""A workshop with all the stations of the line."""

from pathlib import Path

from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile


def open_workshop(path: Path) -> Workshop:
    """The workshop kept at ``path``, made when missing."""
    return Workshop(WorkshopFile(path), lambda: STATIONS)
