"""Windows over the page: opened, never waited for, and gone when they are closed."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog


def open_over(dialog: QDialog) -> QDialog:
    """Open a window over its parent; nothing of it is left once it is closed."""
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.open()
    return dialog
