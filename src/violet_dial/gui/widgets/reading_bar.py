"""The reading bar: the live instrument, at Light the reference and the needle read by eye, and Take."""

from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import ElidedLabel, labelled
from violet_dial.gui.widgets.form import combo, line_edit
from violet_dial.gui.widgets.live_figure import LiveFigure, LiveState

DIRECTIONS = (("by itself", None), ("rising", "rising"), ("falling", "falling"), ("not noted", ""))
ATTITUDES = ("not noted", "flat", "upright", "on its side")
NO_METER = "No meter connected.   F12 connects one"
TALLEST_FIELD_PX = 74  # at 200 % text the station above needs the room
ROOM_FOR_ALL = 1150  # at 100 %; in less, beside a live figure, the two choices of how the light came step back


@dataclass(frozen=True)
class BarState:
    """What the bar says beside what was typed: both fields understood, which field is wrong, whether Take works."""

    reference: str = ""
    reading: str = ""
    wrong_reference: bool = False
    wrong_reading: bool = False
    ready: bool = False


class ReadingBar(QFrame):
    """Stays at the bottom of every station. Enter in the reference goes to the reading, Enter there takes it.

    The typed fields belong to Light; on the others Take takes what the instrument shows.
    """

    typed = Signal()
    take_asked = Signal()
    live_take_asked = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.setProperty("role", "bar")
        self._look = look
        self.live = LiveFigure(look)
        self.source = ElidedLabel("bar")
        self.reference = line_edit("Reference light")
        self.reference_said = ElidedLabel("bar")
        self.reading = line_edit("Needle read by eye")
        self.reading_said = ElidedLabel("bar")
        self.direction = combo("Light came", tuple(name for name, _ in DIRECTIONS))
        self.attitude = combo("Meter held", ATTITUDES)
        self.attitude.setEditable(True)
        for box in (self.direction, self.attitude):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(6)
        self.take = QPushButton("Take  ⏎")
        self.take.setProperty("role", "take")
        self._fields, self._how = QWidget(), QWidget()
        self._typing, self._metered, self._typed_ready, self._live_ready = True, False, False, False
        self._build()
        look.changed.connect(self._resize)
        self._resize()

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(20, 6, 24, 6)
        layout.setSpacing(20)
        layout.addWidget(self.live, 4)
        needle = ElidedLabel("bar")
        needle.setText("Needle read by eye, Ev")
        how = QGridLayout(self._how)
        how.setContentsMargins(0, 0, 0, 0)
        how.setVerticalSpacing(4)
        for row, (text, box) in enumerate((("Light", self.direction), ("Held", self.attitude))):
            how.addWidget(labelled(text, "bar"), row, 0)
            how.addWidget(box, row, 1)
        fields = QHBoxLayout(self._fields)
        fields.setContentsMargins(0, 0, 0, 0)
        fields.setSpacing(20)
        fields.addLayout(self._column(self.source, self.reference, self.reference_said), 5)
        fields.addLayout(self._column(needle, self.reading, self.reading_said), 4)
        fields.addWidget(self._how, 3)
        layout.addWidget(self._fields, 6)
        layout.addWidget(self.take)
        self.live.hide()
        self.reference.textChanged.connect(self.typed)
        self.reading.textChanged.connect(self.typed)
        self.direction.currentIndexChanged.connect(self.typed)
        self.reference.returnPressed.connect(self._to_reading)
        self.reading.returnPressed.connect(self.take_asked)
        self.take.clicked.connect(self.ask_take)

    @staticmethod
    def _column(head: ElidedLabel, field: QLineEdit, said: ElidedLabel) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(0)
        for item in (head, field, said):
            column.addWidget(item)
        return column

    # which parts are there

    @Slot()
    def ask_take(self) -> None:
        """Take what belongs to the station: the typed reading at Light, what the instrument shows elsewhere. A reading
        typed at Light and left there is taken from anywhere while no instrument has a place to go."""
        typed = self._typing or (self._typed_ready and not self._live_ready)
        (self.take_asked if typed else self.live_take_asked).emit()

    def show_typed(self, shown: bool) -> None:
        """The typed fields are there at Light alone."""
        self._typing = shown
        self._arrange()

    def show_live(self, state: LiveState | None) -> None:
        """What the instrument in front shows; None when there is none."""
        if self._metered != (state is not None):
            self._metered = state is not None
            self._arrange()
        self.live.show_state(state or LiveState(state=NO_METER))

    def set_live_ready(self, ready: bool) -> None:
        """Whether what the instrument shows may be taken by hand."""
        if ready != self._live_ready:
            self._live_ready = ready
            self._set_take()

    def _arrange(self) -> None:
        self.live.setVisible(self._metered or not self._typing)
        self._fields.setVisible(self._typing)
        self.take.setText("Take  ⏎" if self._typing else "Take  F8")
        self._how.setVisible(not self._metered or self.width() >= self._look.px(ROOM_FOR_ALL))
        self._set_take()

    def _set_take(self) -> None:
        self.take.setEnabled(self._typed_ready or (self._live_ready and not self._typing))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._arrange()

    @Slot()
    def _resize(self) -> None:
        for field in (self.reference, self.reading):
            field.setFixedHeight(min(self._look.px(52), TALLEST_FIELD_PX))
            field.setMinimumWidth(self._look.px(100))
        self.take.setMinimumHeight(self._look.px(56))
        self._arrange()

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
        self._typed_ready = state.ready
        self._set_take()

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
