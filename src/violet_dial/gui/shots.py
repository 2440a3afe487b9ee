"""Pictures of every main view of the demo workshop, made without a monitor: those of the stations, and of the windows."""

import tempfile
from collections.abc import Callable, Collection
from datetime import date
from pathlib import Path

from PySide6.QtCore import QDeadlineTimer, QEventLoop, QSize, QThread
from PySide6.QtGui import QColor, QPainter, QPixmap
from PySide6.QtWidgets import QApplication, QDialog

from violet_dial.core.errors import InvalidInput
from violet_dial.demo.hidden import hidden
from violet_dial.demo.practice import build_practice
from violet_dial.demo.workshop import build_demo
from violet_dial.gui.main_window import MainWindow
from violet_dial.job.spoken import spoken_date
from violet_dial.kit.pdf_pages import drawn_pages
from violet_dial.kit.theme.look import Look
from violet_dial.practise import PRACTICE_LINE
from violet_dial.report.pdf import paper_pdf
from violet_dial.services.places import practice_of
from violet_dial.services.sheet import sheet_of
from violet_dial.services.station import Screenshot
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile

SIZE = QSize(1280, 800)
WAIT_MS = 15_000
OVER = (("sum", "F3"),)  # windows over Light, by their key
SHEET, SHEET_PX = "Razorbill reflex", 900  # whose sheet is drawn as a page, and how wide
JOBS = (Screenshot("jobs"),)
WINDOWS_OVER = "Kittiwake hand meter"


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


def take_shots(folder: Path, names: Collection[str] = ()) -> int:
    """Write pictures of the stations, of windows over them and of a sheet into ``folder``, all or those with these names; gives
    how many. Raises InvalidInput: one could not be written."""
    count = 0
    with tempfile.TemporaryDirectory() as made:
        path = Path(made) / "demo.violet"
        build_demo(path)
        look = Look()
        window = MainWindow(look, Workshop(WorkshopFile(path), lambda: STATIONS))
        window.resize(SIZE)
        window.show()
        window.live.sounds.silent = True
        window.live.start_simulated(hidden())
        of_stations = ((station.name, shot) for station in STATIONS for shot in station.shots)
        for at, shot in (*(("", shot) for shot in JOBS), *of_stations):
            if names and shot.name not in names:
                continue
            show(window, look, shot, at)
            _save(window.grab(), folder / f"{shot.name}.png")
            count += 1
        count += _windows(window, look, folder)
        count += _sheet(window, folder)
        if not names:
            count += _practice(window, look, Path(made), folder)
        window.close()
        window.deleteLater()
    return count


def _practice(window: MainWindow, look: Look, made: Path, folder: Path) -> int:
    """The views of the practice workshop; gives how many pictures."""
    path = practice_of(made / "demo.violet")
    build_practice(path)
    window.live.stop_simulated()
    window.change_workshop(lambda: Workshop(WorkshopFile(path), lambda: PRACTICE_LINE))
    own = tuple((one.name, shot) for one in PRACTICE_LINE[len(STATIONS) :] for shot in one.shots)
    for station, shot in own:
        show(window, look, shot, station)
        _save(window.grab(), folder / f"{shot.name}.png")
    return len(own)


def _save(picture: QPixmap, path: Path) -> None:
    if not picture.save(str(path)):
        raise InvalidInput("--shots", str(path), "a picture that can be written there")


def show(window: MainWindow, look: Look, shot: Screenshot, station: str) -> None:
    """Bring a view onto the screen and wait until nothing in it is being worked out."""
    look.set_look(shot.theme, shot.percent)
    window.resize(SIZE)
    if not shot.title:
        window.show_jobs()
        settle()
        return
    card = next(card for card in window.workshop.cards() if card.title == shot.title)  # the newest of that name
    window.open_job(card.job_id)
    page = window.job_page
    if page is None:
        raise RuntimeError("no job page")
    page.go(station)
    page.page.turn_to(shot.page)
    for _ in range(shot.view):
        page.page.turn_view()
    settle(lambda: page.settled)
    simulated = window.live.simulated
    if simulated is not None and page.page.slot is not None and not simulated.touching and page.page.asks is not None:
        window.live.touch()  # simulated hands at the two spots of the next test
    elif simulated is not None and simulated.touching and page.page.asks is None:
        window.live.touch()  # lifted: what is asked for is not at this device
    wanted = {"steady"} if simulated is not None and simulated.touching else {"steady", "open"}
    asked = bool(page.page.slot)
    settle(
        lambda: (
            simulated is None or (page.bar.live.state.kind in wanted and bool(page.bar.live.state.goes.startswith("→")) == asked)
        )
    )


def _windows(window: MainWindow, look: Look, folder: Path) -> int:
    """The windows over the page, opened as their keys open them; gives how many pictures."""
    light = next(station for station in STATIONS if station.fallback)
    show(window, look, Screenshot("", WINDOWS_OVER), light.name)
    acts = {"F3": "acts.open_sum"}
    for name, key in OVER:
        window.do(acts[key])
        settle(lambda: window.findChild(QDialog) is not None)
        dialog = next(one for one in window.findChildren(QDialog) if one.isVisible())
        settle()
        _save(_laid_over(window.grab(), dialog), folder / f"{name}.png")
        dialog.reject()
        settle()
    return len(OVER)


def _sheet(window: MainWindow, folder: Path) -> int:
    """The first page of a sheet as it prints; gives how many pictures."""
    card = next(card for card in window.workshop.cards() if card.title == SHEET)
    paper = sheet_of(window.workshop.read(card.job_id), STATIONS, spoken_date(date.today()))
    page = drawn_pages(paper_pdf(paper), SHEET_PX)[0]
    _save(QPixmap.fromImage(page), folder / "sheet.png")
    return 1


def _laid_over(picture: QPixmap, dialog: QDialog) -> QPixmap:
    """A dialog over the darkened page behind it."""
    painter = QPainter(picture)
    painter.fillRect(picture.rect(), QColor(23, 19, 31, 110))
    at = (SIZE - dialog.size()) / 2
    painter.drawPixmap(at.width(), at.height(), dialog.grab())
    painter.end()
    return picture
