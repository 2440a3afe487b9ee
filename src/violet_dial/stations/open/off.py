"""Open, off: one typed line per step, the list in the order of removal, and the tray."""

from itertools import takewhile

from PySide6.QtCore import QSignalBlocker, Signal, Slot
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QRadioButton, QTextBrowser, QVBoxLayout

from violet_dial.core.opening.care import CLEANING, SCHOOLS, bath_advice
from violet_dial.core.opening.steps import KINDS
from violet_dial.core.opening.tally import tally
from violet_dial.core.opening.typed import complete_line, typed_form
from violet_dial.job.document import Job
from violet_dial.kit.cards import card, labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.text_window import sections_html
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.open.acts import choose_sealant, strike_step, take_planned, take_step
from violet_dial.stations.open.state import off_row, step_detail, typed_said, vocabulary_of
from violet_dial.stations.open.tray_view import TrayView
from violet_dial.stations.open.words import STATE_MARKS

HEADS = ("", "off", "size, head, finish", "hand", "tray")


class OffPage(StationPage):
    """Enter on the line takes a step; Enter on a row opens its form, P takes a planned row off, Del strikes it out."""

    form_asked = Signal(str)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        look = context.look
        self.typed = TypedLine("What comes off", self._offers, self._understood, self._take)
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
        self.table.entered_row.connect(lambda row: self.form_asked.emit(self._step_id(row)))
        self.table.struck_row.connect(self._strike)
        self.table.letter.connect(self._letter)
        self.table.row_changed.connect(self._show_detail)
        self.tray.chosen.connect(self.table.choose)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.model.show(())

    def show_job(self, job: Job) -> None:
        """Draw the list and the tray; a step that came is chosen."""
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
        self.tray.show_steps(steps, self.table.row)
        self.detail.setText(step_detail(steps, self.table.row))

    def _offers(self, text: str) -> tuple[str, ...]:
        return complete_line(text, vocabulary_of(self._job)) if self._job else ()

    def _understood(self, text: str) -> str:
        return typed_said(self._job, text) if self._job else ""

    def _take(self, text: str) -> bool:
        return self._context.perform(lambda job, at: take_step(job, text, at))

    @Slot(int)
    def _strike(self, row: int) -> None:
        step_id = self._step_id(row)
        self._context.perform(lambda job, at: strike_step(job, step_id, at))

    @Slot(str, int)
    def _letter(self, letter: str, row: int) -> None:
        if self._job is None:
            return
        step = self._job.opening.steps[row]
        if letter == "P" and step.planned:
            self._context.perform(lambda job, at: take_planned(job, step.step_id, at))
        elif letter == "C":  # the same again: the line is put in to be changed
            self.typed.edit.setText(typed_form(step))
            self.typed.edit.setFocus()


_SIGNS = {"good": "● good", "with care": "◐ with care", "never": "▼ never"}


class CarePage(StationPage):
    """The school chosen here is what the way back says where a step says nothing."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._look = context.look
        self.group = QButtonGroup(self)
        frame, inside = card("Sealing: schools differ")
        for place, school in enumerate(SCHOOLS):
            button = QRadioButton(school.title)
            self.group.addButton(button, place)
            row = QHBoxLayout()
            row.addWidget(button, 1)
            row.addWidget(labelled(school.why, "quiet", True), 3)
            inside.addLayout(row)
        self.group.idClicked.connect(self._choose)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Cleaning by material, and the bath")
        cleaning, told = card("Cleaning, and the bath")
        told.addWidget(self.text, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        layout.addWidget(cleaning, 1)
        self._look.changed.connect(self._write)
        self._write()

    @Slot()
    def _write(self) -> None:
        sections = [
            (material, tuple(f"{agent}\t{_SIGNS[row.verdict]}. {row.reason}" for agent, row in rows.items()))
            for material, rows in CLEANING.items()
        ]
        bath = tuple(f"{kind}\t{bath_advice(kind, False)}" for kind in KINDS if bath_advice(kind, False))
        self.text.setHtml(sections_html((*sections, ("the cleaning bath", bath)), self._look))

    def draw(self, job: Job) -> None:
        for place, school in enumerate(SCHOOLS):
            self.group.button(place).setChecked(school.sealant == job.opening.sealant)

    @Slot(int)
    def _choose(self, place: int) -> None:
        sealant = SCHOOLS[place].sealant
        self._context.perform(lambda job, at: choose_sealant(job, sealant, at))

    def focus_first(self) -> None:
        checked = self.group.checkedButton()
        if checked is not None:
            checked.setFocus()
