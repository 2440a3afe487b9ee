"""Long work in a thread: one newest ticket, progress, cancel; late results vanish."""

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QThread, QTimer, Signal, Slot

from violet_dial.core.errors import TaskCancelled, VioletDialError

CLOSE_WAIT_MS = 300  # work that does not stop in time is left to end by itself
_LEFT: list[QThread] = []  # kept alive until they have ended
REPORT_EVERY_S = 0.05
TIDY_MS = 20
_log = logging.getLogger(__name__)


def work_is_left() -> bool:
    """Whether work that was told to stop is still at it: the process must not be taken down under it."""
    return any(worker.isRunning() for worker in _LEFT)


class _Watch:
    """The task a worker is given: reports at most 20 times a second, stops when told."""

    def __init__(self, say: Callable[[float, str], None]) -> None:
        self._say = say
        self._last = 0.0
        self.stop = threading.Event()

    def report(self, fraction: float, text: str) -> None:
        now = time.monotonic()
        if now - self._last >= REPORT_EVERY_S or fraction >= 1:
            self._last = now
            self._say(fraction, text)

    def check(self) -> None:
        if self.stop.is_set():
            raise TaskCancelled


class _Worker(QThread):
    succeeded = Signal(int, object)
    failed = Signal(int, str)
    cancelled = Signal(int)
    progressed = Signal(int, float, str)

    def __init__(self, ticket: int, work: Callable[[Any], Any], parent: QObject) -> None:
        super().__init__(parent)
        self.ticket = ticket
        self._work = work
        self.watch = _Watch(lambda fraction, text: self.progressed.emit(ticket, fraction, text))

    def run(self) -> None:
        try:
            result = self._work(self.watch)
        except TaskCancelled:
            self.cancelled.emit(self.ticket)
        except VioletDialError as error:
            self.failed.emit(self.ticket, str(error))
        except Exception as error:  # noqa: BLE001 - the one place that catches everything
            _log.exception("fault in a worker")
            self.failed.emit(self.ticket, f"Fault in the program ({type(error).__name__}: {error}). Nothing was changed.")
        else:
            self.succeeded.emit(self.ticket, result)


class Runner(QObject):
    """Runs one piece of work at a time, never two at once: starting another cancels the one before, and begins when that has
    ended; of several that wait, the newest."""

    succeeded = Signal(object)
    failed = Signal(str)
    cancelled = Signal()
    progressed = Signal(float, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._ticket = 0
        self._worker: _Worker | None = None
        self._waiting: Callable[[Any], Any] | None = None

    @property
    def busy(self) -> bool:
        """Whether the work started last is still to be done."""
        return self._waiting is not None or (self._worker is not None and self._worker.ticket == self._ticket)

    def start(self, work: Callable[[Any], Any]) -> None:
        """Run ``work(task)`` in a thread, as soon as what runs has ended."""
        self.cancel()
        self._ticket += 1
        self._waiting = work
        if self._worker is None:
            self._begin()
        elif self._worker.isFinished():  # its last signal has still to come, or came before it had quite ended
            self._tidy()

    def _begin(self) -> None:
        work, self._waiting = self._waiting, None
        if work is None:
            return
        worker = _Worker(self._ticket, work, self)
        worker.succeeded.connect(self._succeeded)
        worker.failed.connect(self._failed)
        worker.cancelled.connect(self._cancelled)
        worker.progressed.connect(self._progressed)
        worker.finished.connect(self._tidy)
        self._worker = worker
        worker.start()

    def begin(self) -> None:
        """Another job: what runs is for nobody."""
        self.cancel()

    def cancel(self) -> None:
        """Tell running work to stop; what waits is not begun."""
        self._waiting = None
        if self._worker is not None:
            self._worker.watch.stop.set()

    def close(self) -> bool:
        """Cancel and wait; False when a worker did not stop in time."""
        self.cancel()
        self._ticket += 1
        worker = self._worker
        if worker is None or worker.wait(CLOSE_WAIT_MS):
            return True
        worker.setParent(None)
        worker.finished.disconnect(self._tidy)
        self._worker = None
        _LEFT.append(worker)
        return False

    @Slot(int, object)
    def _succeeded(self, ticket: int, result: object) -> None:
        if ticket == self._ticket:
            self.succeeded.emit(result)

    @Slot(int, str)
    def _failed(self, ticket: int, sentence: str) -> None:
        if ticket == self._ticket:
            self.failed.emit(sentence)

    @Slot(int)
    def _cancelled(self, ticket: int) -> None:
        if ticket == self._ticket:
            self.cancelled.emit()

    @Slot(int, float, str)
    def _progressed(self, ticket: int, fraction: float, text: str) -> None:
        if ticket == self._ticket:
            self.progressed.emit(fraction, text)

    @Slot()
    def _tidy(self) -> None:
        if self._worker is None:
            return
        if not self._worker.isFinished():  # it has said so a moment before it had: what waits must not wait for ever
            QTimer.singleShot(TIDY_MS, self, self._tidy)
            return
        self._worker.deleteLater()
        self._worker = None
        self._begin()
