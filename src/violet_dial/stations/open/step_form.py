"""The short form of one step: every field by keys, for what is too long to type in one line."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import FINISHES, HANDS, HEADS, KINDS, SEALANTS, Step
from violet_dial.core.quantities import parse_number
from violet_dial.job.document import Photo
from violet_dial.kit.cards import labelled, scrolled
from violet_dial.kit.form import add_row, combo, line_edit
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.theme.look import Look

_CHOICES: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("kind", "Kind", KINDS), ("head", "Head", HEADS), ("finish", "Finish", FINISHES), ("hand", "Thread hand", HANDS),
    ("sealant", "Sealant on refit", SEALANTS),
)  # fmt: skip
_TEXTS: tuple[tuple[str, str], ...] = (
    ("home", "Home"), ("size", "Size"), ("tool", "Tool"), ("tray", "Tray"), ("preset", "Preset before"), ("marks", "Index marks"),
    ("wire_colour", "Wire colour"), ("wire_from", "Wire from"), ("wire_to", "Wire to"), ("orientation", "How it goes back"),
    ("test_before", "Test before it goes back"), ("note", "Note"),
)  # fmt: skip
_NAMES: tuple[tuple[str, str], ...] = (("under", "Lies under"), ("hides", "Hides"), ("back_after", "Back only after"))
_NUMBERS: tuple[tuple[str, str], ...] = (("count", "Count"), ("minutes", "Minutes"))
_FLAGS: tuple[tuple[str, str], ...] = (("no_bath", "Not into the bath"), ("no_fingers", "No fingers"))


class StepForm(FormWindow):
    """Enter goes on, Ctrl+Enter keeps, Esc leaves; what cannot be understood is said and the form stays open."""

    def __init__(self, parent: QWidget, look: Look, step: Step, photos: tuple[Photo, ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle(step.name)
        self._given, self._photos = step, photos
        self.keep_step: Callable[[Step], bool] = lambda new: True  # says whether the step was kept
        self.lines: dict[str, QLineEdit] = {}
        self.boxes: dict[str, QComboBox] = {}
        self.flags: dict[str, QCheckBox] = {}
        self.fault = labelled("", "fault", True)
        grids = QHBoxLayout()
        grids.setSpacing(24)
        left, right = QGridLayout(), QGridLayout()
        for grid in (left, right):
            grid.setColumnStretch(1, 1)
            grid.setVerticalSpacing(5)
            grids.addLayout(grid, 1)
        self._fill(left, right)
        holder = QWidget()
        holder.setLayout(grids)
        keep = self.keep_button = QPushButton("Keep  Ctrl+⏎")
        keep.setProperty("role", "main")
        keep.clicked.connect(self.keep)
        leave = QPushButton("Leave as it was  Esc")
        leave.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addWidget(self.fault, 1)
        row.addWidget(leave)
        row.addWidget(keep)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(step.name, "title"))
        layout.addWidget(scrolled(holder), 1)
        layout.addLayout(row)
        room = parent.window().size()
        self.resize(min(look.px(880), room.width() - 60), min(look.px(600), room.height() - 60))
        self.lines["home"].setFocus()

    def _fill(self, left: QGridLayout, right: QGridLayout) -> None:
        step = self._given
        for key, name, choices in _CHOICES:
            box = combo(name, tuple(choice or "not noted" for choice in choices))
            box.setCurrentIndex(choices.index(getattr(step, key)))
            self.boxes[key] = box
            add_row(left, name, box)
        for key, name in _NUMBERS:
            self.lines[key] = line_edit(name, f"{getattr(step, key):g}")
            add_row(left, name, self.lines[key])
        for place, (key, name) in enumerate(_TEXTS):
            self.lines[key] = line_edit(name, getattr(step, key))
            add_row(left if place < 4 else right, name, self.lines[key])
        for key, name in _NAMES:
            self.lines[key] = line_edit(name, " + ".join(getattr(step, key)))
            self.lines[key].setPlaceholderText("one + another")
            add_row(right, name, self.lines[key])
        self.photo = combo("Photo", ("none", *(photo.caption or photo.file_name for photo in self._photos)))
        hashes = [photo.sha256 for photo in self._photos]
        self.photo.setCurrentIndex(hashes.index(step.photo) + 1 if step.photo in hashes else 0)
        add_row(right, "Photo", self.photo)
        for key, name in _FLAGS:
            self.flags[key] = QCheckBox(name)
            self.flags[key].setChecked(getattr(step, key))
            right.addWidget(self.flags[key], right.rowCount(), 1)

    def step(self) -> Step:
        """The step as the form now says; raises `InvalidInput`."""
        fields: dict[str, Any] = {key: self.lines[key].text().strip() for key, _ in _TEXTS}
        for key, _, choices in _CHOICES:
            fields[key] = choices[self.boxes[key].currentIndex()]
        for key, _ in _NAMES:
            fields[key] = tuple(part.strip() for part in self.lines[key].text().split("+") if part.strip())
        for key, _ in _FLAGS:
            fields[key] = self.flags[key].isChecked()
        count = parse_number(self.lines["count"].text(), "Count")
        if count != int(count):
            raise InvalidInput("Count", self.lines["count"].text(), "a whole number")
        fields["count"] = int(count)
        fields["minutes"] = parse_number(self.lines["minutes"].text(), "Minutes")
        chosen = self.photo.currentIndex()
        fields["photo"] = self._photos[chosen - 1].sha256 if chosen > 0 else ""
        return replace(self._given, **fields)

    def keep(self) -> None:
        """Keep what the form says, or say what is wrong."""
        try:
            new = self.step()
        except InvalidInput as error:
            self.fault.setText(str(error))
            return
        if self.keep_step(new):
            self.accept()
        else:
            self.fault.setText("It was not kept: the page behind says why.")
