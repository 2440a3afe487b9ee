"""Starting the window: display, settings, workshop file, demo, pictures."""

import os
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from violet_dial.core.errors import StoreError, VioletDialError

if TYPE_CHECKING:
    from violet_dial.gui.main_window import MainWindow
    from violet_dial.services.station import Station
    from violet_dial.services.workshop import Workshop

APPLICATION, DEMO_FILE = "violet-dial", "demo.violet"
NO_DISPLAY = (
    "no display here (neither X11 nor Wayland). Pictures of every view can be made without one: ./demo --shots DIR"
)


@dataclass(frozen=True)
class StartOptions:
    """How to start: a workshop file of one's own, the demo workshop, or pictures of the demo into a folder."""

    workshop: Path | None = None
    demo: bool = False
    shots: Path | None = None


def data_folder() -> Path:
    """The folder of the workshop files under XDG."""
    from platformdirs import user_data_path

    return user_data_path(APPLICATION, appauthor=False)


def state_folder() -> Path:
    """The folder of the log and the fault reports under XDG."""
    from platformdirs import user_state_path

    return user_state_path(APPLICATION, appauthor=False)


def has_display() -> bool:
    """Whether a window can be shown or the platform needs none."""
    if os.environ.get("QT_QPA_PLATFORM", "").startswith(("offscreen", "minimal", "vnc")):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def start(options: StartOptions) -> int:
    """Open the window and stay until it is closed; returns the exit status."""
    if options.shots is not None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    elif not has_display():
        raise VioletDialError(NO_DISPLAY)
    from PySide6.QtCore import QSettings, Qt
    from PySide6.QtGui import QIcon
    from PySide6.QtWidgets import QApplication

    from violet_dial.kit.theme.icons import icon_path
    from violet_dial.kit.theme.look import Look

    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName(APPLICATION)
    app.setDesktopFileName(APPLICATION)
    app.setStyle("Fusion")
    if options.shots is not None:
        from violet_dial.gui.shots import take_shots

        return take_shots(options.shots)
    from violet_dial.gui.faults import Faults
    from violet_dial.gui.main_window import MainWindow

    app.setWindowIcon(QIcon(icon_path("violet-dial")))
    look = Look(QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, APPLICATION, APPLICATION))
    look.apply()
    faults = Faults(state_folder())
    faults.install()
    window = MainWindow(look, _open(options))
    faults.happened.connect(window.say)
    window.demo_asked.connect(lambda: _to_demo(window))
    window.drawn.connect(window.warm_up, Qt.ConnectionType.QueuedConnection)
    window.warm.connect(faults.begin_log, Qt.ConnectionType.QueuedConnection)
    window.warm.connect(lambda: window.jobs.look_through(window.workshop.path), Qt.ConnectionType.QueuedConnection)
    window.warm.connect(lambda: _to_instruments(window), Qt.ConnectionType.QueuedConnection)
    window.show()
    if os.environ.get("VIOLET_DIAL_SAY_STATE"):
        from violet_dial.gui.state_line import StateLine

        StateLine(window)
    return app.exec()


def _to_instruments(window: "MainWindow") -> None:
    """The demo connects to its simulated bench, a workshop of one's own to the instruments kept there."""
    if window.workshop.path.name == DEMO_FILE:
        from violet_dial.demo.hidden import HIDDEN

        window.live.start_simulated(HIDDEN)
    else:
        window.live.stop_simulated()
        if not window.live.bench.instruments:
            window.live.connect_kept()


def _open(options: StartOptions) -> "Workshop":
    return _open_demo() if options.demo else _open_file(options.workshop or data_folder() / "workshop.violet")


def _open_file(path: Path) -> "Workshop":
    """A workshop file; the stations are imported when the first job is opened."""
    from violet_dial.services.workshop import Workshop
    from violet_dial.store.workshop_file import WorkshopFile

    def line() -> "tuple[Station, ...]":
        from violet_dial.stations import STATIONS

        return STATIONS

    return Workshop(WorkshopFile(path), line)


def _open_demo() -> "Workshop":
    """The demo workshop, built when it is not there yet."""
    path = data_folder() / DEMO_FILE
    if not path.exists():
        from violet_dial.demo.workshop import build_demo

        build_demo(path)
    return _open_file(path)


def _to_demo(window: "MainWindow") -> None:
    """The demo in place of the workshop on the bench, or back to one's own."""
    own = data_folder() / "workshop.violet"
    try:
        in_demo = window.workshop.path.name == DEMO_FILE
        other = _open_file(own) if in_demo else _open_demo()
        if window.change_workshop(other):
            _to_instruments(window)
        else:
            other.close()
    except StoreError as error:
        window.say(str(error))
