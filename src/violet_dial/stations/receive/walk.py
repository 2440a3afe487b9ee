"""Receive, tried: the function walk and what clashes in it; and the safety gate before opening."""

from collections.abc import Callable
from dataclasses import replace
from typing import get_args

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, parse_with_unit
from violet_dial.core.receiving.gate import HOLDS_FILM, BatteryState, FilmState, Gate
from violet_dial.core.receiving.walk import SUPPLIES, Result
from violet_dial.core.units import Unit
from violet_dial.job.document import Job
from violet_dial.job.receiving import TakenTrial
from violet_dial.kit.cards import card, fill, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.form import add_row, combo, line_edit
from violet_dial.kit.page import StationPage
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.services.gate import LOCAL_RULES, record_trial
from violet_dial.services.next import NextAct
from violet_dial.stations.receive.acts import answer_gate
from violet_dial.stations.receive.state import walk_acts, walk_shown

_LETTERS: dict[str, Result] = {"W": "works", "X": "wrong", "D": "dead", "N": "not tried"}
HEADS = ("act and setting", "on battery", "without", "on supply")


class WalkPage(StationPage):
    """Arrows choose an act; W works, X wrong, D dead, N not tried records it on the chosen supply."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        look = context.look
        self.model = RowsModel(look, HEADS)
        self.table = RowsTable(look, "Function walk: W works, X wrong, D dead, N not tried", 0)
        self.table.setModel(self.model)
        self.table.set_widths(180, 78, 70, 78)
        self.table.letter.connect(self._letter)
        self.supply: QComboBox = combo("Tried on", SUPPLIES)
        self.note = line_edit("Note for the next trial")
        self.note.setPlaceholderText("note for the next trial")
        self.tried = labelled("", "small", True)
        self.table.row_changed.connect(self._show_tried)
        self.clashes = labelled("", "quiet", True)
        self.gate = GateCard(context)
        self._build()

    def _build(self) -> None:
        frame, inside = card("Function walk")
        how = QHBoxLayout()
        how.addWidget(labelled("Tried on", "quiet"))
        how.addWidget(self.supply)
        how.addWidget(self.note, 1)
        inside.addLayout(how)
        inside.addWidget(self.table, 1)
        inside.addWidget(self.tried)
        inside.addWidget(labelled("W works · X wrong · D dead · N not tried · S next supply", "small", True))
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        clash, clashing = card("What does not go together")
        clashing.addWidget(self.clashes)
        column.addWidget(self.gate)
        column.addWidget(clash)
        column.addStretch(1)
        holder = QWidget()
        holder.setLayout(column)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame, 3)
        layout.addWidget(scrolled(holder), 2)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.model.show(())
        self.note.setText("")
        self.supply.setCurrentIndex(0)
        self.gate.begin()

    def draw(self, job: Job) -> None:
        """Draw the walk, its clashes and the gate; the chosen row stays."""
        row, one = max(self.table.row, 0), walk_shown(job)
        self.model.show(one.rows)
        self.table.choose(min(row, len(one.rows) - 1))
        self._show_tried(self.table.row)
        self.clashes.setText(one.clashes)
        self.gate.show_job(job, one.points)

    @Slot(int)
    def _show_tried(self, row: int) -> None:
        self.tried.setText(walk_shown(self._job).tried(self._job, row) if self._job else "")

    @Slot(str, int)
    def _letter(self, letter: str, row: int) -> None:
        if letter in _LETTERS:
            self._record(row, _LETTERS[letter])
        elif letter == "S":
            self.supply.setCurrentIndex((self.supply.currentIndex() + 1) % len(SUPPLIES))

    def _record(self, index: int, result: Result) -> None:
        if self._job is None:
            return
        act, setting = walk_acts(self._job)[index]
        supply = SUPPLIES[self.supply.currentIndex()]
        trial = TakenTrial(act, setting, supply, result, self.note.text())
        if self._context.perform(lambda job, at: record_trial(job, trial, at)):
            self.note.setText("")
            self.table.choose(min(index + 1, len(self.model.rows) - 1))

    def follow(self, act: NextAct) -> None:
        if act.kind in ("battery", "film"):
            self.gate.focus_on(act.kind)

    def focus_first(self) -> None:
        self.table.setFocus()


# Fields of the flash capacitor: name, unit, and what a figure without a unit means.
_FIGURES: tuple[tuple[str, str, Unit, Unit | None], ...] = (
    ("capacitance_f", "Capacitor", "F", None),
    ("charged_v", "Charged to", "V", "V"),
    ("resistor_ohm", "Through", "Ω", "Ω"),
    ("below_v", "Until below", "V", "V"),
    ("measured_v", "Measured", "V", "V"),
)


class GateCard(QWidget):
    """Answers are kept as they are given; a capacitor is typed as 160 µF, 330 V, 2k."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.film = combo("Film or pack inside", get_args(FilmState))
        self.battery = combo("Battery", get_args(BatteryState))
        self.flash = QCheckBox("It has a flash capacitor")
        self.fields: dict[str, QLineEdit] = {}
        self.points = labelled("", "quiet", True)
        self.sums = labelled("", "small", True)
        self._rows: list[QWidget] = []
        self._build()

    def _build(self) -> None:
        frame, inside = card("Before it is opened")
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        self._film_label = add_row(grid, "Film or pack", self.film)
        add_row(grid, "Battery", self.battery)
        grid.addWidget(self.flash, grid.rowCount(), 0, 1, 2)
        for key, name, _, _ in _FIGURES:
            edit = line_edit(name)
            edit.editingFinished.connect(self._keep_figures)
            self.fields[key] = edit
            self._rows += [add_row(grid, name, edit), edit]
        inside.addLayout(grid)
        inside.addWidget(self.sums)
        inside.addWidget(self.points)
        inside.addWidget(labelled(LOCAL_RULES, "small", True))
        fill(self, frame)
        self.film.activated.connect(
            lambda: self._ask(lambda gate: replace(gate, film=get_args(FilmState)[self.film.currentIndex()]))
        )
        self.battery.activated.connect(
            lambda: self._ask(lambda gate: replace(gate, battery=get_args(BatteryState)[self.battery.currentIndex()]))
        )
        self.flash.toggled.connect(lambda on: self._ask(lambda gate: replace(gate, has_flash=on)))

    def begin(self) -> None:
        """Another job: no figure typed in the last one is left."""
        self._job = None
        for edit in self.fields.values():
            self._mark(edit, "")

    def focus_on(self, what: str) -> None:
        """The keys to what Next asks for: the film or the battery."""
        (self.film if what == "film" else self.battery).setFocus()

    def show_job(self, job: Job, points: str) -> None:
        """Draw the gate as answered; a figure that was refused stays where it was typed, and nothing is written back."""
        self._job = job
        gate = job.receiving.gate
        holds_film = job.device.kind in HOLDS_FILM
        self.film.setVisible(holds_film)
        self._film_label.setVisible(holds_film)
        self.film.setCurrentText(gate.film)
        self.battery.setCurrentText(gate.battery)
        self.flash.blockSignals(True)
        self.flash.setChecked(gate.has_flash)
        self.flash.blockSignals(False)
        for row in self._rows:
            row.setVisible(gate.has_flash)
        for key, _, unit, _ in _FIGURES:
            value = getattr(gate, key)
            if not self.fields[key].hasFocus() and not self.fields[key].property("wrong"):
                self.fields[key].setText("" if value is None else f"{format_engineering(value)}{unit}")
        self.sums.setText("\n".join(gate.discharge.arithmetic()) if gate.has_flash else "")
        self.sums.setVisible(gate.has_flash)
        self.points.setText(points)

    def _ask(self, change: Callable[[Gate], Gate]) -> None:
        if self._job is None:
            return
        gate = change(self._job.receiving.gate)
        if gate != self._job.receiving.gate:
            self._context.perform(lambda job, at: answer_gate(job, gate, at))

    @Slot()
    def _keep_figures(self) -> None:
        """Take every figure that can be understood; one that cannot is marked and keeps its text."""
        if self._job is None:
            return
        gate = self._job.receiving.gate
        for key, name, unit, bare in _FIGURES:
            edit = self.fields[key]
            why = ""
            text = edit.text().strip()
            if key == "measured_v" and not text:
                gate = replace(gate, measured_v=None)
                continue
            shown = getattr(gate, key)
            if shown is not None and text == f"{format_engineering(shown)}{unit}":
                continue
            try:
                value = parse_with_unit(text, (unit,), name, bare).value
                gate = replace(gate, **{key: value})  # type: ignore[arg-type]
                _ = gate.discharge
            except InvalidInput as error:
                why = str(error)
                self._context.say(why)
            self._mark(edit, why)
        self._ask(lambda _: gate)

    @staticmethod
    def _mark(edit: QLineEdit, why: str) -> None:
        """Mark a figure as refused, with the reason; or no longer."""
        edit.setToolTip(why)
        if bool(edit.property("wrong")) != bool(why):
            edit.setProperty("wrong", bool(why))
            edit.style().unpolish(edit)
            edit.style().polish(edit)
