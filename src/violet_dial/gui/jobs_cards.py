"""Job cards: the rows, how a card is painted, and the wrapping list they stand in."""

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QPainter, QResizeEvent
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from violet_dial.job.spoken import spoken_time
from violet_dial.kit.theme.colours import Role
from violet_dial.kit.theme.look import Look
from violet_dial.store.records import Card

Index = QModelIndex | QPersistentModelIndex
CARD_ROLE = int(Qt.ItemDataRole.UserRole) + 1
CARD_WIDTH, CARD_HEIGHT = 320, 150


def foot_said(card: Card) -> str:
    """What stands at the foot of a card: what its job waits for, or that it cannot be read."""
    if card.shelf:
        return f"{card.shelf}, {spoken_time(card.shelved_at)}"
    return f"▲ {card.waits_for}" if card.waits_for.startswith("cannot") else f"waits for {card.waits_for}"


BATCH = 2_000  # cards laid out at once; what lies below them follows while the window is idle


class CardsModel(QAbstractListModel):
    """One row per card."""

    def __init__(self) -> None:
        super().__init__()
        self.cards: tuple[Card, ...] = ()

    def show(self, cards: tuple[Card, ...]) -> None:
        self.beginResetModel()
        self.cards = cards
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return len(self.cards)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        card = self.cards[index.row()]
        if role == CARD_ROLE:
            return card
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"Job {card.number:04d}, {card.title}: {card.headline}. {foot_said(card)}. {card.finding}"
        return None

    def index_of(self, job_id: str) -> QModelIndex:
        """Index of a job's card; the first card when it is not among them."""
        rows = (row for row, card in enumerate(self.cards) if card.job_id == job_id)
        return self.index(next(rows, 0)) if self.cards else QModelIndex()


class CardPainter(QStyledItemDelegate):
    """Paints one job's card."""

    def __init__(self, look: Look, view: QListView) -> None:
        super().__init__(view)
        self._look = look
        self._view = view
        self._size = QSize(CARD_WIDTH, CARD_HEIGHT)

    def measure(self) -> None:
        """Work the size out once; with thousands of cards it is asked for often."""
        bar = self._view.verticalScrollBar()
        # The list keeps room for the bar even while it is hidden.
        width = self._view.viewport().width() - 2 - (0 if bar.isVisible() else bar.sizeHint().width())
        columns = max(1, width // self._look.px(CARD_WIDTH))
        self._size = QSize(width // columns, self._look.px(CARD_HEIGHT))

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return self._size

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect: QRect = option.rect
        selected = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._card(painter, rect, index.data(CARD_ROLE), selected)
        painter.restore()

    def _card(self, painter: QPainter, rect: QRect, card: Card, selected: bool) -> None:
        look, gap = self._look, self._look.px(10)
        box = rect.adjusted(2, 2, -gap, -gap)
        painter.setBrush(look.colour("card"))
        pen = painter.pen()
        pen.setColor(look.colour("violet" if selected else "line"))
        pen.setWidth(3 if selected else 1)
        painter.setPen(pen)
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 10, 10)
        inner = box.adjusted(look.px(16), look.px(12), -look.px(16), -look.px(12))
        tag = f"{card.number:04d}"
        right = QFontMetrics(look.font(13)).horizontalAdvance(tag) + look.px(8)
        self._line(painter, inner.adjusted(0, 0, -right, 0), card.title, (16, True, "ink"))
        self._line(painter, inner, tag, (13, False, "quiet"), Qt.AlignmentFlag.AlignRight)
        self._line(painter, inner.adjusted(0, look.px(26), 0, 0), card.headline or "No fault noted yet", (13, False, "quiet"))
        self._line(painter, inner.adjusted(0, look.px(52), 0, 0), card.finding, (14, False, "ink"))
        foot = inner.adjusted(0, inner.height() - look.px(19), 0, 0)
        kept = spoken_time(card.kept_at)
        room = QFontMetrics(look.font(12)).horizontalAdvance(kept) + look.px(10)
        self._line(painter, foot, kept, (12, False, "quiet"), Qt.AlignmentFlag.AlignRight)
        self._line(painter, foot.adjusted(0, 0, -room, 0), foot_said(card), (13, True, "violet"))

    def _line(
        self,
        painter: QPainter,
        rect: QRect,
        text: str,
        style: tuple[float, bool, Role],
        align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft,
    ) -> None:
        painter.setFont(self._look.font(style[0], style[1]))
        painter.setPen(self._look.colour(style[2]))
        shown = QFontMetrics(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, rect.width())
        painter.drawText(rect, align | Qt.AlignmentFlag.AlignTop, shown)


class CardView(QListView):
    """The wrapping list of cards; Enter or double click chooses, Del asks to delete."""

    resized = Signal()
    chosen = Signal(QModelIndex)
    delete_asked = Signal()
    typed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("cards")
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(True)
        self.setUniformItemSizes(True)
        self.setLayoutMode(QListView.LayoutMode.Batched)
        self.setBatchSize(BATCH)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Jobs")
        self.doubleClicked.connect(self.chosen)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.resized.emit()
        super().resizeEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(self.currentIndex())
            return
        if event.key() == Qt.Key.Key_Delete:
            self.delete_asked.emit()
            return
        if event.text() == "/":
            event.ignore()
            return
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier)
        if plain and event.text().isalnum():  # a scanner types, or a person who means the search
            self.typed.emit(event.text())
            return
        super().keyPressEvent(event)
