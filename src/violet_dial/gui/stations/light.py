"""Light: the dial, the strip of readings, the verdict, and the sum behind the reading under the cursor."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.dial_view import DialView
from violet_dial.gui.widgets.form import combo
from violet_dial.gui.widgets.reading_strip import ReadingStrip, slots_for
from violet_dial.job.document import Job, Run
from violet_dial.report.dial import Dial, DialRequest, draw_dial, needle_at
from violet_dial.services.acts import Done, strike_reading
from violet_dial.services.explain import flag_line
from violet_dial.services.judge import Judgement, judge_run
from violet_dial.services.progress import unread_lights

ROOMY_PERCENT = 125  # larger text leaves the head no room for how the meter is checked; F4 shows it


class LightStation(QWidget):
    """Shows one run of the job; only the current run takes readings."""

    act_asked = Signal(object)
    setup_asked = Signal()
    light_chosen = Signal(float)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.headline = labelled("", "verdict", True)
        self.reason = labelled("", "quiet", True)
        self.flags = labelled("", "small", True)
        self.setup = QPushButton()
        self.setup.setProperty("role", "link")
        self.setup.clicked.connect(self.setup_asked)
        self.runs = combo("Run shown", ())
        self.runs.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.runs.setMinimumWidth(150)
        self.runs.activated.connect(self._choose_run)
        self.dial = DialView(look)
        self.strip = ReadingStrip(look)
        self.sum = labelled("", "small", True)
        self._job: Job | None = None
        self._run = -1
        self._now: float | None = None
        self._dial = Dial((), (), (), (), None)
        self._build()

    def _build(self) -> None:
        frame, inside = card()
        inside.setSpacing(3)
        top = QHBoxLayout()
        top.addWidget(labelled("Against reference light", "small"))
        top.addWidget(self.runs)
        top.addStretch(1)
        top.addWidget(self.setup)
        inside.addLayout(top)
        for item in (self.headline, self.reason, self.flags):
            inside.addWidget(item)
        inside.addWidget(self.dial, 1)
        inside.addWidget(self.strip)
        inside.addWidget(self.sum)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))
        self._look.changed.connect(self._fit)
        self._fit()
        self.dial.selected.connect(self._to_reading)
        self.strip.chosen.connect(self.dial.select)
        self.strip.light_chosen.connect(self.light_chosen)

    @Slot()
    def _fit(self) -> None:
        """Large text leaves the dial its room: the small lines go first (F3 has them), then the page scrolls."""
        roomy = self.height() > self._look.px(500)
        self._show_setup()
        self.flags.setVisible(roomy)
        self.sum.setVisible(roomy)
        self.dial.setMinimumHeight(self._look.px(150 if roomy else 124))

    def _show_setup(self) -> None:
        if self._job is not None:
            setup = self._job.light.setup
            said = f"ISO {setup.film_speed:g} · {setup.light_source} · {setup.chain.source.kind}   "
            self.setup.setText(f"{said if self._look.percent <= ROOMY_PERCENT else ''}Set-up  F4")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    @property
    def shown_run(self) -> Run:
        """The run on the page."""
        if self._job is None:
            return Run()
        return self._job.light.runs[self._run]

    @property
    def judgement(self) -> Judgement | None:
        return judge_run(self._job, self.shown_run) if self._job else None

    def show_job(self, job: Job) -> None:
        """Show the job; a new run comes to the front by itself. An act elsewhere changes nothing here."""
        if self._job is not None and job.light == self._job.light and job.job_id == self._job.job_id:
            self._job = job
            return
        if self._job is None or len(job.light.runs) != len(self._job.light.runs) or job.job_id != self._job.job_id:
            self._run = len(job.light.runs) - 1
            self.runs.clear()
            self.runs.addItems([f"run {n}: {run.name}" for n, run in enumerate(job.light.runs, start=1)])
            self.runs.setCurrentIndex(self._run)
            self.runs.setVisible(len(job.light.runs) > 1)
        self._job = job
        self._refresh()

    def show_now(self, ev100: float | None) -> None:
        """Where the meter shows now, as typed; the needle of the dial."""
        judgement = self.judgement
        if ev100 != self._now and judgement is not None:
            self._now = ev100
            self._dial = replace(self._dial, needle=needle_at(judgement.assessment, ev100))
            self.dial.show_dial(self._dial, judgement.assessment.readings)

    def _refresh(self) -> None:
        judgement = self.judgement
        if self._job is None or judgement is None:
            return
        self._show_setup()
        taken = bool(judgement.assessment.readings)
        self.headline.setText(judgement.verdict.headline if taken else "No readings yet")
        why = "Set the light that Next asks for, type what the needle shows, press Enter."
        self.reason.setText(judgement.verdict.reason if taken else why)
        self.flags.setText(flag_line(judgement.assessment) if taken else "")
        self._draw()

    def _draw(self) -> None:
        judgement = self.judgement
        if self._job is None or judgement is None:
            return
        a = judgement.assessment
        current = self._run == len(self._job.light.runs) - 1
        unread = unread_lights(self._job) if current else ()
        self._dial = draw_dial(DialRequest(a, self._now if current else None, unread, current))
        self.dial.show_dial(self._dial, a.readings)
        self.strip.show_slots(slots_for(a.readings, unread), self.dial.cursor_index)
        self._show_sum()

    @Slot(int)
    def _to_reading(self, index: int) -> None:
        self.strip.set_cursor(index)
        self._show_sum()

    def _show_sum(self) -> None:
        judgement = self.judgement
        index = self.dial.cursor_index
        readings = judgement.assessment.readings if judgement else ()
        self.sum.setText(readings[index].arithmetic if 0 <= index < len(readings) else "")

    @Slot(int)
    def _choose_run(self, index: int) -> None:
        self._run = index
        self._refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        last = self._job is not None and self._run == len(self._job.light.runs) - 1
        if event.key() == Qt.Key.Key_Delete and last and self.dial.cursor_index >= 0:
            self.act_asked.emit(_struck(self.dial.cursor_index))
            return
        super().keyPressEvent(event)


def _struck(index: int) -> Callable[[Job, str], Done]:
    return lambda job, at: strike_reading(job, index, at)
