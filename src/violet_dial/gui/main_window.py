"""The window: jobs screen and job page, messages, and the keys."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Signal, Slot
from PySide6.QtGui import QCloseEvent, QPaintEvent
from PySide6.QtWidgets import QDialog, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.gui.faults import note
from violet_dial.gui.jobs_page import JobsPage
from violet_dial.gui.keeping import Keeping
from violet_dial.gui.keys import Shortcuts, key_sheet
from violet_dial.gui.message import Message
from violet_dial.gui.warming import Warming
from violet_dial.kit.ask import open_over
from violet_dial.kit.theme.look import Look
from violet_dial.services.places import is_practice
from violet_dial.services.workshop import Workshop

if TYPE_CHECKING:
    from violet_dial.gui.job_acts import JobActs
    from violet_dial.gui.job_page import JobPage
    from violet_dial.gui.jobs_acts import JobsActs
    from violet_dial.gui.live_control import LiveControl

SMALLEST = (1100, 700)
USUAL = (1280, 800)
NEXT = "page.do_next"


class MainWindow(QMainWindow):
    """Owns the workshop and the pages. The job page is made when the first job is opened."""

    demo_asked = Signal()
    demo_anew_asked = Signal()
    practice_asked = Signal()
    drawn = Signal()  # painted for the first time

    def __init__(self, look: Look, workshop: Workshop) -> None:
        super().__init__()
        self._drawn = self._ending = False
        self.look = look
        self.workshop = workshop
        self.job_page: JobPage | None = None
        self._acts: JobActs | None = None
        self._jobs_acts: JobsActs | None = None
        self._live: LiveControl | None = None
        self.warming = Warming(self)
        self.jobs = JobsPage(look)
        self.message = Message()
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
        self.keeping = Keeping(self, lambda: self.workshop)
        self._connect()
        self._keys = Shortcuts(self, self.do, lambda: self.on_job)
        self.show_jobs()

    def _connect(self) -> None:
        self.jobs.open_asked.connect(self.open_job)
        self.jobs.new_asked.connect(self.new_job)
        self.jobs.demo_asked.connect(self.demo_asked)
        self.jobs.practice_asked.connect(self.practice_asked)
        self.jobs.import_asked.connect(self.import_jobs)
        self.jobs.search_changed.connect(self._search)
        self.jobs.said.connect(self.say)
        self.jobs.described.connect(self._described)
        self.jobs.view.delete_asked.connect(lambda: self.do("jobs.delete"))
        self.keeping.said.connect(self.say)
        self.message.understood.connect(self._understood)
        self.keeping.moved.connect(self._show_name)

    # keys

    def do(self, act: str) -> None:
        """What a key of the window does: its owner's method, where the owner is there."""
        note(act)
        owner, _, method = act.partition(".")
        found = self._owner(owner)
        if found is not None:
            getattr(found, method)()
        elif act == NEXT:
            self.say("Open a job first: there F9 does what Next says.")

    def _owner(self, name: str) -> Any:
        if name == "window":
            return self
        if name == "jobs":
            return None if self.on_job else self.jobs_acts
        if not self.on_job:
            return None
        return {"page": self.job_page, "acts": self._acts, "live": self.live}[name]

    @property
    def on_job(self) -> bool:
        """Whether a job, not the list, is shown."""
        return self.job_page is not None and self.stack.currentWidget() is self.job_page

    def toggle_theme(self) -> None:
        self.look.toggle_theme()

    def text_larger(self) -> None:
        self.look.step_text(1)

    def text_smaller(self) -> None:
        self.look.step_text(-1)

    def ask_demo(self) -> None:
        self.demo_asked.emit()

    def ask_practice(self) -> None:
        if not self.on_job:
            self.practice_asked.emit()

    def show_keys(self) -> None:
        """The key sheet."""
        from violet_dial.kit.text_window import TextWindow

        open_over(TextWindow(self, self.look, "Keys", key_sheet(self.workshop.stations)))

    @property
    def jobs_acts(self) -> JobsActs:
        """What the keys of the jobs screen do, made on first use."""
        self.warming.wait()
        if self._jobs_acts is None:
            from violet_dial.gui.jobs_acts import JobsActs

            self._jobs_acts = JobsActs(self)
        return self._jobs_acts

    # instruments

    @property
    def live(self) -> LiveControl:
        """The live instruments, made on first use."""
        if self._live is None:
            from violet_dial.gui.live_control import LiveControl
            from violet_dial.services.station import exercises_of

            self._live = LiveControl(self, self.look.settings, lambda: exercises_of(self.workshop.stations))
            self._live.said.connect(self.say)
        return self._live

    def toggle_sounds(self) -> None:
        self.live.toggle_sounds()

    def show_instruments(self) -> None:
        """The instruments there are, and adding one."""
        from violet_dial.gui.instruments_window import InstrumentsWindow

        open_over(InstrumentsWindow(self, self.look, self.live))

    # jobs screen

    def list_jobs(self) -> None:
        """List the jobs anew, whatever is shown."""
        self._search(self.jobs.search.text())

    @Slot()
    def _described(self) -> None:
        """Cards were made anew beside the window."""
        self.workshop.changed_beside()
        self.jobs.list_again()

    def show_jobs(self) -> None:
        """The list of jobs as it now stands."""
        self.stack.setCurrentWidget(self.jobs)
        self.list_jobs()
        self.jobs.take_keys()
        self._show_name()
        self._say_looking()

    @Slot()
    def _show_name(self) -> None:
        """The workshop's name on the window, while the list is shown."""
        if not self.on_job:
            self.setWindowTitle(f"Violet Dial · {self.workshop.path.stem}")

    def _say_looking(self) -> None:
        looking = f"Only looking: {self.workshop.read_only_reason}." if self.workshop.read_only_reason else ""
        self.say(self.workshop.notice or looking)

    @Slot(str)
    def _search(self, text: str) -> None:
        self._try(lambda: self.jobs.show_cards(self.workshop.cards(text)))
        self._try(lambda: self.jobs.describe(self.workshop))

    def to_search(self) -> None:
        if not self.on_job:
            self.jobs.search.setFocus()

    def change_workshop(self, made: Callable[[], Workshop]) -> bool:
        """Another workshop file on the bench, made once this one is closed; where it cannot be, this one again, and why is
        said. False when that was so, or something typed in the job at hand was refused."""
        if not self.leave_job():
            return False
        before = self.workshop
        self._close_beside()
        before.close()
        try:
            self._take_workshop(made())
        except VioletDialError as error:
            self._take_workshop(before.again())
            self.say(str(error))
            return False
        return True

    def _close_beside(self) -> None:
        """Nothing reads or writes beside the window any more."""
        self.jobs.close_workers()
        if self._jobs_acts is not None:
            self._jobs_acts.runner.close()
        self.keeping.pause()

    def _take_workshop(self, workshop: Workshop) -> None:
        self.workshop = workshop
        if self.job_page is not None:
            self.live.attach(None)
            self.stack.removeWidget(self.job_page)
            self.job_page.deleteLater()
        self.job_page = self._acts = None
        self.jobs.begin(is_practice(workshop.path))
        self.show_jobs()
        self.jobs.look_through(workshop.path)

    # one job

    def _page(self) -> JobPage:
        """The job page, made on first use: its modules are heavy and the window is up before they are needed."""
        if self.job_page is None:
            from violet_dial.gui.job_making import made_page

            page, self._acts = made_page(self)
            page.said.connect(self.say)
            page.titled.connect(self.setWindowTitle)
            page.light_wanted.connect(self.live.set_light)
            self._keys.add_stations(page)
            self.stack.addWidget(page)
            self.job_page = page
            self.live.attach(page)
        return self.job_page

    @Slot(str)
    def open_job(self, job_id: str) -> None:
        """Open a job; one that cannot be read offers its older versions."""
        self.warming.wait()
        try:
            view = self.workshop.view(job_id)
        except VioletDialError as error:
            self._offer_older(job_id, str(error))
            return
        self._try(lambda: self._show_job(job_id, view))

    def _offer_older(self, job_id: str, why: str) -> None:
        from violet_dial.gui.trouble_window import RescueWindow

        self.jobs.mark_unreadable(job_id, why)
        try:
            rows = self.workshop.readable(job_id)
        except VioletDialError as error:
            self.say(str(error))
            return
        window = RescueWindow(self, self.look, why, rows)
        window.wanted.connect(lambda version_id: self._try(lambda: self._rescue(job_id, version_id)))
        open_over(window)

    def _rescue(self, job_id: str, version_id: int) -> None:
        """The job as it stood after an act from which it can be read."""
        view = self.workshop.stand_at(job_id, version_id)
        self.jobs.mark_unreadable(job_id, "")
        self._show_job(job_id, view)

    def _show_job(self, job_id: str, view: Any = None) -> None:
        found = view or self.workshop.view(job_id)
        page = self._page()
        self._say_looking()
        self.stack.setCurrentWidget(page)
        page.open(found)

    @Slot()
    def new_job(self) -> None:
        """Open an empty job and go to Receive; at practice choose an exercise."""
        self.warming.wait()
        if not self.leave_job():
            return
        if is_practice(self.workshop.path):
            from violet_dial.gui.exercise_window import ask_exercise

            ask_exercise(self)
        else:
            self._try(lambda: self._show_job(self.workshop.new_job().job.job_id))

    def import_file(self) -> None:
        """In a job a file of what the station takes, on the jobs screen a bundle."""
        if self.on_job and self._acts is not None:
            self._acts.import_table()
        else:
            self.import_jobs()

    @Slot()
    def import_jobs(self) -> None:
        """Bundles, notes and tables of jobs."""
        self.jobs_acts.take_files()

    def import_from(self, path: Path) -> None:
        """Take what is at ``path`` and open its job."""
        self.jobs_acts.take([str(path)])

    def leave_job(self) -> bool:
        """Keep what was typed before the job goes out of sight; False when it was refused, and the job stays. A new job
        that was left as it was leaves nothing."""
        if self.job_page is None or not self.on_job:
            return True
        view = self.job_page.view
        if not self.job_page.leave():
            return False
        if view is not None:
            self._try(lambda: self.workshop.drop_untouched(view.job.job_id))
        return True

    @Slot()
    def go_back(self) -> None:
        """Esc: from a job to the jobs; on the jobs it clears the search."""
        if self.message.isVisible() and not self.workshop.read_only_reason:
            self._understood()
            self.say("")
        if self.on_job and self.job_page is not None:
            shown = self.job_page.view
            if not self.leave_job():
                return
            self.show_jobs()
            if shown:
                self.jobs.select(shown.job.job_id)
        elif self._jobs_acts is None or not self._jobs_acts.stop():
            self.jobs.search.clear()
            self.jobs.view.setFocus()

    # messages

    @Slot(str)
    def say(self, sentence: str) -> None:
        """A sentence above the page; empty text takes it away."""
        self.message.show_text(sentence)

    @Slot()
    def _understood(self) -> None:
        """What became of the file was read; it is not said again."""
        self.workshop.notice_read()

    def _try(self, act: Callable[[], object]) -> None:
        try:
            act()
        except VioletDialError as error:
            self.say(str(error))

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self._drawn:
            self._drawn = True
            self.drawn.emit()

    @Slot()
    def end(self) -> None:
        """Close for good: what can be kept is kept, nothing is asked."""
        self._ending = True
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.leave_job() and not self._ending:
            event.ignore()
            if self.job_page is not None and self.job_page.disk_fails:
                self._ask_end()
            return
        for dialog in self.findChildren(QDialog):
            dialog.done(QDialog.DialogCode.Rejected)  # no question holds the end up
        self._close_beside()
        self.keeping.close()
        if self._live is not None:
            self._live.close()
        self.workshop.close()
        super().closeEvent(event)

    def _ask_end(self) -> None:
        from violet_dial.kit.ask import ask_yes

        question = "What was typed last could not be kept on the disk. Close all the same, and lose it?"
        ask_yes(self, "Not kept", question, "Close and lose it", lambda yes: self.end() if yes else None)
