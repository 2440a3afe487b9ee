"""Receive, tried: the function walk and what clashes in it; and the safety gate before opening."""

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from violet_dial.core.receiving.walk import SUPPLIES, Result
from violet_dial.job.document import Job
from violet_dial.job.receiving import TakenTrial
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.form import combo, line_edit
from violet_dial.kit.page import House
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.services.trials import record_trial
from violet_dial.stations.receive.gate import GateCard
from violet_dial.stations.receive.state import walk_acts, walk_shown

_LETTERS: dict[str, Result] = {"W": "works", "X": "wrong", "D": "dead", "N": "not tried"}
HEADS = ("act and setting", "on battery", "without", "on supply")


class WalkPage(QWidget):
    """Arrows choose an act; W works, X wrong, D dead, N not tried records it on the chosen supply."""

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house, look = house, house.look
        self._job: Job | None = None
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
        self.gate = GateCard(house)
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

    def begin(self) -> None:
        """Another job: the first act, on the battery, no note."""
        self._job = None
        self.model.show(())
        self.note.setText("")
        self.supply.setCurrentIndex(0)
        self.gate.begin()

    def show_job(self, job: Job) -> None:
        """Draw the walk, its clashes and the gate; the chosen row stays."""
        self._job = job
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
        if self._house.perform(lambda job, at: record_trial(job, trial, at)):
            self.note.setText("")
            self.table.choose(min(index + 1, len(self.model.rows) - 1))

    def focus_first(self) -> None:
        self.table.setFocus()
