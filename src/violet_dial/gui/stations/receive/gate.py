"""The safety gate on the screen: what to make sure of before a screwdriver goes near it."""

from collections.abc import Callable
from dataclasses import replace
from typing import get_args

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, parse_with_unit
from violet_dial.core.receiving.gate import HOLDS_FILM, BatteryState, FilmState, Gate
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled
from violet_dial.gui.widgets.form import add_row, combo, line_edit
from violet_dial.job.document import Job
from violet_dial.services.cautions import LOCAL_RULES
from violet_dial.services.receiving import answer_gate, gate_of

# Fields of the flash capacitor: name, unit as typed, factor to base SI.
_FIGURES: tuple[tuple[str, str, str, dict[str, str]], ...] = (
    ("capacitance_f", "Capacitor", "F", {"F": "F"}),
    ("charged_v", "Charged to", "V", {"V": "V", "": "V"}),
    ("resistor_ohm", "Through", "Ω", {"Ω": "Ω", "ohm": "Ω", "": "Ω"}),
    ("below_v", "Until below", "V", {"V": "V", "": "V"}),
    ("measured_v", "Measured", "V", {"V": "V", "": "V"}),
)


class GateCard(QWidget):
    """Answers are kept as they are given; a capacitor is typed as 160 µF, 330 V, 2k."""

    act_asked = Signal(object)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
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
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        self.film.activated.connect(
            lambda: self._ask(lambda gate: replace(gate, film=get_args(FilmState)[self.film.currentIndex()]))
        )
        self.battery.activated.connect(
            lambda: self._ask(lambda gate: replace(gate, battery=get_args(BatteryState)[self.battery.currentIndex()]))
        )
        self.flash.toggled.connect(lambda on: self._ask(lambda gate: replace(gate, has_flash=on)))

    def show_job(self, job: Job) -> None:
        """Show the gate as answered; nothing is written back."""
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
            if not self.fields[key].hasFocus():
                self.fields[key].setText("" if value is None else f"{format_engineering(value)}{unit}")
        self.sums.setText("\n".join(gate.discharge.arithmetic()) if gate.has_flash else "")
        self.sums.setVisible(gate.has_flash)
        said = [f"{'○' if point.open else '●'} {point.name}: {point.advice}" for point in gate_of(job)]
        self.points.setText("\n".join(said))

    def _ask(self, change: Callable[[Gate], Gate]) -> None:
        if self._job is None:
            return
        gate = change(self._job.receiving.gate)
        if gate != self._job.receiving.gate:
            self.act_asked.emit(lambda job, at: answer_gate(job, gate, at))

    @Slot()
    def _keep_figures(self) -> None:
        """Take every figure that can be understood; one that cannot is marked and keeps its text."""
        if self._job is None:
            return
        gate = self._job.receiving.gate
        for key, name, unit, units in _FIGURES:
            edit = self.fields[key]
            wrong = False
            text = edit.text().strip()
            if key == "measured_v" and not text:
                gate = replace(gate, measured_v=None)
                continue
            shown = getattr(gate, key)
            if shown is not None and text == f"{format_engineering(shown)}{unit}":
                continue
            try:
                value = parse_with_unit(text, units, name).value
                gate = replace(gate, **{key: value})  # type: ignore[arg-type]
                _ = gate.discharge
            except InvalidInput as error:
                wrong = True
                edit.setToolTip(str(error))
            edit.setProperty("wrong", wrong)
            edit.style().unpolish(edit)
            edit.style().polish(edit)
        self._ask(lambda _: gate)
