"""Builds the demo workshop through the services, act by act, as a technician would have."""

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from violet_dial.demo.story import Telling, stories
from violet_dial.services.station import Station
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile

SEED = 7


@dataclass
class BenchClock:
    """A clock that moves a minute and a half at each act."""

    now: datetime = field(default_factory=lambda: datetime(2026, 11, 3, 9, 12, tzinfo=timezone(timedelta(0))))

    def __call__(self) -> str:
        self.now += timedelta(seconds=95)
        return self.now.isoformat(timespec="seconds")

    def next_day(self) -> None:
        self.now = self.now.replace(hour=9, minute=20) + timedelta(days=1)


def nobody_told(share: float) -> None:
    """Nobody wants to know how far it is."""


def laid_out(
    path: Path,
    stations: tuple[Station, ...],
    steps: tuple[Callable[[Workshop], object], ...],
    clock: BenchClock,
    tell: Callable[[float], None],
) -> None:
    """A workshop in a new file at ``path``, a day a step; nothing is left behind when it fails. ``tell`` is given the share done,
    0 to 1."""
    beside = path.with_name(f"building-{path.name}")
    for leftover in path.parent.glob(f"{beside.name}*"):
        leftover.unlink()
    workshop = Workshop(WorkshopFile(beside), lambda: stations, clock)
    for place, step in enumerate(steps):
        step(workshop)
        clock.next_day()
        tell((place + 1) / len(steps))
    workshop.describe_pending()
    workshop.close()
    beside.replace(path)
    for leftover in path.parent.glob(f"{beside.name}*"):
        leftover.unlink()


def build_demo(path: Path, tell: Callable[[float], None] = nobody_told) -> None:
    """The demo workshop in a new file at ``path``."""
    rng = np.random.default_rng(SEED)
    steps = tuple(lambda workshop, story=story: Telling(workshop, story, rng).tell() for story in stories())
    laid_out(path, STATIONS, steps, BenchClock(), tell)
