"""Starting the window: display, settings, workshop file, demo, pictures.

What Qt itself says is noted in the log; where it is about to give up, one sentence and an orderly end instead of an abort.
"""

import logging
import os
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QMessageLogContext, QtMsgType

from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.services.places import (
    APPLICATION,
    DEMO_FILE,
    OWN_FILE,
    data_folder,
    data_place,
    is_practice,
    own_workshop,
    practice_of,
    state_folder,
    workshop_of,
)

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from violet_dial.gui.main_window import MainWindow
    from violet_dial.kit.theme.look import Look
    from violet_dial.services.station import Station
    from violet_dial.services.workshop import Workshop


_log = logging.getLogger("violet_dial.qt")
GIVING_UP = (
    "violet-dial: no window can be shown: {why} Check DISPLAY or WAYLAND_DISPLAY. Pictures of every view can be made "
    "without a display: ./demo --shots DIR\n"
)


def heard(kind: QtMsgType, context: QMessageLogContext, message: str) -> None:
    """Qt's message handler."""
    if kind == QtMsgType.QtFatalMsg:
        shown = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY")
        why = f"the display {shown} cannot be reached." if shown else f"{message.splitlines()[0]}."
        sys.stderr.write(GIVING_UP.format(why=why))
        sys.stderr.flush()
        os._exit(2)
    _log.info("%s", message)


NO_DISPLAY = "no display here (neither X11 nor Wayland). Pictures of every view can be made without one: ./demo --shots DIR"
ENDING = ".violet"
DESKTOP_ENTRY = "io.github.violet_dial.VioletDial"


@dataclass(frozen=True)
class StartOptions:
    """How to start: a workshop file of one's own, the demo workshop, pictures of the demo into a folder, or a bundle that is
    taken into one's own workshop."""

    workshop: Path | None = None
    demo: bool = False
    shots: Path | None = None
    bundle: Path | None = None


def has_display() -> bool:
    """Whether a window can be shown or the platform needs none."""
    if os.environ.get("QT_QPA_PLATFORM", "").startswith(("offscreen", "minimal", "vnc")):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def start(options: StartOptions) -> int:
    """Open the window and stay until it is closed; returns the exit status."""
    _check(options)
    if options.shots is not None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    elif not has_display():
        raise VioletDialError(NO_DISPLAY)
    app = _application()
    if options.shots is not None:
        from violet_dial.gui.shots import take_shots

        count = take_shots(options.shots)
        sys.stdout.write(f"{count} pictures written to {options.shots.resolve()}\n")
        return 0
    from PySide6.QtCore import QSettings

    from violet_dial.kit.theme.look import Look

    look = Look(QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, APPLICATION, APPLICATION))
    look.apply()
    workshop = _opened(options, look)
    return 2 if workshop is None else _work(app, look, workshop, options)


def _check(options: StartOptions) -> None:
    """What was named is refused before anything is written."""
    path = options.workshop
    if path is not None and path.is_dir():
        raise InvalidInput("--workshop", str(path), "a workshop file, not a folder")
    if path is not None and path.suffix != ENDING:
        raise InvalidInput("--workshop", str(path), f"a name ending in {ENDING}")
    shots = options.shots
    if shots is not None:
        try:
            shots.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise InvalidInput("--shots", str(shots), f"a folder that can be written ({error.strerror})") from error
        if not os.access(shots, os.W_OK):
            raise InvalidInput("--shots", str(shots), "a folder that can be written")


def _application() -> "QApplication":
    """The application; where no window can be had, one sentence and the end."""
    from PySide6.QtCore import qInstallMessageHandler
    from PySide6.QtGui import QIcon
    from PySide6.QtWidgets import QApplication

    from violet_dial.kit.theme.look import icon_path

    qInstallMessageHandler(heard)
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName(APPLICATION)
    app.setDesktopFileName(DESKTOP_ENTRY)
    app.setStyle("Fusion")
    app.setWindowIcon(QIcon(icon_path("violet-dial")))
    return app


def _opened(options: StartOptions, look: "Look") -> "Workshop | None":
    """The workshop; where it cannot be opened, a window says why and what can be done. None when it was left at that."""
    wanted: Callable[[], Workshop] = lambda: open_demo() if options.demo else open_file(options.workshop or own_workshop())  # noqa: E731
    try:
        return wanted()
    except VioletDialError as error:
        from violet_dial.gui.trouble_window import TroubleWindow

        sys.stderr.write(f"violet-dial: {' '.join(str(error).split())}\n")
        path = options.workshop or data_place() / (DEMO_FILE if options.demo else OWN_FILE)
        window = TroubleWindow(look, path, str(error), open_file)
        window.exec()
        return window.workshop


