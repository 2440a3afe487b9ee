"""One typed line with completion: what was understood is shown under it before Enter takes it.

The completions stand in a line of their own, not in a window over the page: nothing covers the bench, nothing takes
the keys away.
"""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QSize, Qt, Slot
from PySide6.QtGui import QFont, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.kit.cards import labelled
from violet_dial.kit.form import line_edit

MOST_SHOWN = 6
BETWEEN = "  ·  "
MOST_TYPED = 2_000  # characters understood while they are typed; a line of the job holds far fewer


class OfferLine(QWidget):
    """Completions on one line, the marked one in bold, painted: a label would lay the page out anew at each key."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "understood")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._words: tuple[str, ...] = ()
        self._marked = 0

    @property
    def text(self) -> str:
        """What stands there; the marked one behind its arrow."""
        return BETWEEN.join(self._parts())

    def _parts(self) -> list[str]:
        return [f"⇥ {word}" if place == self._marked else word for place, word in enumerate(self._words)]

    def show_offers(self, words: tuple[str, ...], marked: int, marked_offer: str) -> None:
        """Show these; ``marked_offer`` is what a reader is told Tab gives."""
        self._words, self._marked = words, marked
        self.setAccessibleName(f"Tab: {marked_offer}" if words else "")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(40, self.fontMetrics().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        left, bold = 0, QFont(self.font())
        bold.setBold(True)
        for place, part in enumerate(self._parts()):
            words = part + BETWEEN * (place < len(self._words) - 1)
            painter.setFont(bold if place == self._marked else self.font())
            measure, room = painter.fontMetrics(), self.width() - left
            if room <= 0:
                break
            shown = measure.elidedText(words, Qt.TextElideMode.ElideRight, room)
            painter.drawText(left, 0, room, self.height(), Qt.AlignmentFlag.AlignVCenter, shown)
            left += measure.horizontalAdvance(words)


class TypedLine(QWidget):
    """Tab takes the marked completion, Down marks the next, Enter takes the line when it was understood.

    Parameters
    ----------
    name : str; for a screen reader
    understand : what the line means, in words; raises `VioletDialError` when it cannot be understood
    """

    def __init__(
        self,
        name: str,
        offers: Callable[[str], tuple[str, ...]] | None,
        understand: Callable[[str], str],
        take: Callable[[str], bool],
    ) -> None:
        super().__init__()
        self._take_line = take
        self._offers_for, self._understand = offers, understand
        self._offers: tuple[str, ...] = ()
        self._marked = 0
        self.edit = line_edit(name)
        self.edit.setMaxLength(MOST_TYPED)
        self.said = labelled("", "understood", True)
        self.said.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)  # where it is cut, its end is
        self.offered = OfferLine()
        self.offered.hide()
        self.right = False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        for item in (self.edit, self.offered, self.said):
            layout.addWidget(item)
        self.edit.textEdited.connect(self._typed)
        self.edit.textChanged.connect(self._read)
        self.edit.returnPressed.connect(self._take)
        self.edit.installEventFilter(self)
        self._read()

    @Slot(str)
    def _typed(self, text: str) -> None:
        at_end = self.edit.cursorPosition() == len(text)
        self._offers = self._offers_for(text)[:MOST_SHOWN] if self._offers_for and at_end and text.strip() else ()
        self._marked = 0
        self._show_offers()

    def _show_offers(self) -> None:
        words = tuple(self._tail(offer) for offer in self._offers)
        self.offered.show_offers(words, self._marked, self._offers[self._marked] if self._offers else "")

    def _tail(self, offer: str) -> str:
        """What an offer ends in, from the beginning of the word being typed."""
        same = 0
        text = self.edit.text()
        while same < min(len(text), len(offer)) and text[same].lower() == offer[same].lower():
            same += 1
        start = max(offer.rfind(" ", 0, same), offer.rfind(";", 0, same)) + 1
        return offer[start:].strip() or offer

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

    @Slot()
    def _take(self) -> None:
        if self.right:
            self._drop_offers()
            if self._take_line(self.edit.text().strip()):
                self.clear()

    def _drop_offers(self) -> None:
        self._offers = ()
        self._show_offers()

    def clear(self) -> None:
        self.edit.setText("")
        self._drop_offers()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._offers_for and event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self.offered.setVisible(event.type() == QEvent.Type.FocusIn)  # while it is typed in: no key moves the page
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and self._offers:
            key = event.key()
            if key == Qt.Key.Key_Tab and not event.modifiers():
                taken = self._offers[self._marked]
                self.edit.setText(taken)
                self._typed(taken)
                return True
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                step = 1 if key == Qt.Key.Key_Down else -1
                self._marked = (self._marked + step) % len(self._offers)
                self._show_offers()
                return True
        return super().eventFilter(watched, event)


def line(name: str, understand: Callable[[str], str], take: Callable[[str], bool]) -> TypedLine:
    """A line without completions."""
    return TypedLine(name, None, understand, take)
