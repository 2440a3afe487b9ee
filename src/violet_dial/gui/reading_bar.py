"""The reading bar: the live instrument, the fields that the station in view hands it, and Take."""

from PySide6.QtCore import Qt, Signal, Slot
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from violet_dial.gui.live_figure import LiveFigure, LiveState
from violet_dial.kit.bar import BarField, BarState
from violet_dial.kit.cards import ElidedLabel, labelled
from violet_dial.kit.form import combo, line_edit
from violet_dial.kit.theme.look import Look

NO_METER = "No meter connected.   F12 connects one"
TALLEST_FIELD_PX = 74  # at 200 % text the station above needs the room
MARGIN = 6
ROOM_FOR_ALL = 1150  # at 100 %; in less, beside a live figure, the choices step back


class ReadingBar(QFrame):
    """Stays at the bottom of every station. Enter in a field goes to the next one, in the last it takes the reading.

    What stands in a field is kept by its key, also while another station is in view.
    """

    typed = Signal()
    take_asked = Signal()  # the typed reading
    any_take_asked = Signal()  # whatever there is to take

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.setProperty("role", "bar")
        self._look = look
        self.live = LiveFigure(look)
        self.take = QPushButton("Take  ⏎")
        self.take.setProperty("role", "take")
        self._values: dict[str, str] = {}
        self._keys: tuple[str, ...] = ()
        self._shown: BarState | None = None
        self.lines: dict[str, QLineEdit] = {}
        self.choices: dict[str, QComboBox] = {}
        self._heads: dict[str, ElidedLabel] = {}
        self._said: dict[str, ElidedLabel] = {}
        self._names: dict[str, QLabel] = {}
        self._fields, self._how = QWidget(self), QWidget(self)
        self._metered, self._live_ready = False, False
        self._row = layout = QHBoxLayout(self)
        layout.setContentsMargins(20, MARGIN, 24, MARGIN)
        layout.setSpacing(20)
        layout.addWidget(self.live, 4)
        layout.addWidget(self._fields, 6)
        layout.addWidget(self.take)
        self.live.hide()
        self.take.clicked.connect(self.ask_take)
        look.changed.connect(self._resize)
        self._resize()

    # the fields of a station

    def value(self, key: str) -> str:
        """What stands in a field."""
        return self._values.get(key, "")

    def put(self, key: str, text: str) -> None:
        """Put a text into a field, without it counting as typed."""
        self._values[key] = text
        line, choice = self.lines.get(key), self.choices.get(key)
        if line is not None and line.text() != text:
            line.blockSignals(True)
            line.setText(text)  # unlike clear() it leaves nothing for the field's own undo
            line.blockSignals(False)
        if choice is not None and choice.currentText() != text:
            choice.blockSignals(True)
            choice.setCurrentText(text)
            choice.blockSignals(False)

    def show_bar(self, state: BarState | None) -> None:
        """Draw the fields; None when the station in view has none."""
        self._shown = state
        keys = tuple(field.key for field in state.fields) if state else ()
        if state is not None and keys != self._keys:
            self._build(state.fields)
            self._keys = keys
        for field in state.fields if state else ():
            self._show_field(field)
        self._arrange()

    def _build(self, fields: tuple[BarField, ...]) -> None:
        """Make the widgets of a station's fields."""
        holder = QWidget(self)
        self._how = QWidget(holder)
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(20)
        how = QGridLayout(self._how)
        how.setContentsMargins(0, 0, 0, 0)
        how.setVerticalSpacing(4)
        self.lines, self.choices, self._heads, self._said, self._names = {}, {}, {}, {}, {}
        for field in fields:
            if field.choices:
                self._names[field.key] = labelled(field.label, "bar")
                how.addWidget(self._names[field.key], how.rowCount(), 0)
                how.addWidget(self._choice(field), how.rowCount() - 1, 1)
            else:
                row.addLayout(self._column(field), 5 if not self.lines else 4)
        if self.choices:
            row.addWidget(self._how, 3)
        self._row.replaceWidget(self._fields, holder)
        self._fields.deleteLater()
        self._fields = holder
        for before, after in zip([*self._edits], [*self._edits[1:], self.take], strict=True):
            QWidget.setTabOrder(before, after)
        self._resize()

    @property
    def _edits(self) -> list[QWidget]:
        return [*self.lines.values(), *self.choices.values()]

    def _column(self, field: BarField) -> QVBoxLayout:
        key = field.key
        head, line, said = ElidedLabel("bar"), line_edit(field.name, self.value(key)), ElidedLabel("bar")
        self._heads[key], self.lines[key], self._said[key] = head, line, said
        line.textChanged.connect(lambda text: self._changed(key, text))
        line.returnPressed.connect(lambda: self._entered(key))
        column = QVBoxLayout()
        column.setSpacing(0)
        for item in (head, line, said):
            column.addWidget(item)
        return column

    def _choice(self, field: BarField) -> QComboBox:
        key = field.key
        box = combo(field.name, field.choices)
        box.setEditable(field.editable)
        box.setCurrentText(self._values.setdefault(key, field.choices[0]) or field.choices[0])
        box.currentTextChanged.connect(lambda text: self._changed(key, text))
        self.choices[key] = box
        return box

    def _show_field(self, field: BarField) -> None:
        key = field.key
        if key in self.choices:
            self._names[key].setText(field.label)
            return
        self._heads[key].setText(field.label)
        self._said[key].setText(field.said)
        line = self.lines[key]
        if bool(line.property("wrong")) != field.wrong:
            line.setProperty("wrong", field.wrong)
            line.style().unpolish(line)
            line.style().polish(line)

    def _changed(self, key: str, text: str) -> None:
        self._values[key] = text
        self.typed.emit()

    def _entered(self, key: str) -> None:
        keys = list(self.lines)
        place = keys.index(key)
        if place + 1 < len(keys):
            self.focus_field(keys[place + 1])
        else:
            self.take_asked.emit()

    def focus_field(self, key: str) -> None:
        """The keys to a field, its text chosen."""
        line = self.lines.get(key)
        if line is not None:
            line.setFocus(Qt.FocusReason.ShortcutFocusReason)
            line.selectAll()

    # what is taken

    @property
    def shows_fields(self) -> bool:
        """Whether the station in view has fields to be typed in."""
        return self._shown is not None

    @Slot()
    def ask_take(self) -> None:
        """Take what belongs to the station in view."""
        self.any_take_asked.emit()

    def show_live(self, state: LiveState | None) -> None:
        """What the instrument in front shows; None when there is none."""
        if self._metered != (state is not None):
            self._metered = state is not None
            self._arrange()
        self.live.show_state(state or LiveState(state=NO_METER))

    @property
    def live_ready(self) -> bool:
        """Whether what the instrument shows may be taken by hand."""
        return self._live_ready

    def set_live_ready(self, ready: bool) -> None:
        """Whether what the instrument shows may be taken by hand."""
        if ready != self._live_ready:
            self._live_ready = ready
            self._set_take()

    def _arrange(self) -> None:
        typing = self._shown is not None
        self.live.setVisible(self._metered or not typing)
        self._fields.setVisible(typing)
        self.take.setText("Take  ⏎" if typing else "Take  F8")
        self._how.setVisible(not self._metered or self.width() >= self._look.px(ROOM_FOR_ALL))
        self._set_take()

    def _set_take(self) -> None:
        self.take.setEnabled(self._shown.ready if self._shown is not None else self._live_ready)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._arrange()

    @Slot()
    def _resize(self) -> None:
        for field in self.lines.values():
            field.setFixedHeight(min(self._look.px(52), TALLEST_FIELD_PX))
            field.setMinimumWidth(self._look.px(100))
        self.take.setMinimumHeight(self._look.px(56))
        words = QFontMetrics(self._look.font()).height()
        fields = 2 * words + min(self._look.px(52), TALLEST_FIELD_PX)
        self.setFixedHeight(max(fields, self.live.sizeHint().height()) + 2 * MARGIN)  # the same at every station
        self._arrange()
