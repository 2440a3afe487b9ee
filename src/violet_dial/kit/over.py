"""Windows over the page: opened, never waited for, and gone when they are closed."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QWidget

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
