"""Fields that keep themselves: when one is left, when Enter is pressed, and each second while one types.

What was typed and refused stays in its field, whatever else is drawn, until it is typed otherwise and kept.
"""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Slot
from PySide6.QtWidgets import QLineEdit, QPlainTextEdit

from violet_dial.kit.form import fill_text, line_edit, text_edit

KEEP_EVERY_MS = 1_000  # what is typed is never longer unkept


class KeptFields(QObject):
    """Lines and longer texts by their keys; ``keep`` is given all values and says whether they were kept."""

    def __init__(self, parent: QObject, keep: Callable[[dict[str, str]], bool]) -> None:
        super().__init__(parent)
        self._keep = keep
        self.lines: dict[str, QLineEdit] = {}
        self.texts: dict[str, QPlainTextEdit] = {}
        self._typed: set[str] = set()  # keys whose text was typed and is not kept
        self._rest = QTimer(self, singleShot=True, interval=KEEP_EVERY_MS)
        self._rest.timeout.connect(self._keep_on)
        self.burst = 1  # what is typed in one go is one act, however often it is kept meanwhile

    def line(self, key: str, name: str) -> QLineEdit:
        """A line of one's own making."""
        edit = line_edit(name)
        edit.textEdited.connect(lambda _: self._touched(key))
        edit.editingFinished.connect(self.keep)
        edit.returnPressed.connect(lambda: self._on_from(edit))
        self.lines[key] = edit
        return edit

    def _on_from(self, edit: QLineEdit) -> None:
        """Enter goes on to the next field, unless what was typed was refused."""
        if self.keep():
            edit.focusNextChild()

    def text(self, key: str, name: str) -> QPlainTextEdit:
        """A longer text."""
        edit = text_edit(name)
        edit.textChanged.connect(lambda: self._touched(key))
        self.texts[key] = edit
        return edit

    def _touched(self, key: str) -> None:
        self._typed.add(key)
        if not self._rest.isActive():
            self._rest.start()

    @Slot()
    def _keep_on(self) -> None:
        """A second has gone by: what was typed is kept; where nothing was, what comes next is an act of its own."""
        if not self._typed:
            self.burst += 1
        elif self._kept():
            self._rest.start()

    def begin(self) -> None:
        """Another job: nothing typed in the last one is left."""
        self._rest.stop()
        self._typed.clear()
        self.burst += 1

    def fill(self, values: dict[str, str]) -> None:
        """Put in what is kept; a field typed in since keeps its text and its cursor, and nothing is written back."""
        for key, edit in self.lines.items():
            if key not in self._typed and edit.text().strip() != values[key].strip():
                edit.setText(values[key])
                edit.setCursorPosition(0)
        for key, text in self.texts.items():
            if key not in self._typed and text.toPlainText() != values[key]:
                fill_text(text, values[key])

    def values(self) -> dict[str, str]:
        """What stands in every field."""
        lines = {key: edit.text().strip() for key, edit in self.lines.items()}
        return {**lines, **{key: edit.toPlainText() for key, edit in self.texts.items()}}

    @Slot()
    def keep(self) -> bool:
        """Keep what was typed, as the end of an act; False when it was refused."""
        self._rest.stop()
        kept = self._kept()
        self.burst += kept
        return kept

    def _kept(self) -> bool:
        if not self._typed:
            return True
        typed = set(self._typed)
        if not self._keep(self.values()):
            return False
        self._typed -= typed
        return True
