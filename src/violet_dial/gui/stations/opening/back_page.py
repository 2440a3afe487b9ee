"""Open, the way back: an order that works, tallies filling up, stops for tests before the point of no return."""

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QMessageBox, QWidget

from violet_dial.core.errors import ImpossibleOrder, InvalidInput
from violet_dial.core.opening.steps import EndKind
from violet_dial.core.opening.tally import tally
from violet_dial.core.opening.way_back import BackItem
from violet_dial.core.quantities import parse_number
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled
from violet_dial.gui.widgets.form import line_edit
from violet_dial.gui.widgets.rows_table import RowsModel, RowsTable
from violet_dial.gui.widgets.tray_view import STATE_MARKS, TrayView
from violet_dial.job.document import Job, TakenTrial
from violet_dial.report.checklist import said
from violet_dial.report.dial import MarkState
from violet_dial.services.opening import (
    Ending,
    back_of,
    close_over,
    end_step,
    reopen_step,
    totals_of,
    unfinished_beneath,
)
from violet_dial.services.receiving import record_trial

HEADS = ("", "back", "tally", "tray")
TEST_ACT = "test before closing"
_LETTERS: dict[str, EndKind] = {"R": "replaced", "L": "left out"}


class BackPage(QWidget):
    """Enter puts the chosen thing back (a count typed first: only so many); R replaced, L left out, U off again."""

    act_asked = Signal(object)
    said = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._job: Job | None = None
        self._items: tuple[BackItem, ...] = ()
        self.model = RowsModel(look, HEADS)
        self.table = RowsTable(look, "The way back", 1)
        self.table.setModel(self.model)
        self.table.set_widths(30, 210, 130, 48)
        self.now = labelled("", "head", True)
        self.mind = labelled("", "quiet", True)
        self.count = line_edit("How many go back; empty: all")
        self.count.setPlaceholderText("all")
        self.count.returnPressed.connect(lambda: self._enter(self.table.row))
        self.sum = labelled("", "small", True)
        self.tray = TrayView(look)
        left, inside = card()
        inside.addWidget(self.now)
        inside.addWidget(self.mind)
        inside.addWidget(self.table, 1)
        row = QHBoxLayout()
        row.addWidget(labelled("How many", "small"))
        row.addWidget(self.count, 1)
        row.addWidget(labelled("Enter back · R replaced by · L left out because · U off again", "small", True), 3)
        inside.addLayout(row)
        right, laid = card("Tray, read in reverse")
        laid.addWidget(self.tray, 1)
        laid.addWidget(self.sum)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(left, 5)
        layout.addWidget(right, 3)
        self.table.entered_row.connect(self._enter)
        self.table.letter.connect(self._letter)
        self.table.row_changed.connect(self._show_now)

    def show_job(self, job: Job) -> None:
        """Show the way back; the first thing without an end is chosen when the chosen one got its end."""
        self._job = job
        try:
            self._items = back_of(job)
        except ImpossibleOrder as error:
            self._items = ()
            self.now.setText("No order works")
            self.mind.setText(str(error))
            self.model.show(())
            return
        rows = tuple(self._row(place, item) for place, item in enumerate(self._items))
        self.model.show(rows, tuple(self._mark(item) for item in self._items))
        if not 0 <= self.table.row < len(self._items) or self._ended(self._items[self.table.row]):
            self.table.choose(
                next((n for n, item in enumerate(self._items) if not self._ended(item)), len(self._items) - 1)
            )
        self._show_now()

    def _ended(self, item: BackItem) -> bool:
        if self._job is None:
            return False
        if item.kind == "test":
            return self._tested(item)
        return tally(self._job.opening.steps[item.place]).state in ("whole", "over")

    def _tested(self, item: BackItem) -> bool:
        """A stop is passed when its test was recorded after the last thing before it went back."""
        assert self._job is not None
        name = self._job.opening.steps[item.place].name
        return any(one.act == TEST_ACT and one.setting == name for one in self._job.receiving.trials)

    def _row(self, place: int, item: BackItem) -> tuple[str, ...]:
        assert self._job is not None
        step = self._job.opening.steps[item.place]
        if item.kind == "test":
            return (str(place + 1), f"STOP and test before {step.name}", "", "")
        return (str(place + 1), step.name, tally(step).words, step.tray)

    def _mark(self, item: BackItem) -> MarkState:
        assert self._job is not None
        if item.kind == "test":
            return "inside" if self._tested(item) else "undecided"
        return STATE_MARKS[tally(self._job.opening.steps[item.place]).state]

    @Slot(int)
    def _show_now(self, row: int = -1) -> None:
        if self._job is None:
            return
        row, steps = self.table.row, self._job.opening.steps
        self.tray.show_steps(steps, self._items[row].place if 0 <= row < len(self._items) else -1)
        total = totals_of(self._job)
        self.sum.setText(f"{total.ended} of {total.found} things have an end." if total.found else "")
        if not self._items:
            if not steps:
                self.now.setText("Nothing is off")
                self.mind.setText("The way back is worked out from what was taken off.")
            return
        item = self._items[min(max(row, 0), len(self._items) - 1)]
        step = steps[item.place]
        self.now.setText(said(step) if item.kind == "refit" else "Stop and test")
        self.mind.setText(item.text)

    def _typed_count(self) -> int | None:
        text = self.count.text().strip()
        if not text:
            return None
        value = parse_number(text, "Count")
        if value != int(value) or value < 1:
            raise InvalidInput("Count", text, "a whole number of 1 or more")
        return int(value)

    @Slot(int)
    def _enter(self, row: int) -> None:
        if self._job is None or not 0 <= row < len(self._items):
            return
        item = self._items[row]
        step = self._job.opening.steps[item.place]
        if item.kind == "test":
            trial = TakenTrial(TEST_ACT, step.name, "battery", "works", item.text)
            self.act_asked.emit(lambda job, at: record_trial(job, trial, at))
            return
        try:
            count = self._typed_count()
        except InvalidInput as error:
            self.said.emit(str(error))
            return
        self.count.setText("")
        beneath = unfinished_beneath(self._job, step.step_id) if step.kind == "cover" else ()
        if beneath:
            names = ", ".join(f"{one.name} ({tally(one).words})" for one in beneath)
            question = f"Under {step.name} this has no end yet: {names}. Close it all the same?"
            if not self._confirmed(question):
                self.said.emit(f"{step.name} not closed.")
                return
            self.act_asked.emit(lambda job, at: close_over(job, step.step_id, "yes, all the same", at))
            return
        self.act_asked.emit(lambda job, at: end_step(job, Ending(step.step_id, "refitted", count), at))

    def _confirmed(self, question: str) -> bool:
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        return QMessageBox.question(self, "Open tally", question, buttons) == QMessageBox.StandardButton.Yes

    @Slot(str, int)
    def _letter(self, letter: str, row: int) -> None:
        if self._job is None or not 0 <= row < len(self._items) or self._items[row].kind == "test":
            return
        step = self._job.opening.steps[self._items[row].place]
        if letter == "U":
            self.act_asked.emit(lambda job, at: reopen_step(job, step.step_id, at))
        elif letter in _LETTERS:
            kind = _LETTERS[letter]
            question = f"{step.name}: replaced by what?" if kind == "replaced" else f"{step.name}: left out because?"
            note, agreed = QInputDialog.getText(self, "What became of it", question)
            if agreed:
                try:
                    count = self._typed_count()
                except InvalidInput as error:
                    self.said.emit(str(error))
                    return
                self.count.setText("")
                self.act_asked.emit(lambda job, at: end_step(job, Ending(step.step_id, kind, count, note), at))

    def focus_first(self) -> None:
        self.table.setFocus()
