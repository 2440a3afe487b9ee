"""A picture's shapes drawn by Qt, marks one by one or many stamped from one drawing, and what widgets that show a picture have in
common: size, name for a reader, drawing again.
"""

from collections.abc import Iterable
from functools import singledispatch

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QAccessible, QAccessibleEvent, QColor, QPaintDevice, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.theme.look import Look
from violet_dial.report.dial import MarkState
from violet_dial.report.shapes import Box, Caption, Circle, Filled, HalfDisc, Plain, Point, Polyline, Shape, Sign, Strokes, plain


def paint(painter: QPainter, look: Look, shapes: Iterable[Shape]) -> None:
    """Draw shapes, in their order; ``Ready`` ones are for paper alone."""
    for shape in plain(shapes):
        _paint(shape, painter, look)


def _colour(look: Look, colour: str, share: float = 1.0) -> QColor:
    found = QColor(colour) if colour.startswith("#") else look.colour(colour)
    if share < 1:
        found.setAlphaF(share)
    return found


def antialiased(device: QPaintDevice) -> QPainter:
    """A painter on a widget or a pixmap, its edges smooth."""
    painter = QPainter(device)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    return painter


def pens(painter: QPainter, look: Look, edge: str, fill: str, width: float = 1.0) -> None:
    """What lines and areas are drawn with from here on, by the colours' roles; ``none`` for nothing."""
    painter.setPen(Qt.PenStyle.NoPen if edge == "none" else QPen(_colour(look, edge), width))
    painter.setBrush(Qt.BrushStyle.NoBrush if fill == "none" else _colour(look, fill))


def _polygon(points: tuple[Point, ...]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points])


@singledispatch
def _paint(shape: Plain, painter: QPainter, look: Look) -> None:
    """Nothing: what is for paper alone."""


@_paint.register
def _(shape: Caption, painter: QPainter, look: Look) -> None:
    painter.setFont(look.font(shape.size, shape.bold))
    painter.setPen(_colour(look, shape.colour))
    metrics, text = painter.fontMetrics(), shape.text
    if shape.most > 0:
        text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(shape.most))
    share = {"start": 0.0, "middle": 0.5, "end": 1.0}[shape.anchor]
    left = shape.at[0] - (metrics.horizontalAdvance(text) * share if share else 0.0)
    painter.drawText(QPointF(left, shape.at[1]), text)


@_paint.register
def _(shape: Polyline, painter: QPainter, look: Look) -> None:
    style = Qt.PenStyle.DashLine if shape.dashed else Qt.PenStyle.SolidLine
    painter.setPen(QPen(_colour(look, shape.colour), shape.width, style))
    painter.drawPolyline(_polygon(shape.points))


@_paint.register
def _(shape: Strokes, painter: QPainter, look: Look) -> None:
    painter.setPen(QPen(_colour(look, shape.colour), shape.width))
    painter.drawLines([QLineF(*first, *last) for first, last in shape.segments])


@_paint.register
def _(shape: Filled, painter: QPainter, look: Look) -> None:
    pens(painter, look, shape.edge, "none", 1.2)
    painter.setBrush(_colour(look, shape.fill, shape.share))
    painter.drawPolygon(_polygon(shape.points))


@_paint.register
def _(shape: Box, painter: QPainter, look: Look) -> None:
    pens(painter, look, shape.edge, shape.fill, shape.width)
    painter.drawRoundedRect(QRectF(*shape.at, *shape.size), shape.corner, shape.corner)


@_paint.register
def _(shape: Circle, painter: QPainter, look: Look) -> None:
    pens(painter, look, shape.edge, shape.fill, shape.width)
    painter.drawEllipse(QPointF(*shape.at), shape.radius, shape.radius)


@_paint.register
def _(shape: HalfDisc, painter: QPainter, look: Look) -> None:
    pens(painter, look, "none", shape.fill)
    (x, y), r = shape.at, shape.radius
    painter.drawPie(QRectF(x - r, y - r, 2 * r, 2 * r), 90 * 16, 180 * 16)


class PaintedView(QWidget):
    """What every painted widget has in common: the look, keys, how large it is at least (`least`, at usual text), its name for
    a reader."""

    def __init__(self, look: Look, takes_keys: bool = False) -> None:
        super().__init__()
        self._look = look
        if takes_keys:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        look.changed.connect(self.updateGeometry)

    @property
    def scale(self) -> float:
        """Lengths at this text, to those at usual text."""
        return self._look.percent / 100

    def least(self) -> tuple[float, float]:
        """Width and height that the picture needs, at usual text."""
        raise NotImplementedError

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()

    def minimumSizeHint(self) -> QSize:
        wide, tall = self.least()
        return QSize(self._look.px(wide), self._look.px(tall))

    def say(self, words: str) -> None:
        """What it shows, for a screen reader."""
        self.setAccessibleName(words)
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))


class PictureView(PaintedView):
    """Shows a picture of shapes, made anew when what is shown, the size or the look changes, and not at each painting."""

    def __init__(self, look: Look, takes_keys: bool = False) -> None:
        super().__init__(look, takes_keys)
        self._drawn: tuple[object, tuple[Shape, ...]] = (None, ())

    def shapes(self) -> Iterable[Shape]:
        """What is drawn, in the widget's own points."""
        raise NotImplementedError

    def draw_anew(self) -> None:
        """What is shown is another."""
        self._drawn = (None, ())
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        now = (self.size(), self._look.theme, self._look.percent, self.hasFocus())
        if self._drawn[0] != now:
            self._drawn = (now, tuple(self.shapes()))
        paint(antialiased(self), self._look, self._drawn[1])


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
        painter = antialiased(stamp)
        draw_mark(painter, self._look, QPointF(self._half, self._half), state, self._size)
        painter.end()
        return stamp

    def draw(self, painter: QPainter, at: QPointF, state: MarkState) -> None:
        """Stamp one mark centred on ``at``."""
        if state not in self._made:
            self._made[state] = self._stamp(state)
        painter.drawPixmap(QPointF(at.x() - self._half, at.y() - self._half), self._made[state])
