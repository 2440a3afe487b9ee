"""The marks of readings: round within, triangle up high, down low, half undecided, hollow not taken."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from violet_dial.kit.theme.colours import Role
from violet_dial.kit.theme.look import Look
from violet_dial.report.dial import MarkState

MARK_COLOURS: dict[MarkState, Role] = {
    "inside": "within", "high": "out", "low": "out", "undecided": "watch", "empty": "quiet",
}  # fmt: skip


def draw_mark(painter: QPainter, look: Look, at: QPointF, state: MarkState, size: float) -> None:
    """One mark of radius ``size`` pixels centred on ``at``."""
    colour = look.colour(MARK_COLOURS[state])
    painter.setPen(QPen(look.colour("card"), 1.2))
    painter.setBrush(colour)
    if state in ("high", "low"):
        tip = -size if state == "high" else size
        corners = [QPointF(0, tip), QPointF(-size, -tip * 0.8), QPointF(size, -tip * 0.8)]
        painter.drawPolygon(QPolygonF([at + corner for corner in corners]))
        return
    box = QRectF(at.x() - size * 0.85, at.y() - size * 0.85, size * 1.7, size * 1.7)
    if state == "inside":
        painter.drawEllipse(box)
        return
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(look.colour("card"))
    painter.drawEllipse(box)
    if state == "undecided":
        painter.setBrush(colour)
        painter.drawPie(box, 90 * 16, 180 * 16)


class MarkStamps:
    """Marks of one size drawn once each and stamped many times, for dials with hundreds of readings."""

    def __init__(self, look: Look, size: float, ratio: float) -> None:
        self._look, self._size, self._ratio = look, size, ratio
        self._half = int(size) + 3
        self._made: dict[MarkState, QPixmap] = {}

    def _stamp(self, state: MarkState) -> QPixmap:
        pixels = int(2 * self._half * self._ratio)
        stamp = QPixmap(pixels, pixels)
        stamp.setDevicePixelRatio(self._ratio)
        stamp.fill(Qt.GlobalColor.transparent)
        painter = QPainter(stamp)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_mark(painter, self._look, QPointF(self._half, self._half), state, self._size)
        painter.end()
        return stamp

    def draw(self, painter: QPainter, at: QPointF, state: MarkState) -> None:
        """Stamp one mark centred on ``at``."""
        if state not in self._made:
            self._made[state] = self._stamp(state)
        painter.drawPixmap(QPointF(at.x() - self._half, at.y() - self._half), self._made[state])
