"""The shortcuts of the window, made from the tables of keys: its own, and those of the stations."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

from violet_dial.gui.keys import MOST_STATION_KEYS, WINDOW_KEYS

if TYPE_CHECKING:
    from violet_dial.gui.job_page import JobPage


class Shortcuts:
    """``do`` is given the act of a key of the window; keys of stations work only while ``on_job`` says so."""

    def __init__(self, window: QWidget, do: Callable[[str], None], on_job: Callable[[], bool]) -> None:
        self._window, self._on_job = window, on_job
        self._stations: list[QShortcut] = []
        for key in WINDOW_KEYS:
            for pressed in key.keys if key.act else ():
                QShortcut(QKeySequence(pressed), window).activated.connect(partial(do, key.act))

    def add_stations(self, page: JobPage) -> None:
        """Keys of the stations, and Alt with a number for each of them; those of an earlier page are gone."""
        for shortcut in self._stations:
            shortcut.deleteLater()
        self._stations = []
        several: dict[str, list[Callable[[], None]]] = {}  # one key may be another act at each station
        for number, station in enumerate(page.stations[:MOST_STATION_KEYS]):
            self._add(f"Alt+{number + 1}", [partial(page.go_number, number)])
            for key in station.keys:
                for pressed in key.keys if key.act else ():
                    several.setdefault(pressed, []).append(partial(page.call, station.name, key.act, key.anywhere))
        for pressed, each in several.items():
            self._add(pressed, each)

    def _add(self, pressed: str, each: list[Callable[[], None]]) -> None:
        shortcut = QShortcut(QKeySequence(pressed), self._window)
        shortcut.activated.connect(lambda: [do() for do in each] if self._on_job() else None)
        self._stations.append(shortcut)
