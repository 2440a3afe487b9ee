"""Questions asked over the page: one line of text, or yes and no. They are opened, not waited for; Esc leaves all as it was.
Every window over the page is gone when it is closed.
"""

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.kit.cards import labelled
from violet_dial.kit.form import line_edit

GIVE_BACK_MS = 100  # by then a window manager has given the keys to the window below, or it has forgotten


def open_over(dialog: QDialog) -> QDialog:
    """Open a window over its parent; nothing of it is left once it is closed, and the keys go to what is below."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    parent = dialog.parentWidget()
    if parent is not None:
        below = parent.window()
        dialog.finished.connect(lambda: QTimer.singleShot(GIVE_BACK_MS, below, lambda: _give_keys(below)))
    dialog.open()
    return dialog


def _give_keys(below: QWidget) -> None:
    """Where two windows close in one, a window manager may give the keys to the one that is going."""
    if QApplication.activeWindow() is None and below.isVisible() and QApplication.activeModalWidget() in (None, below):
        below.activateWindow()


Row = tuple[QPushButton, QPushButton]


def _buttons(dialog: QDialog, yes: str, no: str) -> tuple[QHBoxLayout, Row]:
    """Two buttons at the right, the main one last; Esc is the other."""
    agree, leave = QPushButton(yes), QPushButton(no)
    agree.setProperty("role", "main")
    leave.setAutoDefault(False)
    agree.setDefault(True)
    leave.clicked.connect(dialog.reject)
    row = QHBoxLayout()
    row.addStretch(1)
    row.addWidget(leave)
    row.addWidget(agree)
    return row, (agree, leave)


class AskText(QDialog):
    """One line asked for; ``then`` is given it on Enter and says whether it was kept: else the window stays."""

    def __init__(self, parent: QWidget, title: str, question: str, text: str, then: Callable[[str], bool]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._then = then
        self.edit = line_edit(question, text)
        self.edit.selectAll()
        row, (agree, _) = _buttons(self, "Keep  ⏎", "Leave as it was  Esc")
        agree.clicked.connect(self._keep)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(question, "head", True))
        layout.addWidget(self.edit)
        layout.addLayout(row)
        self.setMinimumWidth(520)
        self.edit.setFocus()

    def _keep(self) -> None:
        if self._then(self.edit.text().strip()):
            self.accept()


class AskYes(QDialog):
    """Yes or no; Enter is no, so that a key pressed without thought changes nothing. Y and N answer too."""

    def __init__(self, parent: QWidget, title: str, question: str, yes: str, then: Callable[[bool], None]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        row, (agree, leave) = _buttons(self, f"{yes}  Y", "No  Esc")
        agree.setShortcut("Y")
        leave.setShortcut("N")
        agree.setDefault(False)
        agree.setAutoDefault(False)
        leave.setDefault(True)
        agree.clicked.connect(self.accept)
        self.finished.connect(lambda result: then(result == QDialog.DialogCode.Accepted))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 16, 20, 14)
        layout.addWidget(labelled(question, "head", True))
        layout.addLayout(row)
        self.setMinimumWidth(520)
        self.setAccessibleName(question)
        leave.setFocus()


def ask_text(parent: QWidget, title: str, question: str, text: str, then: Callable[[str], bool]) -> AskText:
    """Ask for one line; ``then`` says whether it was kept."""
    dialog = AskText(parent, title, question, text, then)
    open_over(dialog)
    return dialog


def ask_yes(parent: QWidget, title: str, question: str, yes: str, then: Callable[[bool], None]) -> AskYes:
    """Ask for a yes; anything else is no."""
    dialog = AskYes(parent, title, question, yes, then)
    open_over(dialog)
    return dialog
