"""The keys of the window: one table from which shortcuts, the key sheet and the tests are made.

``act`` names who does it and what: ``window``, ``page`` (the job page), ``acts`` (what asks something first), ``live`` (the
instruments), ``jobs`` (acts on the list). All but the window's and the list's work only while a job is shown, the list's
only while it is. The stations' keys are in their descriptions.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

from violet_dial.services.keys import Key

if TYPE_CHECKING:
    from violet_dial.gui.job_page import JobPage
    from violet_dial.services.station import Section, Station


IN_A_JOB: tuple[Key, ...] = (
    Key(("Enter",), "the main act of the field or button you are on"),
    Key(("F8",), "Take the reading (foot switches send this key)", "page.take"),
    Key(("F9",), "do what Next says", "page.do_next"),
    Key(("F10",), "hands-free on or off", "live.toggle_hands_free"),
    Key(("F11",), "the last take of an instrument taken back", "live.take_back"),
    Key(("F12",), "instruments", "window.show_instruments"),
    Key(("Ctrl+M",), "sounds on or off", "window.toggle_sounds"),
    Key(("Ctrl+T",), "on a simulated bench: put the probes to the spots of the next test, lift them", "live.touch"),
    Key(("F3",), "open the sum behind the verdict and the reading", "acts.open_sum"),
    Key(("F4",), "set the station up", "acts.change_setup"),
    Key(("F5",), "to the station's own picture", "page.to_picture"),
    Key(("Ctrl+Z",), "undo", "page.undo"),
    Key(("Ctrl+Shift+Z",), "redo", "page.redo"),
    Key(("Ctrl+G",), "to the job log; Enter there: the job as it stood after that act", "page.to_log"),
    Key(("Ctrl+Tab",), "the next page of the station", "page.turn_on"),
    Key(("Ctrl+Shift+Tab",), "the page before", "page.turn_back"),
    Key(("Ctrl+E",), "what the station holds, into a file", "acts.export_table"),
    Key(("Ctrl+P",), "print the sheet, at Open the checklist", "acts.print_paper"),
    Key(("Ctrl+S",), "write the sheet, at Open the checklist, as PDF or HTML", "acts.write_paper"),
    Key(("Ctrl+B",), "write the job as a bundle", "acts.write_bundle"),
    Key(("Ctrl+H",), "put the job aside, or take it up again", "acts.put_aside"),
    Key(("Esc",), "back to the jobs (or close what is open)", "window.go_back"),
)
ON_JOBS: tuple[Key, ...] = (
    Key(("/",), "search; Enter opens the only job found, or that of a label that was scanned"),
    Key(("Arrows", "Enter"), "choose and open"),
    Key(("Ctrl+N",), "a new job; at practice a new exercise", "window.new_job"),
    Key(("Ctrl+Shift+C",), "the device was collected; once more: back on the bench", "jobs.collect"),
    Key(("Ctrl+Shift+X",), "today's exercise of the device is done: ticked off", "jobs.tick"),
    Key(("Ctrl+Shift+A",), "put the job away, out of sight; once more: back on the bench", "jobs.put_away"),
    Key(("Del",), "delete the job, after asking; in the wastebasket: back on the bench"),
    Key(("Ctrl+I",), "import bundles, notes, a table of jobs (in a job: a file of what the station takes)", "window.import_file"),
    Key(("Ctrl+Shift+I",), "import all that a folder holds: bundles, notes with pictures, tables", "jobs.take_folder"),
    Key(("Ctrl+Shift+E",), "all jobs as bundles into a folder", "jobs.all_out"),
    Key(("Ctrl+Shift+B",), "backups of the workshop; Enter there brings one back", "jobs.backups"),
    Key(("Ctrl+Shift+P",), "to practise: exercises with hidden faults, apart from the jobs; and back", "window.ask_practice"),
    Key(("Ctrl+Shift+M",), "at practice: exercises of your own into a file that hides what is wrong", "jobs.make_exercises"),
    Key(("Ctrl+D",), "the demo workshop, and back", "window.ask_demo"),
    Key(("Ctrl+Shift+D",), "in the demo: set it back to how it was at first", "jobs.demo_anew"),
    Key(("Ctrl+F",), "to the search", "window.to_search"),
)
LOOK: tuple[Key, ...] = (
    Key(("F2",), "day or night", "window.toggle_theme"),
    Key(("Ctrl++", "Ctrl+="), "text larger", "window.text_larger"),
    Key(("Ctrl+-",), "text smaller", "window.text_smaller"),
    Key(("F1",), "this sheet", "window.show_keys"),
    Key(("Ctrl+Q",), "leave; what was typed is kept", "window.close"),
)
WINDOW_KEYS = (*IN_A_JOB, *ON_JOBS, *LOOK)
MOST_STATION_KEYS = 9


def _lines(keys: tuple[Key, ...]) -> tuple[str, ...]:
    return tuple(f"{'  '.join(key.keys)}\t{key.words}" for key in keys)


def key_sheet(stations: tuple[Station, ...]) -> tuple[Section, ...]:
    """The key sheet: every key there is, by where it works."""
    names = [station.name for station in stations[:MOST_STATION_KEYS]]
    going = f"Alt+1  to  Alt+{len(names)}\t{', '.join(names)}"
    return (
        ("Everywhere in a job", (*_lines(IN_A_JOB), going)),
        *((station.name, _lines(station.keys)) for station in stations if station.keys),
        ("Jobs", _lines(ON_JOBS)),
        ("The look", _lines(LOOK)),
    )


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
