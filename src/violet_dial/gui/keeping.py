"""Beside the work: the file made whole when all is at rest, a backup each day, the wastebasket emptied, and an orderly end
when the system asks for one."""

import signal
import socket
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from types import FrameType

from PySide6.QtCore import QObject, QSocketNotifier, QTimer, Signal, Slot

from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.kit.runner import Runner
from violet_dial.services.workshop import Workshop

LOOK_EVERY_MS = 2_000
BACKUP_EVERY_MS = 3_600_000  # looked whether one is due; the rule says when it is


def daily_backup(path: Path, task: Task) -> Path | None:
    """The day's backup where it is due, for a worker."""
    from violet_dial.store.backups import back_up, is_due

    now = datetime.now()
    return back_up(path, now) if is_due(path, now) else None


class Keeping(QObject):
    """Looks after the workshop on the bench; ``said`` carries what the person must know, ``moved`` that it lies elsewhere."""

    said = Signal(str)
    moved = Signal()

    def __init__(self, parent: QObject, workshop: Callable[[], Workshop]) -> None:
        super().__init__(parent)
        self._workshop = workshop
        self._told = ""
        self._backs_up = False
        self._backups = Runner(self)
        self._backups.failed.connect(self.said)
        self._look = QTimer(self, interval=LOOK_EVERY_MS)
        self._look.timeout.connect(self.look)
        self._look.start()
        self._due = QTimer(self, interval=BACKUP_EVERY_MS)
        self._due.timeout.connect(self.back_up)

    @Slot()
    def look(self) -> None:
        """The file is made whole; what became of it is said once."""
        workshop = self._workshop()
        try:
            workshop.settle()
        except VioletDialError as error:
            self._tell(str(error))
            return
        if workshop.notice:
            self._tell(workshop.notice)

    def _tell(self, sentence: str) -> None:
        if sentence != self._told:
            self._told = sentence
            self.said.emit(sentence)
            self.moved.emit()

    def begin(self, backs_up: bool) -> None:
        """A workshop came to the bench: its wastebasket, and its backups where it is one's own."""
        self._backs_up = backs_up
        self._due.start()
        workshop = self._workshop()
        if not workshop.read_only_reason:
            try:
                workshop.empty_wastebasket()
            except VioletDialError as error:
                self.said.emit(str(error))
            self.back_up()

    @Slot()
    def back_up(self) -> None:
        """The day's backup, in a worker, where it is due."""
        workshop = self._workshop()
        if self._backs_up and not workshop.read_only_reason and not self._backups.busy:
            path = workshop.path
            self._backups.start(lambda task: daily_backup(path, task))

    def pause(self) -> None:
        """The workshop is about to be closed: nothing is read of it beside."""
        self._backups.close()

    def close(self) -> None:
        """Nothing more is looked after."""
        self._look.stop()
        self._due.stop()
        self._backups.close()


class EndAsked(QObject):
    """SIGTERM, SIGHUP and SIGINT as a signal of the event loop, so that the window ends in an orderly way."""

    asked = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._here, self._there = socket.socketpair()
        for one in (self._here, self._there):
            one.setblocking(False)
        signal.set_wakeup_fd(self._there.fileno(), warn_on_full_buffer=False)
        for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
            signal.signal(number, _noted)
        self._notifier = QSocketNotifier(self._here.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._came)

    @Slot()
    def _came(self) -> None:
        self._here.recv(64)
        self.asked.emit()


def _noted(number: int, frame: FrameType | None) -> None:
    """The wake-up descriptor has carried it on already."""
