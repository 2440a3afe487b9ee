"""The page Traces: captures of an oscilloscope, one below the other, with one line to type."""

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Evidence
from violet_dial.instruments.kept import Kept
from violet_dial.job.document import Job
from violet_dial.job.exposing import TraceTaken
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import PageContext
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import line
from violet_dial.stations.expose import traces_acts as acts
from violet_dial.stations.expose.traces_state import TracesShown, traces_shown
from violet_dial.stations.expose.traces_view import TracesView


class TracesPage(QWidget):
    """Shows one frozen value; ``shown`` is the last; ``chosen`` when another trace is under the cursor."""

    chosen = Signal()

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self._scope: Kept | None = None
        self.runner = Runner(self)
        self.runner.succeeded.connect(self._fetched)
        self.runner.failed.connect(context.say)
        self.shown = TracesShown("", "", (), ())
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.view, self.captures = TracesView(context.look), acts.Captures()
        self.typed = line("A trace named, or given to Trace", self._understood, self._take)
        self.typed.edit.setPlaceholderText("1 is vreg to gnd")
        frame, inside = card()
        inside.setSpacing(6)
        for label in (self.headline, self.reason):
            inside.addWidget(label)
        inside.addWidget(scrolled(self.view), 1)
        inside.addWidget(self.typed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        self.view.chosen.connect(self._choose)

    def begin(self, job: Job) -> None:
        """Another job at the bench."""
        self.runner.cancel()
        self.typed.clear()
        self.view.begin()
        self.captures.clear()

    def show_job(self, job: Job) -> None:
        """Draw all of it."""
        self._job = job
        self.shown = traces_shown(job)
        found = {place: self.captures.pyramid(trace) for place, trace in enumerate(job.exposing.traces)}
        self.view.pyramids = {place: one for place, one in found.items() if one is not None}
        self.view.show_rows(self.shown.rows)
        self._choose()

    def _choose(self) -> None:
        rows = self.shown.rows
        if rows:
            one = rows[self.view.place]
            self.headline.setText(one.name)
            self.reason.setText(one.words)
        else:
            self.headline.setText(self.shown.headline)
            self.reason.setText(self.shown.reason)
        self.chosen.emit()

    def _understood(self, text: str) -> str:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        if text.lower().startswith("scope "):
            return f"= an oscilloscope at {acts.scope_of(text[6:]).address}: F8 takes its trace"
        if acts.points_of(self._job, text) is not None:
            return f"= {text.strip()}: F8 takes the trace there"
        return acts.understand(self._job, text).words

    def _take(self, text: str) -> bool:
        if text.lower().startswith("scope "):
            self._scope = acts.scope_of(text[6:])
            return True
        if self._job is not None and acts.points_of(self._job, text) is not None:
            self.fetch()
            return False
        return self._context.perform(lambda job, at: acts.understand(job, text).act(job, at))

    # the oscilloscope

    @property
    def asks(self) -> Evidence | None:
        """The points that are typed, for simulated hands."""
        return None if self._job is None else acts.points_of(self._job, self.typed.edit.text())

    def fetch(self) -> None:
        """The trace of the oscilloscope at hand, named as the points that are typed."""
        kept = self._scope or self._context.instruments.scope()
        if kept is None:
            self._context.say(
                "No oscilloscope: type scope and its address, start the simulated bench (F12), or take a file (Ctrl+I)."
            )
            return
        name = self.typed.edit.text().strip() if self.asks is not None else "channel 1"
        self.runner.start(lambda task: acts.fetched(kept, name))

    @Slot(object)
    def _fetched(self, taken: TraceTaken) -> None:
        if self._context.perform(acts.taking((taken,))):
            self._context.instruments.hear(True)
            self.typed.clear()

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)
