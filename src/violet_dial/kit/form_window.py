"""A window with fields: Enter goes from field to field and at last to the main button, Ctrl+Enter keeps from anywhere, and
Esc asks first when something typed would be lost."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QDialog, QLineEdit, QPlainTextEdit, QPushButton, QWidget

from violet_dial.kit.ask import ask_yes

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class FormWindow(QDialog):
    """``keep_button`` is the one that keeps; no other is pressed by Enter but the one that has the focus."""

    keep_button: QPushButton
    own_enter: tuple[QWidget, ...] = ()  # fields that do something of their own on Enter

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._before: tuple[object, ...] | None = None
        self._asking = False

    def showEvent(self, event: QShowEvent) -> None:
        if self._before is None:
            self._before = self._typed()
            for button in self.findChildren(QPushButton):
                button.setAutoDefault(False)
                button.setDefault(False)
        super().showEvent(event)

    def note_kept(self) -> None:
        """What stands in the fields now was kept: leaving loses nothing."""
        self._before = self._typed()

    def _typed(self) -> tuple[object, ...]:
        """What stands in every field."""
        lines = tuple(one.text() for one in self.findChildren(QLineEdit))
        texts = tuple(one.toPlainText() for one in self.findChildren(QPlainTextEdit))
        boxes = tuple(one.currentText() for one in self.findChildren(QComboBox))
        return lines, texts, boxes, tuple(one.isChecked() for one in self.findChildren(QCheckBox))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() not in ENTER:
            super().keyPressEvent(event)
            return
        focused = self.focusWidget()
        if focused in self.own_enter:
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.keep_button.click()
        elif isinstance(focused, QPushButton):
            focused.click()
        else:
            self.focusNextChild()

    def reject(self) -> None:
        if self._before is None or self._typed() == self._before:
            super().reject()
        elif not self._asking:
            self._asking = True
            question = "Leave, and lose what was typed here?"
            ask_yes(self, "Not kept", question, "Leave it", self._answered)

    def _answered(self, yes: bool) -> None:
        self._asking = False
        if yes:
            super().reject()
