"""Pictures of every main view of the demo workshop, made without a monitor."""

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QDeadlineTimer, QEventLoop, QSize, QThread
from PySide6.QtWidgets import QApplication, QDialog

from violet_dial.demo.hidden import HIDDEN
from violet_dial.demo.workshop import build_demo
from violet_dial.gui.instruments_window import InstrumentsWindow
from violet_dial.gui.main_window import MainWindow
from violet_dial.gui.stations.light_setup import LightSetupDialog
from violet_dial.gui.theme.colours import Theme
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.pages import KEYS, TextWindow
from violet_dial.services.explain import explain
from violet_dial.services.workshop import Workshop

SIZE = QSize(1280, 800)
WAIT_MS = 15_000


@dataclass(frozen=True)
class Shot:
    """One picture: its name, the job's title (empty: jobs screen), the station, theme and text size."""

    name: str
    title: str = ""
    station: str = ""
    theme: Theme = "day"
    percent: int = 100
    page: int = 0


SHOTS = (
    Shot("jobs"),
    Shot("jobs-night", theme="night"),
    Shot("receive", "Kittiwake hand meter", "Receive"),
    Shot("receive-look", "Shearwater compact", "Receive", page=1),
    Shot("receive-walk", "Shearwater compact", "Receive", page=2),
    Shot("open-off", "Shearwater compact", "Open"),
    Shot("open-back-night", "Shearwater compact", "Open", "night", page=1),
    Shot("open-way-in", "Kittiwake hand meter", "Open", page=2),
    Shot("trace", "Gannet reflex", "Trace"),
    Shot("trace-night", "Petrel instant", "Trace", "night"),
    Shot("light-even", "Kittiwake hand meter", "Light"),
    Shot("light-falloff", "Fulmar exposure meter", "Light"),
    Shot("light-150-percent", "Fulmar exposure meter", "Light", "day", 150),
    Shot("light-sticky", "Razorbill meter", "Light"),
    Shot("return", "Shearwater compact", "Return"),
)


def settle(until: Callable[[], bool] = lambda: True) -> None:
    """Let the window lay itself out and draw; wait for ``until`` with a deadline."""
    app = QApplication.instance()
    deadline = QDeadlineTimer(WAIT_MS)
    while app is not None:
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 50)
        if until() or deadline.hasExpired():
            break
        QThread.msleep(2)  # a loop that spins would take the workers' turns
    for _ in range(3):
        if app is not None:
            app.processEvents()


def take_shots(folder: Path) -> int:
    """Write every picture into ``folder``; returns the exit status."""
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as made:
        path = Path(made) / "demo.violet"
        build_demo(path)
        look = Look()
        window = MainWindow(look, Workshop.open(path))
        window.resize(SIZE)
        window.show()
        window.live.sounds.silent = True
        window.live.start_practice(HIDDEN)
        for shot in SHOTS:
            _show(window, look, shot)
            window.grab().save(str(folder / f"{shot.name}.png"))
        _windows(window, look, folder)
        window.close()
        window.deleteLater()
    return 0


def _show(window: MainWindow, look: Look, shot: Shot) -> None:
    look.set_look(shot.theme, shot.percent)
    window.resize(SIZE)
    if not shot.title:
        window.show_jobs()
        settle()
        return
    card = next(card for card in window.workshop.cards() if card.title == shot.title)  # the newest of that name
    window.open_job(card.job_id)
    page = window.job_page
    assert page is not None
    page.go(shot.station)  # type: ignore[arg-type]
    station = page.pages[page.station]
    if hasattr(station, "pages"):
        station.pages.turn_to(shot.page)
    settle(lambda: shot.station != "Return" or not page.back.sheet.pixmap().isNull())
    settle(lambda: shot.station != "Trace" or page.trace.settled)
    practice = window.live.practice
    if practice is not None and shot.station == "Trace" and not practice.touching:
        window.live.touch()  # simulated hands at the two spots of the next test
    wanted = {"steady"} if practice is not None and practice.touching else {"steady", "open"}
    settle(lambda: practice is None or page.bar.live.state.kind in wanted)


def _windows(window: MainWindow, look: Look, folder: Path) -> None:
    """The windows over the page: set-up, opened sum, keys."""
    _show(window, look, Shot("", "Kittiwake hand meter", "Light"))
    page = window.job_page
    assert page is not None and page.view is not None and page.light.judgement is not None
    sections = explain(page.view.job, page.light.shown_run, page.light.judgement, 4)
    over: tuple[tuple[str, QDialog], ...] = (
        ("set-up", LightSetupDialog(window, look, page.view.job.light.setup)),
        ("sum", TextWindow(window, look, "How this was worked out", sections)),
        ("keys", TextWindow(window, look, "Keys", KEYS)),
        ("instruments", InstrumentsWindow(window, look, window.live)),
    )
    for name, dialog in over:
        dialog.show()
        settle()
        picture = window.grab()
        from PySide6.QtGui import QColor, QPainter

        painter = QPainter(picture)
        painter.fillRect(picture.rect(), QColor(23, 19, 31, 110))
        at = (SIZE - dialog.size()) / 2
        painter.drawPixmap(at.width(), at.height(), dialog.grab())
        painter.end()
        picture.save(str(folder / f"{name}.png"))
        dialog.close()
