"""Open: off, the way back, the way in, and care. The way back is here: an order that works, tallies filling up, stops for
tests.
"""

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QHBoxLayout

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import EndKind, Step
from violet_dial.core.opening.tally import tally
from violet_dial.core.quantities import parse_number
from violet_dial.job.document import Job
from violet_dial.job.receiving import TakenTrial
from violet_dial.kit.ask import ask_text, ask_yes, open_over
from violet_dial.kit.cards import card, labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.form import line_edit
from violet_dial.kit.page import PagedStation, StationPage
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.services.gate import record_trial
from violet_dial.stations.open.acts import (
    TEST_ACT,
    Ending,
    change_step,
    close_over,
    end_step,
    reopen_step,
    step_at,
    unfinished_beneath,
)
from violet_dial.stations.open.off import CarePage, OffPage
from violet_dial.stations.open.state import OFF, BackShown, back_shown, page_names
from violet_dial.stations.open.step_form import StepForm
from violet_dial.stations.open.tray_view import TrayView
from violet_dial.stations.open.way import WayPage

HEADS = ("", "back", "tally", "tray")
_LETTERS: dict[str, EndKind] = {"R": "replaced", "L": "left out"}


class BackPage(StationPage):
    """Enter puts the chosen thing back (a count typed first: only so many); R replaced, L left out, U off again."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        look = context.look
        self.shown: BackShown | None = None
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

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.shown = None
        self.count.setText("")
        self.model.show(())

    def draw(self, job: Job) -> None:
        """Draw the way back; the first thing without an end is chosen when the chosen one got its end."""
        one = self.shown = back_shown(job)
        self.model.show(one.rows, one.marks)
        row = self.table.row
        if not 0 <= row < len(one.items) or one.ended[row]:
            self.table.choose(one.first_open)
        self._show_now()

    @Slot(int)
    def _show_now(self, row: int = -1) -> None:
        if self._job is None or self.shown is None:
            return
        row, steps, one = self.table.row, self._job.opening.steps, self.shown
        self.tray.show_steps(steps, one.items[row].place if 0 <= row < len(one.items) else -1)
        self.sum.setText(one.total)
        now, mind = one.now(steps, row)
        self.now.setText(now)
        self.mind.setText(mind)

    def _typed_count(self) -> int | None:
        text = self.count.text().strip()
        if not text:
            return None
        value = parse_number(text, "Count")
        if value != int(value) or value < 1:
            raise InvalidInput("Count", text, "a whole number of 1 or more")
        return int(value)

    def _end(self, step: Step, kind: EndKind, note: str = "") -> bool:
        """Things of a step get their end; what cannot be is said, and what was typed stays."""
        try:
            count = self._typed_count()
        except InvalidInput as error:
            self._context.say(str(error))
            return False
        kept = self._context.perform(lambda job, at: end_step(job, Ending(step.step_id, kind, count, note), at))
        if kept:
            self.count.setText("")
        return kept

    @Slot(int)
    def _enter(self, row: int) -> None:
        if self._job is None or self.shown is None or not 0 <= row < len(self.shown.items):
            return
        item = self.shown.items[row]
        step = self._job.opening.steps[item.place]
        if item.kind == "test":
            trial = TakenTrial(TEST_ACT, step.name, "battery", "works", item.text)
            self._context.perform(lambda job, at: record_trial(job, trial, at))
            return
        beneath = unfinished_beneath(self._job, step.step_id) if step.kind == "cover" else ()
        if beneath:
            self._ask_to_close(step, beneath)
        else:
            self._end(step, "refitted")

    def _ask_to_close(self, step: Step, beneath: tuple[Step, ...]) -> None:
        names = ", ".join(f"{one.name} ({tally(one).words})" for one in beneath)
        question = f"Under {step.name} this has no end yet: {names}. Close it all the same?"

        def answered(yes: bool) -> None:
            if yes:
                self._context.perform(lambda job, at: close_over(job, step.step_id, "yes, all the same", at))
            else:
                self._context.say(f"{step.name} not closed.")

        ask_yes(self, "Open tally", question, "Close it", answered)

    @Slot(str, int)
    def _letter(self, letter: str, row: int) -> None:
        if self._job is None or self.shown is None or not 0 <= row < len(self.shown.items):
            return
        item = self.shown.items[row]
        step = self._job.opening.steps[item.place]
        if item.kind == "test":
            return
        if letter == "U":
            self._context.perform(lambda job, at: reopen_step(job, step.step_id, at))
        elif letter in _LETTERS:
            kind = _LETTERS[letter]
            question = f"{step.name}: replaced by what?" if kind == "replaced" else f"{step.name}: left out because?"
            ask_text(self, "What became of it", question, "", lambda note: self._end(step, kind, note))

    def focus_first(self) -> None:
        self.table.setFocus()


class OpenPage(PagedStation):
    """What comes off, goes back, lies in the way, and what to mind."""

    def __init__(self, context: PageContext) -> None:
        self.off, self.back, self.way, self.care = (OffPage(context), BackPage(context), WayPage(context), CarePage(context))
        super().__init__(context, (("Off", self.off), ("Way back", self.back), ("Way in", self.way), ("Care", self.care)))
        self.off.form_asked.connect(self.open_form)

    def draw(self, job: Job) -> None:
        for place, name in enumerate(page_names(job)):
            self.pages.rename(place, name)
        super().draw(job)

    @Slot(str)
    def open_form(self, step_id: str) -> None:
        """The short form of a step."""
        if self._job is None:
            return
        step = self._job.opening.steps[step_at(self._job, step_id)]
        form = StepForm(self, self._context.look, step, self._job.photos)
        form.keep_step = lambda new: new == step or self._context.perform(lambda job, at: change_step(job, new, at))
        open_over(form)

    def to_picture(self) -> None:
        self.pages.turn_to(OFF)
        self.off.table.setFocus()

    def adopt(self) -> None:
        """Begin from an earlier strip-down of this model, as a plan."""
        if self._job is not None:
            self.way.show_job(self._job)
            self.way.adopt()
