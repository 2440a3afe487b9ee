"""The marks of readings on the screen: one, or many stamped from one drawing."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPixmap

from violet_dial.kit.picture import paint
from violet_dial.kit.theme.look import Look
from violet_dial.report.dial import MarkState
from violet_dial.report.shapes import Sign


def draw_mark(painter: QPainter, look: Look, at: QPointF, state: MarkState, size: float) -> None:
    """One mark of radius ``size`` pixels centred on ``at``."""
    paint(painter, look, (Sign((at.x(), at.y()), state, size),))


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
