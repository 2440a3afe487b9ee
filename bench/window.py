"""The real window, opened on a job at one station."""

from pathlib import Path

from PySide6.QtWidgets import QApplication

from violet_dial.gui.job_page import JobPage
from violet_dial.gui.main_window import MainWindow
from violet_dial.kit.theme.look import Look
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile


def application() -> QApplication:
    """The one application of this process."""
    found = QApplication.instance()
    return found if isinstance(found, QApplication) else QApplication([])


def open_workshop(path: Path) -> Workshop:
    """A workshop with all the stations of the line."""
    return Workshop(WorkshopFile(path), lambda: STATIONS)


def open_at(workshop: Workshop, job_id: str, station: str) -> tuple[MainWindow, JobPage]:
    """The main window at its usual size with a job open at a station, drawn."""
    app = application()
    look = Look()
    look.apply()
    window = MainWindow(look, workshop)
    window.resize(1280, 800)
    window.show()
    window.open_job(job_id)
    page = window.job_page
    assert page is not None
    page.go(station)
    app.processEvents()
    return window, page
