"""Receive, tried: the function walk and what clashes in it; and the safety gate before opening."""

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from violet_dial.core.receiving.walk import SUPPLIES, Result
from violet_dial.gui.spoken import spoken_time
from violet_dial.gui.stations.receive.gate import GateCard
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.form import combo, line_edit
from violet_dial.gui.widgets.rows_table import Row, RowsModel, RowsTable
from violet_dial.job.document import Job, TakenTrial
from violet_dial.services.receiving import clashes_of, record_trial, walk_of

_LETTERS: dict[str, Result] = {"W": "works", "X": "wrong", "D": "dead", "N": "not tried"}
HEADS = ("act and setting", "on battery", "without", "on supply")


def walk_acts(job: Job) -> tuple[tuple[str, str], ...]:
    """Act and setting of each row: those that fit the device, then whatever else was tried."""
    wanted = [(act.name, setting) for act in walk_of(job) for setting in (act.settings or ("",))]
    wanted += [(one.act, one.setting) for one in job.receiving.trials]
    return tuple(dict.fromkeys(wanted))


def walk_rows(job: Job) -> tuple[Row, ...]:
    """Rows of the walk, with the newest result on each supply."""
    newest = {(one.act, one.setting, one.supply): one for one in job.receiving.trials}
    rows = []
    for act, setting in walk_acts(job):
        tried = [newest.get((act, setting, supply)) for supply in SUPPLIES]
        results = tuple(one.result + " *" * bool(one.note) if one else "" for one in tried)
        rows.append((f"{act} {setting}".strip(), *results))
    return tuple(rows)


def trials_said(job: Job, act: str, setting: str) -> str:
    """Every trial of one act at one setting, newest first, with when and note."""
    tried = [one for one in reversed(job.receiving.trials) if (one.act, one.setting) == (act, setting)]
    said = [f"{spoken_time(one.at)} {one.supply}: {one.result}" + f" ({one.note})" * bool(one.note) for one in tried]
    return " · ".join(said[:4]) or "not tried yet"


class WalkPage(QWidget):
    """Arrows choose an act; W works, X wrong, D dead, N not tried records it on the chosen supply."""

    act_asked = Signal(object)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
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
        self.gate = GateCard(look)
        self.gate.act_asked.connect(self.act_asked)
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

    def show_job(self, job: Job) -> None:
        """Show the walk, its clashes and the gate; the chosen row stays."""
        self._job = job
        row = max(self.table.row, 0)
        self.model.show(walk_rows(job))
        self.table.choose(min(row, len(self.model.rows) - 1))
        self._show_tried(self.table.row)
        found = clashes_of(job)
        said = "\n\n".join(f"{one.title}.\n{one.meaning}" for one in found)
        self.clashes.setText(said or "Nothing so far.")
        self.gate.show_job(job)

    @Slot(int)
    def _show_tried(self, row: int) -> None:
        acts = walk_acts(self._job) if self._job else ()
        self.tried.setText(trials_said(self._job, *acts[row]) if self._job and 0 <= row < len(acts) else "")

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
        self.note.setText("")
        self.act_asked.emit(lambda job, at: record_trial(job, trial, at))
        self.table.choose(min(index + 1, len(self.model.rows) - 1))

    def focus_first(self) -> None:
        self.table.setFocus()
