"""Cards and labels: what the look of every page is made of."""

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)


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
    """Scrolls when there is too little room; what it holds shrinks again when there is less of it."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidget(widget)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        done = super().eventFilter(watched, event)
        widget = self.widget()
        if event.type() == QEvent.Type.LayoutRequest and watched is widget and widget.hasHeightForWidth():
            wanted = max(widget.heightForWidth(widget.width()), widget.minimumSizeHint().height())
            widget.resize(widget.width(), max(wanted, self.viewport().height()))
        return done


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
