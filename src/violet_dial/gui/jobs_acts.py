"""Acts on the jobs screen: jobs collected, put away, deleted and brought back; many at once in and out; the backups in a window
of their own.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal, Slot
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.gui.jobs_cards import CARD_ROLE
from violet_dial.kit.ask import ask_yes, open_over
from violet_dial.kit.cards import labelled
from violet_dial.kit.files import Chooser
from violet_dial.kit.runner import Runner
from violet_dial.kit.theme.look import Look
from violet_dial.services.places import DEMO_FILE, is_practice
from violet_dial.services.workshop import WASTEBASKET_DAYS
from violet_dial.store.backups import DAYS, FOLDER, MONTHS, WEEKS, backups_of
from violet_dial.store.records import COLLECTED, DELETED, PUT_AWAY, Card

if TYPE_CHECKING:
    from violet_dial.gui.main_window import MainWindow
    from violet_dial.services.many import Moved
    from violet_dial.services.workshop import Workshop


RULE = (
    f"One is made each day on which something was kept; the newest of {DAYS} days, {WEEKS} weeks and {MONTHS} months stay. "
    "Bringing one back puts the workshop as it is now beside; nothing is lost."
)


class BackupsWindow(QDialog):
    """``wanted`` carries the backup to be brought back; ``now_wanted`` asks for one of this moment."""

    wanted = Signal(object)
    now_wanted = Signal()

    def __init__(self, parent: QWidget, look: Look, workshop: Path) -> None:
        super().__init__(parent)
        self.setWindowTitle("Backups")
        self._backups = backups_of(workshop)
        self.list = QListWidget()
        self.list.setAccessibleName("Backups, newest first")
        now_is = datetime.now()
        self.list.addItems([backup.said(now_is) for backup in self._backups])
        self.list.setCurrentRow(0)
        self.list.itemActivated.connect(self._take)
        now = QPushButton("Make one now  Alt+N")
        now.setShortcut("Alt+N")
        now.clicked.connect(self._make)
        leave = QPushButton("Leave all as it is  Esc")
        leave.clicked.connect(self.reject)
        self.take = QPushButton("Bring it back  ⏎")
        self.take.setProperty("role", "main")
        self.take.setEnabled(bool(self._backups))
        self.take.clicked.connect(self._take)
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (now, leave, self.take):
            button.setAutoDefault(False)
            row.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.setSpacing(10)
        layout.addWidget(labelled(f"Backups of {workshop.name}", "head", True))
        layout.addWidget(labelled(RULE, "quiet", True))
        layout.addWidget(self.list, 1)
        layout.addWidget(labelled(f"They lie in {workshop.parent / FOLDER}", "quiet", True))
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(760), room.width() - 80), min(look.px(480), room.height() - 60))
        (self.list if self._backups else now).setFocus()

    @Slot()
    def _take(self) -> None:
        place = self.list.currentRow()
        if 0 <= place < len(self._backups):
            self.accept()
            self.wanted.emit(self._backups[place].path)

    @Slot()
    def _make(self) -> None:
        self.accept()
        self.now_wanted.emit()


TAKEN = "Jobs, notes or tables of jobs (*.zip *.csv *.txt *.md)"
TAKEN_AT_PRACTICE = "Exercises, sets of them, or bundles of them (*.json *.zip)"


class JobsActs(QObject):
    """What the keys of the jobs screen do beyond opening a job."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self._chooser = Chooser(window.look.settings)
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._moved)
        self.runner.failed.connect(window.say)
        self.runner.progressed.connect(self._moving)
        self.runner.cancelled.connect(lambda: self._window.say("Stopped. What was done until then stays."))
        self._done = ""

    # one job

    @property
    def _card(self) -> Card | None:
        found: Card | None = self._window.jobs.view.currentIndex().data(CARD_ROLE)
        return found

    def collect(self) -> None:
        """The device was collected, or it came back."""
        self._shelve(COLLECTED)

    def put_away(self) -> None:
        """The job out of sight, or back."""
        self._shelve(PUT_AWAY)

    def tick(self) -> None:
        """What is due today at the card's job, ticked off without opening it."""
        card = self._card
        if card is None:
            return
        workshop = self._window.workshop
        try:
            job = workshop.read(card.job_id)
            act = next((act for station in workshop.stations if (act := station.ticked(job)) is not None), None)
            if act is None:
                self._window.say(f"Job {card.number:04d}, {card.title}: nothing is due day by day.")
                return
            view = workshop.perform(card.job_id, act)
        except VioletDialError as error:
            self._window.say(str(error))
            return
        self._window.show_jobs()
        self._window.jobs.select(card.job_id)
        self._window.say(f"Job {card.number:04d}, {card.title}. {view.log[0].reason}.")

    def delete(self) -> None:
        """Into the wastebasket, after asking once; from it, back to the bench."""
        card = self._card
        if card is None:
            return
        if card.shelf == DELETED:
            self._shelve(DELETED)
            return
        question = (
            f"Delete job {card.number:04d}, {card.title}? It stays in the wastebasket for {WASTEBASKET_DAYS} days; "
            "Del there brings it back."
        )
        ask_yes(self._window, "Delete", question, "Delete", lambda yes: self._shelve(DELETED) if yes else None)

    def _shelve(self, shelf: str) -> None:
        card = self._card
        if card is None:
            return
        wanted = "" if card.shelf == shelf else shelf
        try:
            self._window.workshop.shelve(card.job_id, wanted)
        except VioletDialError as error:
            self._window.say(str(error))
            return
        row = self._window.jobs.view.currentIndex().row()
        self._window.show_jobs()
        self._window.jobs.select_row(row)
        self._window.say(f"Job {card.number:04d}, {card.title}: {wanted or 'back on the bench'}.")

    def make_exercises(self) -> None:
        """Exercises of one's own into a file."""
        if not is_practice(self._window.workshop.path):
            self._window.say("Exercises are made at practice: Ctrl+Shift+P goes there.")
            return
        from violet_dial.gui.making_window import ask_making

        ask_making(self._window)

    # many jobs

    def all_out(self) -> None:
        """Every job as a bundle of its own into a folder."""
        self._chooser.ask_folder(self._window, "All jobs as bundles into a folder", self.write_all)

    def write_all(self, folder: Path) -> None:
        from violet_dial.services.many import all_out

        path, stations = self._window.workshop.path, self._window.workshop.stations
        self._done = "{} written as bundles."
        self.runner.start(lambda task: all_out(path, folder, stations, task))

    def take_folder(self) -> None:
        """Bundles, notes and tables of jobs from a folder."""
        self._chooser.ask_folder(self._window, "Jobs from a folder", lambda folder: self.take([str(folder)]))

    def take_files(self) -> None:
        """Bundles, notes and tables of jobs from files."""
        at_practice = is_practice(self._window.workshop.path)
        title, kinds = ("Import exercises", TAKEN_AT_PRACTICE) if at_practice else ("Import jobs", TAKEN)
        self._chooser.ask_open_many(self._window, title, kinds, self.take)

    def take(self, paths: list[str]) -> None:
        """Take what these files and folders hold."""
        from violet_dial.services.many import all_in

        workshop, sources = self._window.workshop, tuple(Path(path) for path in paths)
        if workshop.read_only_reason:
            self._window.say(f"Only looking: {workshop.read_only_reason}. Nothing was taken.")
            return
        self._done = "{} taken."
        self.runner.start(lambda task: all_in(workshop.path, sources, workshop.stations, task))

    @Slot(float, str)
    def _moving(self, share: float, text: str) -> None:
        self._window.workshop.changed_beside()  # what was taken until now is soon in the file itself
        self._window.say(f"{share:.0%}, {text}. Esc stops.")

    @Slot(object)
    def _moved(self, moved: Moved) -> None:
        self._window.workshop.changed_beside()
        self._window.list_jobs()
        if moved.count == 1 and moved.last and not self._window.on_job:
            self._window.open_job(moved.last)
        said = self._done.format(f"{moved.count or 'No'} job{'s' * (moved.count > 1)}")
        if moved.refused:
            more = f" And {len(moved.refused) - 1} more." if len(moved.refused) > 1 else ""
            said += f" {len(moved.refused)} not: {moved.refused[0]}{more}"
        self._window.say(said)

    def stop(self) -> bool:
        """Stop what runs; False when nothing did."""
        busy = self.runner.busy
        self.runner.cancel()
        return busy

    # the workshop

    def backups(self) -> None:
        """The backups there are; Enter brings one back."""

        window = BackupsWindow(self._window, self._window.look, self._window.workshop.path)
        window.wanted.connect(self._bring_back)
        window.now_wanted.connect(self._back_up_now)
        open_over(window)

    def _bring_back(self, backup: Path) -> None:
        """A backup in place of the workshop on the bench; what stands there now is put beside."""
        from datetime import datetime

        from violet_dial.store.backups import restore

        before = self._window.workshop
        aside: list[Path | None] = []

        def made() -> Workshop:
            aside.append(restore(before.path, backup, datetime.now()))
            return before.again()

        if self._window.change_workshop(made):
            beside = f" What stood there is now {aside[0].name}." if aside[0] else ""
            self._window.say(f"Brought back: {backup.name}.{beside}")

    def _back_up_now(self) -> None:
        from datetime import datetime

        from violet_dial.store.backups import back_up

        path, say = self._window.workshop.path, self._window.say
        runner = Runner(self)
        runner.succeeded.connect(lambda made: say(f"Backup written: {made}"))
        runner.failed.connect(say)
        runner.start(lambda task: back_up(path, datetime.now()))

    def demo_anew(self) -> None:
        """The demo as it was at first."""
        if self._window.workshop.path.name != DEMO_FILE:
            self._window.say("This is no demo. Ctrl+D opens the demo workshop; there this key sets it back.")
            return
        question = "Set the demo back to how it was at first? What you did in it is gone then."
        again: Callable[[bool], None] = lambda yes: self._window.demo_anew_asked.emit() if yes else None  # noqa: E731
        ask_yes(self._window, "The demo anew", question, "Set it back", again)
