"""Cards and labels: what the look of every page is made of."""

from PySide6.QtCore import QEvent, QObject, QSize, Qt, Slot
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea, QApplication, QFrame, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget


def fill(widget: QWidget, inside: QWidget) -> None:
    """Let one thing take all the room of a widget."""
    layout = QVBoxLayout(widget)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.addWidget(inside)


def say(*said: tuple[QLabel, str]) -> None:
    """Put words on labels; a label without any is hidden."""
    for label, words in said:
        if label.text() != words:
            label.setText(words)
        label.setVisible(bool(words))


def card(title: str = "") -> tuple[QFrame, QVBoxLayout]:
    """An empty card with its heading."""
    frame = QFrame()
    frame.setProperty("role", "card")
    layout = QVBoxLayout(frame)
    layout.setContentsMargins(18, 14, 18, 14)
    if title:
        layout.addWidget(labelled(title, "head"))
    return frame, layout


class Scrolled(QScrollArea):
    """Scrolls when there is too little room; what it holds fills the room, and shrinks again when there is less of it.

    Whether there is a bar follows from the sizes alone, not from what was there before.
    """

    def __init__(self, widget: QWidget) -> None:
        super().__init__()
        self._fitting, self._held = False, widget
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(widget)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.focusChanged.connect(self._bring)

    @Slot(QWidget, QWidget)
    def _bring(self, _before: QWidget | None, now: QWidget | None) -> None:
        """What the keys go to is brought into view."""
        if now is not None and self.isVisible() and self._held.isAncestorOf(now):
            self.ensureWidgetVisible(now)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        done = super().eventFilter(watched, event)
        if event.type() == QEvent.Type.LayoutRequest and watched is self._held:
            self._fit()
        return done

    def viewportEvent(self, event: QEvent) -> bool:
        done = super().viewportEvent(event)
        if event.type() == QEvent.Type.LayoutRequest:  # the widget's own least size is another
            self._fit()
        return done

    def _fit(self) -> None:
        if self._fitting:
            return
        self._fitting = True
        widget, room = self._held, self.contentsRect()
        tall = self._height_at(room.width()) > room.height()
        policy = Qt.ScrollBarPolicy.ScrollBarAlwaysOn if tall else Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        self.setVerticalScrollBarPolicy(policy)
        width = max(self.viewport().width(), widget.minimumSizeHint().width())
        widget.resize(width, max(self._height_at(width), self.viewport().height()))
        self._fitting = False

    def _height_at(self, width: int) -> int:
        """What it takes to show everything at a width."""
        widget = self._held
        layout, least = widget.layout(), widget.minimumSizeHint().height()
        if not widget.hasHeightForWidth():
            return least
        of_layout = layout.totalMinimumHeightForWidth(width) if layout is not None else 0
        return max(widget.heightForWidth(width), of_layout, least)


def scrolled(widget: QWidget) -> QScrollArea:
    """A page that scrolls when large text leaves it too little room."""
    return Scrolled(widget)


def labelled(text: str, role: str, wrap: bool = False) -> QLabel:
    """A plain-text label in one of the style sheet's roles."""
    label = QLabel(text, wordWrap=wrap, textFormat=Qt.TextFormat.PlainText)
    label.setProperty("role", role)
    return label


class ElidedLabel(QLabel):
    """One line that ends in an ellipsis when there is no room; the whole text is its tip."""

    def __init__(self, role: str = "quiet") -> None:
        super().__init__()
        self.setProperty("role", role)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def minimumSizeHint(self) -> QSize:
        return QSize(40, super().minimumSizeHint().height())

    def setText(self, text: str) -> None:
        self.setToolTip(text)
        super().setText(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, text)


def scrolled_back(page: QWidget) -> None:
    """Everything that scrolls on a page, back to its beginning."""
    for area in page.findChildren(QAbstractScrollArea):
        area.verticalScrollBar().setValue(area.verticalScrollBar().minimum())
        area.horizontalScrollBar().setValue(area.horizontalScrollBar().minimum())
