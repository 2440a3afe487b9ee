"""Typed fields: what was understood is shown beside the field before it is taken."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QSize, Qt, Signal, Slot
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QComboBox, QGridLayout, QLabel, QLineEdit, QPlainTextEdit, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import parse_number
from violet_dial.kit.cards import labelled

SHOWN_LETTERS = 6  # of a choice, where there is no room for more
EDITING = (Qt.Key.Key_A, Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_X, Qt.Key.Key_Y, Qt.Key.Key_Z)


def for_the_window(event: QEvent, undo: bool, redo: bool) -> bool:
    """Whether a key pressed in a field goes to the window's shortcuts: Ctrl and a letter, but for those of editing; and undo
    and redo where the field itself has nothing to take back (``undo``, ``redo`` say whether it has). On X11 a field would
    otherwise keep keys of its own (Ctrl+E to the end of the line, Ctrl+D to delete)."""
    if event.type() != QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
        return False
    if event.matches(QKeySequence.StandardKey.Undo):
        return not undo
    if event.matches(QKeySequence.StandardKey.Redo):
        return not redo
    letter = Qt.Key.Key_A <= event.key() <= Qt.Key.Key_Z
    return letter and event.modifiers() == Qt.KeyboardModifier.ControlModifier and event.key() not in EDITING


class _Line(QLineEdit):
    """A line that keeps only the keys of editing for itself."""

    def event(self, event: QEvent) -> bool:
        if for_the_window(event, self.isUndoAvailable(), self.isRedoAvailable()):
            event.ignore()
            return True
        return super().event(event)


def line_edit(name: str, text: str = "") -> QLineEdit:
    """A line to type in, named for a screen reader."""
    edit = _Line(text)
    edit.setAccessibleName(name)
    return edit


class _Text(QPlainTextEdit):
    """Several lines that ask for the height of three and take what is left over."""

    def event(self, event: QEvent) -> bool:
        document = self.document()
        if for_the_window(event, document.isUndoAvailable(), document.isRedoAvailable()):
            event.ignore()
            return True
        return super().event(event)

    def sizeHint(self) -> QSize:
        return QSize(super().sizeHint().width(), 3 * self.fontMetrics().lineSpacing() + 22)


def text_edit(name: str) -> QPlainTextEdit:
    """Several lines to type in; Tab goes on."""
    edit = _Text()
    edit.setAccessibleName(name)
    edit.setTabChangesFocus(True)
    return edit


class _ChoiceBox(QComboBox):
    """A choice of a few, with a label that only a screen reader sees: on Linux a combo box's own name is what is chosen."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(SHOWN_LETTERS)
        self._reader_label = QLabel(name)
        self._reader_label.setBuddy(self)
        self._reader_label.hide()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ParentChange:
            self._reader_label.setParent(self.parentWidget())
            self._reader_label.hide()
        return super().event(event)


def combo(name: str, choices: tuple[str, ...] = ()) -> QComboBox:
    """A choice of a few."""
    box = _ChoiceBox(name)
    box.addItems(choices)
    return box


def fill_text(edit: QPlainTextEdit, value: str) -> None:
    """Put text in without it counting as typed."""
    edit.blockSignals(True)
    edit.setPlainText(value)
    edit.blockSignals(False)


class NumberField(QWidget):
    """One typed number with its unit; ``value`` is None while it cannot be understood.

    ``unit`` may carry a word for zero after a bar, as in ``mm|not known``. A field that was not touched keeps its
    value to the last digit.
    """

    changed = Signal()

    def __init__(self, name: str, unit: str, value: float, check: Callable[[float], None] | None = None) -> None:
        super().__init__()
        self._name, self._check, self._given = name, check, value
        self._unit, _, self._zero = unit.partition("|")
        self.edit = line_edit(name, f"{value:.4g}")
        self.edit.setMinimumWidth(70)
        self.said = labelled("", "understood", True)
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.edit, 0, 0)
        layout.addWidget(self.said, 0, 1)
        layout.setColumnStretch(0, 2)
        layout.setColumnStretch(1, 3)
        self.setFocusProxy(self.edit)
        self.edit.textChanged.connect(self._understand)
        self.value: float | None = value
        self._understand()

    @Slot()
    def _understand(self) -> None:
        try:
            typed = parse_number(self.edit.text(), self._name)
            self.value = typed if self.edit.isModified() else self._given
            if self._check:
                self._check(self.value)
        except InvalidInput as error:
            self.value = None
            self._say(f"expected {error.expected}", "fault")
        else:
            word = self._zero if self.value == 0 and self._zero else f"= {self.value:.4g} {self._unit}"
            self._say(word, "understood")
        self.changed.emit()

    def _say(self, text: str, role: str) -> None:
        self.said.setText(text)
        if self.said.property("role") != role:
            self.said.setProperty("role", role)
            self.said.style().unpolish(self.said)
            self.said.style().polish(self.said)


def add_row(grid: QGridLayout, name: str, field: QWidget) -> QLabel:
    """A labelled row at the end of a grid; the label's buddy is the field."""
    row = grid.rowCount()
    label = labelled(name, "quiet")
    if not isinstance(field, QComboBox):  # it brings a label of its own
        label.setBuddy(field)
    tall = isinstance(field, QPlainTextEdit)
    grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignTop if tall else Qt.AlignmentFlag.AlignVCenter)
    grid.addWidget(field, row, 1)
    return label
