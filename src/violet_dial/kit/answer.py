"""What a page asks of the core, worked out beside: the newest question alone, and answers of before known again."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal, Slot

from violet_dial.core.task import Task
from violet_dial.kit.runner import Runner
from violet_dial.services.remembered import Answers

SLOW_MS = 150  # what takes no longer than a blink is waited for with what stood there before


class PageAnswer(QObject):
    """The question a page asked last, and what came of it.

    ``came`` is emitted when an answer, a part of one, or the reason why there is none has come; not for one that was known.
    ``slow`` when one is still awaited after a blink. ``kept`` is where answers are known from, in whatever window they were
    asked for.
    """

    came = Signal()
    slow = Signal()
    _part = Signal(object, object)

    def __init__(self, parent: QObject, kept: Answers | None = None) -> None:
        super().__init__(parent)
        self._kept = kept or Answers(1)
        self._runner = Runner(self)
        self._runner.succeeded.connect(self._succeeded)
        self._runner.failed.connect(self._failed)
        self._part.connect(self._came_in_part)
        self._blink = QTimer(self, singleShot=True, interval=SLOW_MS)
        self._blink.timeout.connect(self.slow)
        self.begin()

    def begin(self) -> None:
        """Another job: nothing is asked, nothing is known of the last one."""
        self.stop()
        self.last: Any = None  # the newest answer, also while the next is being worked out, and parts of that

    def stop(self) -> None:
        """Nothing is worked out any more; it is asked for anew when it is wanted."""
        self.question: object = None
        self.result: Any = None  # the answer to the question; None while it is worked out, and where there is none
        self.failure = ""
        self.busy = False
        self._blink.stop()
        self._runner.cancel()

    def close(self) -> None:
        """The page goes."""
        self.stop()
        self._runner.close()

    def ask(self, question: object, work: Callable[[Task], object]) -> bool:
        """Have it worked out, where it is not known and not what was asked last; True when another answer is there at once."""
        if question == self.question:
            return False
        known = self._kept.get(question)
        self.stop()
        self.question = question
        if known is not None:
            self.result = self.last = known
            return True
        self.busy = True
        self._blink.start()
        self._runner.start(lambda task: (question, work(task)))
        return False

    def refuse(self, question: object, sentence: str) -> None:
        """There is no answer, and this is why."""
        self.stop()
        self.question, self.failure = question, sentence

    def tell(self, question: object, part: object) -> None:
        """From the work: a part of the answer, before the whole."""
        self._part.emit(question, part)

    @Slot(object)
    def _succeeded(self, answered: tuple[object, object]) -> None:
        question, result = answered
        if question != self.question:
            return
        self._blink.stop()
        self.busy, self.result, self.last = False, result, result
        if result is not None:
            self._kept.put(question, result)
        self.came.emit()

    @Slot(str)
    def _failed(self, sentence: str) -> None:
        self._blink.stop()
        self.busy, self.failure = False, sentence
        self.came.emit()

    @Slot(object, object)
    def _came_in_part(self, question: object, part: object) -> None:
        if question == self.question and self.busy:
            self.last = part
            self.came.emit()
