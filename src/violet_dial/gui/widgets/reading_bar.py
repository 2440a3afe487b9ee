"""The reading bar: the reference light, the needle read by eye, what was understood, and Take."""

from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout

from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import ElidedLabel, labelled
from violet_dial.gui.widgets.form import combo, line_edit

DIRECTIONS = (("by itself", None), ("rising", "rising"), ("falling", "falling"), ("not noted", ""))
ATTITUDES = ("not noted", "flat", "upright", "on its side")


@dataclass(frozen=True)
class BarState:
    """What the bar says beside what was typed: both fields understood, which field is wrong, whether Take works."""

    reference: str = ""
    reading: str = ""
    wrong_reference: bool = False
    wrong_reading: bool = False
    ready: bool = False


class ReadingBar(QFrame):
    """Stays at the bottom of every station. Enter in the reference goes to the reading, Enter there takes it."""

    typed = Signal()
    take_asked = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.setProperty("role", "bar")
        self._look = look
        self.source = ElidedLabel("bar")
        self.reference = line_edit("Reference light")
        self.reference_said = labelled("", "bar")
        self.reading = line_edit("Needle read by eye")
        self.reading_said = labelled("", "bar")
        self.direction = combo("Light came", tuple(name for name, _ in DIRECTIONS))
        self.attitude = combo("Meter held", ATTITUDES)
        self.attitude.setEditable(True)
        for box in (self.direction, self.attitude):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(6)
        self.take = QPushButton("Take  ⏎")
        self.take.setProperty("role", "take")
        self._build()
        look.changed.connect(self._resize)
        self._resize()

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(28, 8, 24, 10)
        layout.setSpacing(24)
        layout.addLayout(self._column(self.source, self.reference, self.reference_said), 5)
        needle = ElidedLabel("bar")
        needle.setText("Needle read by eye, Ev")
        layout.addLayout(self._column(needle, self.reading, self.reading_said), 4)
        how = QGridLayout()
        how.setVerticalSpacing(4)
        for row, (text, box) in enumerate((("Light", self.direction), ("Held", self.attitude))):
            how.addWidget(labelled(text, "bar"), row, 0)
            how.addWidget(box, row, 1)
        layout.addLayout(how, 3)
        layout.addWidget(self.take)
        self.reference.textChanged.connect(self.typed)
        self.reading.textChanged.connect(self.typed)
        self.direction.currentIndexChanged.connect(self.typed)
        self.reference.returnPressed.connect(self._to_reading)
        self.reading.returnPressed.connect(self.take_asked)
        self.take.clicked.connect(self.take_asked)

    @staticmethod
    def _column(head: ElidedLabel, field: QLineEdit, said: QLabel) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(3)
        row = QHBoxLayout()
        row.addWidget(field, 3)
        row.addSpacing(8)
        row.addWidget(said, 3)
        said.setWordWrap(True)
        column.addWidget(head)
        column.addLayout(row)
        return column

    @Slot()
    def _resize(self) -> None:
        for field in (self.reference, self.reading):
            field.setFixedHeight(self._look.px(52))
            field.setMinimumWidth(self._look.px(110))
        self.take.setMinimumHeight(self._look.px(56))

    @Slot()
    def _to_reading(self) -> None:
        self.reading.setFocus()
        self.reading.selectAll()

    def show_state(self, state: BarState) -> None:
        """Show what was understood and set Take from it."""
        self.reference_said.setText(state.reference)
        self.reading_said.setText(state.reading)
        for field, wrong in ((self.reference, state.wrong_reference), (self.reading, state.wrong_reading)):
            if field.property("wrong") != wrong:
                field.setProperty("wrong", wrong)
                field.style().unpolish(field)
                field.style().polish(field)
        self.take.setEnabled(state.ready)

    def set_source(self, text: str) -> None:
        self.source.setText(text)

    def set_reference(self, text: str, direction: str) -> None:
        """Put in the light that Next asks for, ready for the reading to be typed."""
        self.reference.setText(text)
        names = [value for _, value in DIRECTIONS]
        self.direction.setCurrentIndex(names.index(direction) if direction else 0)

    def reset(self) -> None:
        """Empty, as for a job just opened."""
        self.reference.setText("")
        self.reading.setText("")
        self.direction.setCurrentIndex(0)
        self.attitude.setCurrentIndex(0)

    def clear_reading(self) -> None:
        self.reading.setText("")  # unlike clear() it leaves nothing for the field's own undo

    @property
    def chosen_direction(self) -> str | None:
        """None: worked out from the light before."""
        return DIRECTIONS[self.direction.currentIndex()][1]

    @property
    def chosen_attitude(self) -> str:
        text = self.attitude.currentText().strip()
        return "" if text == ATTITUDES[0] else text

    def focus_reading(self) -> None:
        self._to_reading()

    def focus_reference(self) -> None:
        self.reference.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.reference.selectAll()
