"""The light of one firing as it was recorded, with its edges at half amplitude."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.theme.look import Look
from violet_dial.stations.expose.speeds_state import LightShown

TALL, PAD, WORDS = 88, 5, 18


class LightView(QWidget):
    """Only drawn; what it says in words is its name."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown = LightShown()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(300), self._look.px(TALL if self.shown.points else WORDS * 2))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def show_light(self, shown: LightShown) -> None:
        """Draw this firing."""
        taller = bool(shown.points) != bool(self.shown.points)
        self.shown = shown
        self.setAccessibleName(shown.words)
        if taller:
            self.updateGeometry()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        look, shown = self._look, self.shown
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        words = QRectF(0, self.height() - look.px(WORDS * 2), self.width(), look.px(WORDS * 2))
        flags = int(Qt.AlignmentFlag.AlignLeft) | int(Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)
        painter.drawText(words, flags, shown.words)
        if not shown.points:
            return
        box = QRectF(0, PAD, self.width(), words.top() - 2 * PAD)
        low, high = min(shown.points), max(shown.points)
        swing = max(high - low, 1e-12)

        def at(share: float, value: float) -> QPointF:
            return QPointF(box.left() + share * box.width(), box.bottom() - (value - low) / swing * box.height())

        open_ = QRectF(at(shown.opened, high), at(shown.closed, low))
        painter.fillRect(open_, look.colour("soft"))
        last = max(len(shown.points) - 1, 1)
        painter.setPen(QPen(look.colour("ink"), 1.4))
        painter.drawPolyline(QPolygonF([at(place / last, value) for place, value in enumerate(shown.points)]))
        painter.setPen(QPen(look.colour("violet"), 2))
        for share in (shown.opened, shown.closed):
            painter.drawLine(at(share, low), at(share, high))