def _work(app: "QApplication", look: "Look", workshop: "Workshop", options: StartOptions) -> int:
    """The window over a workshop that is open, until it is closed."""
    from PySide6.QtCore import Qt

    from violet_dial.gui.faults import Faults
    from violet_dial.gui.keeping import EndAsked
    from violet_dial.gui.main_window import MainWindow
    from violet_dial.kit.runner import work_is_left

    later = Qt.ConnectionType.QueuedConnection
    faults = Faults(state_folder())
    faults.install()
    window = MainWindow(look, workshop)
    faults.happened.connect(window.say)
    window.demo_asked.connect(lambda: _to_demo(window))
    window.practice_asked.connect(lambda: to_practice(window))
    window.demo_anew_asked.connect(lambda: _demo_anew(window))
    window.drawn.connect(window.warming.begin, later)
    window.warming.warm.connect(faults.begin_log, later)
    window.warming.warm.connect(lambda: window.jobs.look_through(window.workshop.path), later)
    window.warming.warm.connect(lambda: _to_instruments(window), later)
    window.warming.warm.connect(lambda: _look_after(window), later)
    if options.bundle is not None:
        bundle = options.bundle
        window.warming.warm.connect(lambda: window.import_from(bundle), later)
    EndAsked(window).asked.connect(window.end)
    window.show()
    if os.environ.get("VIOLET_DIAL_SAY_STATE"):
        from violet_dial.gui.state_line import StateLine

        StateLine(window)
    status = app.exec()
    if work_is_left():  # a library's long step that cannot be stopped: everything is kept, nothing is waited for
        sys.stdout.flush()
        os._exit(status)
    return status


def _to_instruments(window: "MainWindow") -> None:
    """The demo connects to its simulated bench, a workshop of one's own to the instruments kept there."""
    if is_practice(window.workshop.path):
        window.live.let_go()  # nothing of an exercise reaches a real instrument
        window.live.start_simulated()
    elif window.workshop.path.name == DEMO_FILE:
        from violet_dial.demo.hidden import hidden

        window.live.stop_simulated()
        window.live.start_simulated(hidden())
    else:
        window.live.stop_simulated()
        if not window.live.bench.instruments:
            window.live.connect_kept()


def _look_after(window: "MainWindow") -> None:
    """One's own workshop is backed up day by day; the demo can be made again."""
    window.keeping.begin(backs_up=not _is_demo(window.workshop.path))


def open_file(path: Path) -> "Workshop":
    """A workshop file; the stations are imported when the first job is opened."""
    from violet_dial.services.workshop import Workshop
    from violet_dial.store.workshop_file import WorkshopFile

    def line() -> "tuple[Station, ...]":
        if is_practice(path):
            from violet_dial.practise import PRACTICE_LINE

            return PRACTICE_LINE
        from violet_dial.stations import STATIONS

        return STATIONS

    return Workshop(WorkshopFile(path), line)


def open_demo() -> "Workshop":
    """The demo workshop, built when it is not there yet."""
    path = data_folder() / DEMO_FILE
    if not path.exists():
        from violet_dial.demo.workshop import build_demo
        from violet_dial.gui.building import build_with_progress

        build_with_progress(path, build_demo, "The demo workshop is laid out, once…")
    return open_file(path)


def open_practice(path: Path) -> "Workshop":
    """The practice workshop beside a workshop; the demo's is laid out when it is not there yet."""
    practice = practice_of(path)
    if path.name == DEMO_FILE and not practice.exists():
        from violet_dial.demo.practice import build_practice
        from violet_dial.gui.building import build_with_progress

        build_with_progress(practice, build_practice, "The demo's exercises are laid out, once…")
    return open_file(practice)


def _is_demo(path: Path) -> bool:
    """Whether a workshop file is the demo, or the practice that belongs to it."""
    return (workshop_of(path) if is_practice(path) else path).name == DEMO_FILE


def _to_demo(window: "MainWindow") -> None:
    """The demo in place of the workshop on the bench, or back to one's own."""
    in_demo = _is_demo(window.workshop.path)
    if window.change_workshop(lambda: open_file(own_workshop()) if in_demo else open_demo()):
        _to_instruments(window)
        _look_after(window)


def to_practice(window: "MainWindow") -> None:
    """The practice workshop in place of the one it lies beside, or back to that."""
    path = window.workshop.path
    if window.change_workshop(lambda: open_file(workshop_of(path)) if is_practice(path) else open_practice(path)):
        _to_instruments(window)
        _look_after(window)


def _demo_anew(window: "MainWindow") -> None:
    """The demo as it was at first, in place of the one that is open."""
    path = window.workshop.path

    def made() -> "Workshop":
        for one in (path, practice_of(path)):
            for ending in ("", "-wal", "-shm"):
                one.with_name(f"{one.name}{ending}").unlink(missing_ok=True)
        return open_demo()

    if window.change_workshop(made):
        _to_instruments(window)
