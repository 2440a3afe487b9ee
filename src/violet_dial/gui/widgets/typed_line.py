"""One typed line with completion: what was understood is shown under it before Enter takes it."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QStringListModel, Qt, QTimer, Signal, Slot
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QListView, QVBoxLayout, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.gui.widgets.cards import labelled
from violet_dial.gui.widgets.form import line_edit


class TypedLine(QWidget):
    """Tab takes the first completion, Down opens the others, Enter takes the line when it was understood.

    Parameters
    ----------
    name : str; for a screen reader
    offers : whole lines the text may become, best first
    understand : what the line means, in words; raises `VioletDialError` when it cannot be understood
    """

    taken = Signal(str)

    def __init__(self, name: str, offers: Callable[[str], tuple[str, ...]], understand: Callable[[str], str]) -> None:
        super().__init__()
        self._offers, self._understand = offers, understand
        self.edit = line_edit(name)
        self.edit.setMaxLength(1000)
        self.said = labelled("", "understood", True)
        self._model = QStringListModel(self)
        self.completer = QCompleter(self._model, self)
        self.completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        self.completer.setWidget(self.edit)
        self._popup = QListView()
        self.completer.setPopup(self._popup)
        self.completer.activated.connect(self._chosen)
        self.right = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.edit)
        layout.addWidget(self.said)
        self.edit.textEdited.connect(self._typed)
        self.edit.textChanged.connect(self._read)
        self.edit.returnPressed.connect(self._take)
        self.edit.installEventFilter(self)
        self._read()

    @Slot(str)
    def _typed(self, text: str) -> None:
        offers = self._offers(text) if self.edit.cursorPosition() == len(text) else ()
        self._model.setStringList(list(offers))
        if offers:
            self.completer.complete()
        else:
            self._popup.hide()

    @Slot()
    def _read(self) -> None:
        text = self.edit.text().strip()
        self.right, role, said = False, "understood", ""
        if text:
            try:
                said = self._understand(text)
                self.right = True
            except VioletDialError as error:
                expected = getattr(error, "expected", "")
                role, said = "fault", f"expected {expected}" if expected else str(error)
        self.said.setText(said or " ")
        if self.said.property("role") != role:
            self.said.setProperty("role", role)
            self.said.style().unpolish(self.said)
            self.said.style().polish(self.said)

    @Slot(str)
    def _chosen(self, text: str) -> None:
        self.edit.setText(text)
        QTimer.singleShot(0, self.edit, self.edit.deselect)

    @Slot()
    def _take(self) -> None:
        if self.right:
            self._popup.hide()
            self.taken.emit(self.edit.text().strip())

    def clear(self) -> None:
        self.edit.setText("")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Tab:
            offers = self._model.stringList()
            if offers and self.edit.text() and self._popup.isVisible():
                self._popup.hide()
                self.edit.setText(offers[0])
                self._typed(offers[0])
                return True
        return super().eventFilter(watched, event)
