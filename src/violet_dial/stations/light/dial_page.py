"""The page Dial of Light: one run's readings on the dial and in a strip, the verdict, the sum behind the reading under the
cursor."""

from dataclasses import replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from violet_dial.job.document import Job
from violet_dial.job.light import Run
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.form import combo
from violet_dial.kit.page import OpenedSum, StationPage
from violet_dial.report.dial import needle_at
from violet_dial.services.light_judgement import judge_run
from violet_dial.stations.light.acts import strike_reading
from violet_dial.stations.light.bar_state import READING
from violet_dial.stations.light.dial_view import DialView, ReadingStrip
from violet_dial.stations.light.state import SUM_TITLE, LightShown, shown
from violet_dial.stations.light.sum import explain

ROOMY_PERCENT = 125  # larger text leaves the head no room for how the meter is checked; F4 shows it


class DialPage(StationPage):
    """Shows one run of the job; ``run_chosen`` when another is to be shown."""

    run_chosen = Signal()

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._look = look = context.look
        self.run = -1  # which is shown: the current one
        self._now: float | None = None
        self.shown: LightShown | None = None
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "quiet", True)
        self.flags, self.sum = labelled("", "small", True), labelled("", "small", True)
        self.setup = QPushButton()
        self.setup.setProperty("role", "link")
        self.runs = combo("Run shown", ())
        self.runs.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.runs.setMinimumWidth(150)
        self.dial, self.strip = DialView(look), ReadingStrip(look)
        head = QWidget()
        top = QHBoxLayout(head)
        top.setContentsMargins(0, 0, 0, 0)
        top.addWidget(labelled("Against reference light", "small"))
        top.addWidget(self.runs)
        top.addStretch(1)
        top.addWidget(self.setup)
        self.lay((head, self.headline, self.reason, self.flags), self.dial, (self.strip, self.sum), spacing=3)
        look.changed.connect(self._fit)
        self.runs.activated.connect(self._choose_run)
        self.dial.selected.connect(self._to_reading)
        self.strip.chosen.connect(self.dial.select)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.run, self._now = -1, None
        self.dial.begin()
        self.strip.begin()

    def draw(self, job: Job) -> None:
        one = self.shown = shown(job, self.run, self._now)
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.flags.setText(one.flags)
        if [self.runs.itemText(at) for at in range(self.runs.count())] != list(one.runs):
            self.runs.clear()
            self.runs.addItems(one.runs)
        self.runs.setCurrentIndex(one.run)
        self.runs.setVisible(len(one.runs) > 1)
        self.dial.show_dial(one.dial, one.readings)
        self.strip.show_slots(one.slots, self.dial.cursor_index)
        self.sum.setText(one.sum_of(self.dial.cursor_index))
        self._fit()

    @Slot()
    def _fit(self) -> None:
        """Large text leaves the dial its room: the small lines go first (F3 has them), then the page scrolls."""
        roomy = self.height() > self._look.px(500)
        said = f"{self.shown.setup}   " if self.shown and self._look.percent <= ROOMY_PERCENT else ""
        self.setup.setText(f"{said}Set-up  F4")
        self.flags.setVisible(roomy)
        self.sum.setVisible(roomy)
        self.dial.setMinimumHeight(self._look.px(150 if roomy else 124))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def show_now(self, ev100: float | None, is_judged: bool) -> None:
        """Where the meter shows now, as typed: the needle of the dial alone is drawn again."""
        if self._job is None or self.shown is None or ev100 == self._now:
            return
        self._now = ev100
        if not is_judged or self.shown.run != len(self.shown.runs) - 1:
            return
        needle = needle_at(judge_run(self._job, self.shown_run).assessment, ev100)
        self.shown = replace(self.shown, dial=replace(self.shown.dial, needle=needle))
        self.dial.show_dial(self.shown.dial, self.shown.readings)

    @property
    def shown_run(self) -> Run:
        """The run on the page."""
        runs = self._job.light.runs if self._job else (Run(),)
        return runs[self.shown.run if self.shown and self.shown.run < len(runs) else -1]

    @Slot(int)
    def _to_reading(self, index: int) -> None:
        self.strip.set_cursor(index)
        self.sum.setText(self.shown.sum_of(index) if self.shown else "")

    @Slot(int)
    def _choose_run(self, index: int) -> None:
        self.run = index
        self.run_chosen.emit()

    def opened(self) -> OpenedSum:
        job, run = self._known(), self.shown_run
        return SUM_TITLE, explain(job, run, judge_run(job, run), self.dial.cursor_index)

    def focus_first(self) -> None:
        """To the needle, in the bar."""
        self._context.bar.focus_field(READING)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        index = self.dial.cursor_index
        last = self.shown is not None and self.shown.run == len(self.shown.runs) - 1
        if event.key() == Qt.Key.Key_Delete and last and index >= 0:
            self._context.perform(lambda job, at: strike_reading(job, index, at))
            return
        super().keyPressEvent(event)
