"""Traces one below the other over one stretch of time, zoomed and moved by keys; long ones drawn from a pyramid."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)

from violet_dial.core.signals.pyramid import Pyramid
from violet_dial.kit.marks import draw_mark
from violet_dial.kit.picture import PaintedView
from violet_dial.kit.theme.look import Look
from violet_dial.stations.expose.traces_state import TraceRow

LANE, HEAD, FOOT, PAD, LEAST_WIDE = 86, 20, 22, 8, 320
ZOOM, STEP, CLOSEST = 1.6, 0.2, 2e-5  # of the whole: nothing is drawn nearer than that
LEAST_SWING = 0.3  # of the level: what a lane spans at least


class TracesView(PaintedView):
    """Up and Down go from trace to trace, + and − zoom, Left and Right move, 0 shows all."""

    chosen = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self.rows: tuple[TraceRow, ...] = ()
        self.pyramids: dict[int, Pyramid] = {}
        self.place = 0
        self.first, self.last = 0.0, 1.0  # of the whole stretch, what is shown

    def minimumSizeHint(self) -> QSize:
        look = self._look
        return QSize(look.px(LEAST_WIDE), look.px(LANE) * max(len(self.rows), 1) + look.px(FOOT))

    def begin(self) -> None:
        """Another job: nothing shown, all of it."""
        self.rows, self.pyramids, self.place, self.first, self.last = (), {}, 0, 0.0, 1.0
        self._say()
        self.update()

    def show_rows(self, rows: tuple[TraceRow, ...]) -> None:
        """Draw these; the cursor goes to a new one."""
        grown = len(rows) - len(self.rows)
        self.rows = rows
        self.place = max(len(rows) - 1, 0) if grown > 0 else min(self.place, max(len(rows) - 1, 0))
        if grown:
            self.updateGeometry()
        self._say()
        self.update()

    def _say(self) -> None:
        one = self.rows[self.place] if self.rows else None
        self.say(f"Traces. {one.name}: {one.words}" if one else "No traces yet")

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        middle, wide = (self.first + self.last) / 2, self.last - self.first
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.rows:
            self.select(self.place + (1 if key == Qt.Key.Key_Down else -1))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._stretch(middle, wide / ZOOM)
        elif key == Qt.Key.Key_Minus:
            self._stretch(middle, wide * ZOOM)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._stretch(middle + (STEP if key == Qt.Key.Key_Right else -STEP) * wide, wide)
        elif key == Qt.Key.Key_0:
            self._stretch(0.5, 1.0)
        else:
            super().keyPressEvent(event)

    def _stretch(self, middle: float, wide: float) -> None:
        """Show so much about a place, all of it inside."""
        wide = min(max(wide, CLOSEST), 1.0)
        self.first = min(max(middle - wide / 2, 0.0), 1.0 - wide)
        self.last = self.first + wide
        self.update()

    def select(self, place: int) -> None:
        """The cursor to a trace."""
        place = min(max(place, 0), len(self.rows) - 1)
        if place != self.place:
            self.place = place
            self._say()
            self.chosen.emit(place)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for place in range(len(self.rows)):
            if self.lane_box(place).contains(QPointF(1, event.position().y())):
                self.select(place)

    # drawing

    def lane_box(self, place: int) -> QRectF:
        """Where a trace lies."""
        look = self._look
        tall = (self.height() - look.px(FOOT)) / max(len(self.rows), 1)
        tall = min(tall, look.px(LANE * 2.4))
        return QRectF(0, place * tall, self.width(), tall)

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.rows:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, row in enumerate(self.rows):
            self._lane(painter, place, row)
        look = self._look
        whole = max(row.span_s for row in self.rows)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        foot = QRectF(0, self.lane_box(len(self.rows) - 1).bottom(), self.width(), look.px(FOOT))
        sides = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
        for side, share in zip(sides, (self.first, self.last), strict=True):
            painter.drawText(foot, side | Qt.AlignmentFlag.AlignVCenter, f"{share * whole:.4g} s")
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "+ − zoom   ← → move   0 all")

    def _lane(self, painter: QPainter, place: int, one: TraceRow) -> None:
        look, box = self._look, self.lane_box(place)
        if place == self.place:
            painter.setPen(QPen(look.colour("violet"), 2 if self.hasFocus() else 1))
            painter.setBrush(look.colour("soft") if self.hasFocus() else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)
        draw_mark(painter, look, QPointF(look.px(PAD + 6), box.top() + look.px(HEAD / 2 + 2)), one.mark, look.px(5))
        painter.setFont(look.font(13, place == self.place))
        painter.setPen(look.colour("ink"))
        head = QRectF(look.px(PAD + 18), box.top() + 2, box.width() - look.px(2 * PAD + 18), look.px(HEAD))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, one.name)
        self._line(painter, place, one, box.adjusted(look.px(PAD), look.px(HEAD) + 4, -look.px(PAD), -look.px(6)))

    def _line(self, painter: QPainter, place: int, one: TraceRow, box: QRectF) -> None:
        look = self._look
        low, high, span = self._figures(place, one, int(box.width()))
        if not len(low):
            return
        middle = (span[0] + span[1]) / 2  # a still line is drawn still
        swing = max(span[1] - span[0], LEAST_SWING * max(abs(span[0]), abs(span[1])), 1e-12)

        def y(value: float) -> float:
            return box.center().y() - (value - middle) / swing * box.height()

        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        said = f"{span[0]:.3g} to {span[1]:.3g}".replace("-", "−")
        above = QRectF(box.left(), box.top() - look.px(HEAD) - 2, box.width(), look.px(HEAD))
        painter.drawText(above, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said)
        if span[0] < 0 < span[1]:
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(QPointF(box.left(), y(0.0)), QPointF(box.right(), y(0.0)))
        self._behind(painter, one, box, y)
        painter.setPen(QPen(look.colour("ink"), 1.3))
        x = box.left() + np.linspace(0.0, 1.0, len(low)) * box.width()
        points = [
            QPointF(at, y(value))
            for at, a, b in zip(x, low, high, strict=True)
            for value in ((a,) if a == b else (a, b))
        ]
        painter.drawPolyline(QPolygonF(points))

    def _behind(self, painter: QPainter, one: TraceRow, box: QRectF, y: Callable[[float], float]) -> None:
        """The sister's line, and the difference to it filled."""
        if not one.sister:
            return
        count = len(one.sister)
        first, last = int(self.first * count), int(np.ceil(self.last * count))
        own = np.array(one.points)[: 2 * count].reshape(-1, 2).mean(axis=1) if len(one.points) >= 2 * count else None
        shown = [place for place in range(first, last) if np.isfinite(one.sister[place])]
        places = [box.left() + (place - first + 0.5) / max(last - first, 1) * box.width() for place in shown]
        line = [QPointF(x, y(one.sister[place])) for x, place in zip(places, shown, strict=True)]
        if own is not None:
            back = [
                QPointF(x, y(float(own[place]))) for x, place in zip(reversed(places), reversed(shown), strict=True)
            ]
            fill = self._look.colour("out")
            fill.setAlphaF(0.16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(fill)
            painter.drawPolygon(QPolygonF([*line, *back]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._look.colour("violet"), 1.6, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF(line))

    def _figures(self, place: int, one: TraceRow, columns: int) -> tuple[np.ndarray, np.ndarray, tuple[float, float]]:
        """Least and most for each column of what is shown, and those of all."""
        if place in self.pyramids:
            pyramid = self.pyramids[place]
            low, high = pyramid.shown(
                int(self.first * pyramid.count), int(np.ceil(self.last * pyramid.count)), max(columns, 2)
            )
            return low, high, pyramid.span
        points = np.array(one.points)
        span = (float(points.min()), float(points.max())) if len(points) else (0.0, 0.0)
        part = points[int(self.first * len(points)) : int(np.ceil(self.last * len(points))) + 1]
        return part, part, span
