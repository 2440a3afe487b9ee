"""What the stations say of the job on the bench, worked out beside, once it is kept, for the version in view."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal, Slot

from violet_dial.kit.runner import Runner
from violet_dial.services.appraisal import Appraisal, appraise
from violet_dial.services.station import Station
from violet_dial.services.workshop import JobView

SLOW_MS = 150  # from which it is said that Next is being worked out


class Appraising(QObject):
    """Asks the stations anew whenever it is told to, beside the window's work; of several askings the newest counts.

    Parameters
    ----------
    in_view : the version in view, None where no job is at the bench, and what the pages have worked out for it, by station
    """

    appraised = Signal()  # `latest` is of the version in view
    slow = Signal()
    said = Signal(str)

    def __init__(
        self, parent: QObject, stations: tuple[Station, ...], in_view: Callable[[], tuple[JobView | None, dict[str, Any]]]
    ) -> None:
        super().__init__(parent)
        self._stations, self._in_view = stations, in_view
        self.latest: Appraisal | None = None  # of the version in view, or of the one before while that is worked out
        self.is_on = False  # whether that is still being worked out
        self._results: dict[str, Any] = {}  # of the pages, that it was worked out with
        self._follows: Callable[[], None] | None = None  # what waits for it
        self._runner = Runner(self)
        self._soon = QTimer(self, singleShot=True, interval=0)  # what was kept is drawn first
        self._slow = QTimer(self, singleShot=True, interval=SLOW_MS)
        self._soon.timeout.connect(self._begin)
        self._slow.timeout.connect(self.slow)
        self._runner.succeeded.connect(self._done)
        self._runner.failed.connect(self.said)

    def begin(self, view: JobView) -> Appraisal:
        """Another job comes to the bench: what is said of it, at once."""
        self.latest, self._results = appraise(view.job, view.version_id, self._stations), {}
        return self.latest

    def ask(self) -> None:
        """Work it out anew."""
        self.is_on = True
        self._soon.start()
        self._slow.start()

    def ask_where_worked_out(self) -> None:
        """Work it out anew where a page has worked out what was not known before."""
        if any(result is not self._results.get(name) for name, result in self._in_view()[1].items()):
            self.ask()

    def then(self, follows: Callable[[], None]) -> None:
        """Do something as soon as it is known."""
        self._follows = follows

    @Slot()
    def _begin(self) -> None:
        view, results = self._in_view()
        if view is None:
            return
        self._results = results
        self._runner.start(lambda task: appraise(view.job, view.version_id, self._stations, results))

    @Slot(object)
    def _done(self, found: Appraisal) -> None:
        view, _ = self._in_view()
        if view is None or found.version_id != view.version_id or self._soon.isActive():
            return
        self._slow.stop()
        self.is_on, self.latest = False, found
        self.appraised.emit()

    def go_on(self) -> None:
        """It was shown: do what waited for it."""
        follows, self._follows = self._follows, None
        if follows is not None:
            follows()

    def close(self) -> None:
        """Stop what is being worked out."""
        self._soon.stop()
        self._slow.stop()
        self.is_on, self._follows = False, None
        self._runner.close()
