"""The marks of readings: round within, triangle up high, down low, half undecided, hollow not taken."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen, QPolygonF

from violet_dial.gui.theme.colours import Role
from violet_dial.gui.theme.look import Look
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
