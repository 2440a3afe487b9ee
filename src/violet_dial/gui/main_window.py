"""The window: jobs screen and job page, messages, and the keys."""

from __future__ import annotations

import contextlib
import importlib
import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtGui import QCloseEvent, QKeySequence, QPaintEvent, QShortcut
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from violet_dial.core.errors import VioletDialError
from violet_dial.gui.jobs_page import JobsPage
from violet_dial.gui.theme.look import Look
from violet_dial.services.workshop import Workshop

if TYPE_CHECKING:
    from violet_dial.gui.job_acts import JobActs
    from violet_dial.gui.job_page import JobPage
    from violet_dial.gui.live_control import LiveControl

SMALLEST = (1100, 700)
USUAL = (1280, 800)
HEAVY = ("violet_dial.services.judge", "violet_dial.services.live", "violet_dial.services.practice")
STATION_KEYS = ("Alt+1", "Alt+2", "Alt+3", "Alt+4", "Alt+5")


class MainWindow(QMainWindow):
    """Owns the workshop and the pages. The job page is made when the first job is opened."""

    demo_asked = Signal()
    drawn = Signal()  # painted for the first time
    warm = Signal()  # the heavy modules are imported

    def __init__(self, look: Look, workshop: Workshop) -> None:
        super().__init__()
        self._drawn = False
        self._look = look
        self.workshop = workshop
        self.job_page: JobPage | None = None
        self._acts: JobActs | None = None
        self._live: LiveControl | None = None
        self.jobs = JobsPage(look)
        self.message = _Message()
        self.stack = QStackedWidget()
        self.stack.addWidget(self.jobs)
        holder = QWidget()
        holder.setObjectName("ground")
        layout = QVBoxLayout(holder)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.message)
        layout.addWidget(self.stack, 1)
        self.setCentralWidget(holder)
        self.setMinimumSize(*SMALLEST)
        self.resize(*USUAL)
        self._connect()
        self._shortcuts()
        self.show_jobs()

    def _connect(self) -> None:
        self.jobs.open_asked.connect(self.open_job)
        self.jobs.new_asked.connect(self.new_job)
        self.jobs.demo_asked.connect(self.demo_asked)
        self.jobs.import_asked.connect(self.import_bundle)
        self.jobs.search_changed.connect(self._search)

    def _shortcuts(self) -> None:
        job = self._on_job
        keys: tuple[tuple[str, Callable[[], object]], ...] = (
            ("F1", self.show_keys),
            ("F2", self._look.toggle_theme),
            ("Ctrl++", lambda: self._look.step_text(1)),
            ("Ctrl+=", lambda: self._look.step_text(1)),
            ("Ctrl+-", lambda: self._look.step_text(-1)),
            ("Ctrl+N", self.new_job),
            ("Ctrl+D", self.demo_asked.emit),
            ("Ctrl+F", self._to_search),
            ("Esc", self.go_back),
            ("Ctrl+I", lambda: self._acts.import_table() if self._acts and self.on_job else self.import_bundle()),
            ("F8", job(lambda page: page.bar.ask_take())),
            ("F10", job(lambda page: self.live.toggle_hands_free())),
            ("F11", job(lambda page: self.live.take_back())),
            ("F12", self.show_instruments),
            ("Ctrl+R", job(lambda page: page.trace.turn_preference() if page.station == "Trace" else None)),
            ("Ctrl+T", job(lambda page: self.live.touch())),
            ("Ctrl+M", self._toggle_sounds),
            ("F9", job(lambda page: page.do_next())),
            ("F5", job(lambda page: page.to_picture())),
            ("Ctrl+Tab", job(lambda page: page.turn(1))),
            ("Ctrl+Shift+Tab", job(lambda page: page.turn(-1))),
            ("Ctrl+L", job(lambda page: page.opening.way.adopt())),
            ("F6", job(lambda page: page.to_fields(page.bar.focus_reference))),
            ("F7", job(lambda page: page.to_fields(page.bar.focus_reading))),
            ("Ctrl+G", job(lambda page: page.to_log())),
            ("Ctrl+Z", job(lambda page: page.undo())),
            ("Ctrl+Shift+Z", job(lambda page: page.redo())),
            ("F3", self._act("open_sum")),
            ("F4", self._act("change_setup")),
            ("Ctrl+E", self._act("export_table")),
            ("Ctrl+O", self._act("attach_photos")),
            ("Ctrl+P", self._act("print_paper")),
            ("Ctrl+B", self._act("write_bundle")),
            ("Ctrl+H", self._act("put_aside")),
        )
        for key, act in keys:
            QShortcut(QKeySequence(key), self).activated.connect(act)
        for number in range(len(STATION_KEYS)):
            go = QShortcut(QKeySequence(STATION_KEYS[number]), self)
            go.activated.connect(job(partial(_go_number, number=number)))

    def _on_job(self, act: Callable[[JobPage], object]) -> Callable[[], object]:
        """An act that only works while a job is shown."""
        return lambda: act(self.job_page) if self.job_page is not None and self.on_job else None

    def _act(self, name: str) -> Callable[[], object]:
        return lambda: getattr(self._acts, name)() if self._acts is not None and self.on_job else None

    @property
    def on_job(self) -> bool:
        """Whether a job, not the list, is shown."""
        return self.job_page is not None and self.stack.currentWidget() is self.job_page

    # instruments

    @property
    def live(self) -> LiveControl:
        """The live instruments, made on first use."""
        if self._live is None:
            from violet_dial.gui.live_control import LiveControl

            self._live = LiveControl(self, self._look.settings)
            self._live.said.connect(self.say)
        return self._live

    def _toggle_sounds(self) -> None:
        self.live.toggle_sounds()

    def show_instruments(self) -> None:
        """The instruments there are, and adding one."""
        from violet_dial.gui.instruments_window import InstrumentsWindow

        InstrumentsWindow(self, self._look, self.live).exec()

    # jobs screen

    def show_jobs(self) -> None:
        """The list of jobs as it now stands."""
        self.stack.setCurrentWidget(self.jobs)
        self._search(self.jobs.search.text())
        self.jobs.view.setFocus()
        self.setWindowTitle(f"Violet Dial · {self.workshop.path.stem}")
        self.say(f"Only looking: {self.workshop.read_only_reason}." if self.workshop.read_only_reason else "")

    @Slot(str)
    def _search(self, text: str) -> None:
        self._try(lambda: self.jobs.show_cards(self.workshop.cards(text)))

    def _to_search(self) -> None:
        if not self.on_job:
            self.jobs.search.setFocus()

    def change_workshop(self, workshop: Workshop) -> None:
        """Another workshop file on the bench."""
        self.leave_job()
        self.workshop.close()
        self.workshop = workshop
        if self.job_page is not None:
            self.live.attach(None)
            self.stack.removeWidget(self.job_page)
            self.job_page.deleteLater()
        self.job_page = self._acts = None
        self.jobs.search.clear()
        self.show_jobs()

    # one job

    def _page(self) -> JobPage:
        """The job page, made on first use: its modules are heavy and the window is up before they are needed."""
        if self.job_page is None:
            from violet_dial.gui.job_acts import JobActs
            from violet_dial.gui.job_page import JobPage

            page = JobPage(self._look, self.workshop)
            self._acts = JobActs(self, page, self.workshop, self._look)
            page.said.connect(self.say)
            page.light_wanted.connect(self.live.set_light)
            self.live.attach(page)
            self.stack.addWidget(page)
            self.job_page = page
        return self.job_page

    @Slot(str)
    def open_job(self, job_id: str) -> None:
        self._try(lambda: self._show_job(job_id))

    def _show_job(self, job_id: str) -> None:
        view = self.workshop.view(job_id)
        page = self._page()
        self.stack.setCurrentWidget(page)
        page.open(view)
        self.setWindowTitle(f"Job {view.job.label} · {view.job.device.name or 'not described'} · Violet Dial")
        self.say(f"Only looking: {self.workshop.read_only_reason}." if self.workshop.read_only_reason else "")

    @Slot()
    def new_job(self) -> None:
        """Open an empty job and go to Receive."""
        self.leave_job()
        self._try(lambda: self._show_job(self.workshop.new_job().job.job_id))

    @Slot()
    def import_bundle(self) -> None:
        from violet_dial.gui.files import ask_open

        path = ask_open(self, "Import a bundle", "Violet Dial bundle (*.zip)")
        if path is not None:
            self.import_from(path)

    def import_from(self, path: Path) -> None:
        """Import the bundle at ``path`` and open its job."""

        def act() -> None:
            from violet_dial.gui.files import read_file

            view = self.workshop.import_bundle(read_file(path))
            self._show_job(view.job.job_id)

        self._try(act)

    def leave_job(self) -> None:
        """Keep what was typed before the job goes out of sight."""
        if self.job_page is not None and self.on_job:
            self.job_page.close_workers()

    @Slot()
    def go_back(self) -> None:
        """Esc: from a job to the jobs; on the jobs it clears the search."""
        if self.message.isVisible() and not self.workshop.read_only_reason:
            self.say("")
        if self.on_job and self.job_page is not None:
            shown = self.job_page.view
            self.leave_job()
            self.show_jobs()
            if shown:
                self.jobs.select(shown.job.job_id)
        else:
            self.jobs.search.clear()
            self.jobs.view.setFocus()

    # messages

    @Slot(str)
    def say(self, sentence: str) -> None:
        """A sentence above the page; empty text takes it away."""
        self.message.show_text(sentence)

    def _try(self, act: Callable[[], object]) -> None:
        try:
            act()
        except VioletDialError as error:
            self.say(str(error))

    def show_keys(self) -> None:
        """The key sheet."""
        from violet_dial.gui.widgets.pages import KEYS, TextWindow

        TextWindow(self, self._look, "Keys", KEYS).exec()

    def warm_up(self) -> None:
        """Import the heavy modules in the background, so that the first job opens at once; then say ``warm``."""

        def work() -> None:
            for module in HEAVY:
                importlib.import_module(module)
            with contextlib.suppress(RuntimeError):  # the window may be gone by now
                self.warm.emit()

        threading.Thread(target=work, daemon=True).start()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self._drawn:
            self._drawn = True
            self.drawn.emit()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.leave_job()
        if self._live is not None:
            self._live.close()
        self.workshop.close()
        super().closeEvent(event)


def _go_number(page: JobPage, number: int) -> None:
    page.go_number(number)


class _Message(QFrame):
    """One sentence across the window."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "message")
        self.text = QLabel("", wordWrap=True, textFormat=Qt.TextFormat.PlainText)
        close = QPushButton("Understood")
        close.setProperty("role", "link")
        close.clicked.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(18, 4, 12, 4)
        layout.addWidget(self.text, 1)
        layout.addWidget(close)
        self.hide()

    def show_text(self, sentence: str) -> None:
        self.text.setText(sentence)
        self.setAccessibleName(sentence)
        self.setVisible(bool(sentence))
