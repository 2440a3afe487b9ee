"""Open, off: one typed line per step, the list in the order of removal, and the tray."""

from itertools import takewhile

from PySide6.QtCore import QSignalBlocker, Signal, Slot
from PySide6.QtWidgets import QHBoxLayout, QWidget

from violet_dial.core.opening.care import bath_advice
from violet_dial.core.opening.tally import tally
from violet_dial.core.opening.typed import complete_line, typed_form
from violet_dial.gui.stations.opening.rows import off_row
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled
from violet_dial.gui.widgets.rows_table import RowsModel, RowsTable
from violet_dial.gui.widgets.tray_view import STATE_MARKS, TrayView
from violet_dial.gui.widgets.typed_line import TypedLine
from violet_dial.job.document import Job
from violet_dial.report.checklist import mind, said
from violet_dial.services.opening import strike_step, take_planned, take_step, typed_step, vocabulary_of

HEADS = ("", "off", "size, head, finish", "hand", "tray")


class OffPage(QWidget):
    """Enter on the line takes a step; Enter on a row opens its form, P takes a planned row off, Del strikes it out."""

    act_asked = Signal(object)
    form_asked = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._job: Job | None = None
        self.typed = TypedLine("What comes off", self._offers, self._understood)
        self.typed.edit.setPlaceholderText("screw x3 top cover M1.4x3 cross chrome -> A1")
        self.model = RowsModel(look, HEADS)
        self.table = RowsTable(look, "Strip-down, in the order of removal", 1)
        self.table.setModel(self.model)
        self.table.set_widths(30, 200, 150, 66, 48)
        self.table.spill(1)
        self.table.drop_when_narrow(2, 400)
        self.tray = TrayView(look)
        self.detail = labelled("", "small", True)
        left, inside = card()
        inside.addWidget(self.typed)
        inside.addWidget(self.table, 1)
        inside.addWidget(self.detail)
        right, laid = card("Tray")
        laid.addWidget(self.tray, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(left, 5)
        layout.addWidget(right, 3)
        self.typed.taken.connect(self._take)
        self.table.entered_row.connect(lambda row: self.form_asked.emit(self._step_id(row)))
        self.table.struck_row.connect(self._strike)
        self.table.letter.connect(self._letter)
        self.table.row_changed.connect(self._show_detail)
        self.tray.chosen.connect(self.table.choose)

    def show_job(self, job: Job) -> None:
        """Show the list and the tray; a step that came is chosen."""
        steps, before = job.opening.steps, self._job.opening.steps if self._job else ()
        off = [place for place, step in enumerate(steps) if not step.planned]
        came = self._job is not None and len(off) > sum(not step.planned for step in before)
        row = self.table.row
        self._job = job
        same = sum(1 for _ in takewhile(lambda pair: pair[0] is pair[1], zip(steps, before, strict=False)))
        rows = self.model.rows[:same] + tuple(off_row(place, steps[place]) for place in range(same, len(steps)))
        marks = self.model.marks[:same] + tuple(STATE_MARKS[tally(step).state] for step in steps[same:])
        self.model.show(rows, marks)
        with QSignalBlocker(self.table):  # the detail is shown once, below
            self.table.choose(off[-1] if came and off else min(row, len(rows) - 1) if row >= 0 else len(rows) - 1)
        self._show_detail()

    def _step_id(self, row: int) -> str:
        return self._job.opening.steps[row].step_id if self._job else ""

    @Slot(int)
    def _show_detail(self, row: int = -1) -> None:
        steps = self._job.opening.steps if self._job else ()
        row = self.table.row
        self.tray.show_steps(steps, row)
        if not 0 <= row < len(steps):
            self.detail.setText("One line for each thing that comes off. Tab completes, Enter takes it.")
            return
        step = steps[row]
        facts = (
            said(step),
            f"under {', '.join(step.under)}" * bool(step.under),
            mind(step),
            f"tally {tally(step).words}",
        )
        keys = "P takes it off" if step.planned else "Enter changes it"
        self.detail.setText(" · ".join(part for part in (*facts, keys) if part))

    def _offers(self, text: str) -> tuple[str, ...]:
        return complete_line(text, vocabulary_of(self._job)) if self._job else ()

    def _understood(self, text: str) -> str:
        if self._job is None:
            return ""
        step, met = typed_step(self._job, text)
        facts = ["as planned" * (met is not None), said(step)]
        facts += [f"into {step.tray}" if step.tray else "no compartment named", mind(step)]
        caution = [step.caution, bath_advice(step.kind, step.no_bath)] if step.caution else []
        return " · ".join(part for part in (*facts, *caution) if part)

    @Slot(str)
    def _take(self, text: str) -> None:
        self.typed.clear()
        self.act_asked.emit(lambda job, at: take_step(job, text, at))

    @Slot(int)
    def _strike(self, row: int) -> None:
        step_id = self._step_id(row)
        self.act_asked.emit(lambda job, at: strike_step(job, step_id, at))

    @Slot(str, int)
    def _letter(self, letter: str, row: int) -> None:
        if self._job is None:
            return
        step = self._job.opening.steps[row]
        if letter == "P" and step.planned:
            self.act_asked.emit(lambda job, at: take_planned(job, step.step_id, at))
        elif letter == "C":  # the same again: the line is put in to be changed
            self.typed.edit.setText(typed_form(step))
            self.typed.edit.setFocus()

    def focus_first(self) -> None:
        self.typed.edit.setFocus()
