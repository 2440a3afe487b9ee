"""The circuit on the screen: wiring heavy with suspicion, probes at the two points to touch."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.finding_marks import draw_finding
from violet_dial.kit.theme.look import Look
from violet_dial.kit.word_places import BESIDE, OVER, UNDER, WordPlaces
from violet_dial.stations.trace.circuit_map import BLOCKS, CircuitMap, Place, Run
from violet_dial.stations.trace.state import MapState

WIRES = {
    "red": "#C0392B", "black": "#4A4350", "blue": "#2E6FB7", "green": "#2E8B57", "orange": "#D9822B", "white": "#B8B2BE",
    "yellow": "#C9A227", "brown": "#7B4F2E", "grey": "#8A8590", "violet": "#7A4FA3",
}  # fmt: skip
_MOVES = {
    Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0), Qt.Key.Key_Down: (0.0, 1.0),
}  # fmt: skip
LEAST_SHOWN = 0.03  # suspicion below this is not written beside a part
PIN_STEP = 0.5
ROW_LEAST = 62  # below this pitch words would run into each other; the map scrolls instead


class CircuitView(QWidget):
    """Arrows go from spot to spot; Shift and arrows move a spot and pin it; dragging does the same."""

    pinned = Signal(str, float, float)
    spot_chosen = Signal(str)
    resized = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._map = CircuitMap((), (), ())
        self._state = MapState()
        self._at = ""
        self._drag: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(260, 170)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(500), self._look.px(330))

    def begin(self) -> None:
        """Another job: its first spot."""
        self._at, self._drag = "", None

    def show_map(self, circuit_map: CircuitMap, state: MapState) -> None:
        self._map, self._state = circuit_map, state
        if self._at not in {one.node for one in circuit_map.places}:
            self._at = circuit_map.places[0].node if circuit_map.places else ""
        self.setMinimumHeight(self._look.px(54 + 84) + int(self._map.rows * self._look.px(ROW_LEAST)))
        self._say()
        self.update()

    def probe_point(self) -> QPointF | None:
        """Where the plus probe stands, to be brought into view."""
        return self._spot(self._state.plus) if self._state.plus else None

    def _say(self) -> None:
        if not self._at:
            self.setAccessibleName("No circuit yet")
            return
        parts = [run.label for run in self._map.runs if self._at in (run.start, run.end)]
        probes = (
            f" Probes: plus at {self._state.plus}, minus at {self._state.minus or 'ground'}."
            if self._state.plus
            else ""
        )
        self.setAccessibleName(f"Point {self._at}, at {', '.join(parts)}.{probes}")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.resized.emit()

    # geometry

    def _point(self, column: float, row: float) -> QPointF:
        px = self._look.px
        left, head, foot = px(46), px(54), px(84)
        wide = min((self.width() - left - self._right()) / max(self._map.columns, 1.0), px(170))
        tall = min(max((self.height() - head - foot) / max(self._map.rows, 1.0), px(ROW_LEAST)), px(86))
        spare = max(self.height() - head - foot - tall * self._map.rows, 0.0)
        return QPointF(left + column * wide, head + spare * 0.3 + row * tall)

    def _lane(self, run: Run) -> float:
        """Pixels between parts that hang from one spot."""
        place = self._place(run.start)
        if place is not None and place.column > self._map.columns - 0.5:
            return float(self._look.px(78))  # room is kept there
        pitch = self._point(1, 0).x() - self._point(0, 0).x()
        return min(max(pitch * 0.94 / max(run.of_lanes, 1), self._look.px(62)), self._look.px(78))

    @property
    def columns_that_fit(self) -> int:
        """Spots side by side with room for their words."""
        return max(4, min(9, int((self.width() - self._look.px(130)) // self._look.px(86)) + 1))

    def _right(self) -> int:
        """Room kept on the right for what hangs from the last spots, or runs down between them."""
        last = {one.node for one in self._map.places if one.column > self._map.columns - 0.5}
        if any(run.start in last and run.end in last for run in self._map.runs):
            return self._look.px(124)
        lanes = max((run.of_lanes for run in self._map.runs if run.end is None and run.start in last), default=0)
        return self._look.px(56 + 78 * max(lanes - 1, 0) + (46 if lanes else 0))

    def _place(self, node: str) -> Place | None:
        return next((one for one in self._map.places if one.node == node), None)

    def _spot(self, node: str) -> QPointF | None:
        place = self._place(node)
        return self._point(place.column, place.row) if place else None

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        move = _MOVES.get(Qt.Key(event.key()))
        place = self._place(self._at)
        if move is None or place is None:
            super().keyPressEvent(event)
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.pinned.emit(self._at, place.column + move[0] * PIN_STEP, place.row + move[1] * PIN_STEP)
            return
        best, least = None, math.inf
        for one in self._map.places:
            along = (one.column - place.column) * move[0] + (one.row - place.row) * move[1]
            across = abs((one.column - place.column) * move[1]) + abs((one.row - place.row) * move[0])
            if along > 0.05 and along + 2 * across < least:
                best, least = one.node, along + 2 * across
        if best is not None:
            self._choose(best)

    def _choose(self, node: str) -> None:
        self._at = node
        self._say()
        self.spot_chosen.emit(node)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        near = [(one, self._point(one.column, one.row)) for one in self._map.places]
        near = [pair for pair in near if (pair[1] - event.position()).manhattanLength() < self._look.px(20)]
        if near:
            self._choose(near[0][0].node)
            self._drag = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        place = self._place(self._at)
        if self._drag is not None and place is not None and (event.position() - self._drag).manhattanLength() > 8:
            one, other = self._point(0, 0), self._point(1, 1)
            column = (event.position().x() - one.x()) / max(other.x() - one.x(), 1.0)
            row = (event.position().y() - one.y()) / max(other.y() - one.y(), 1.0)
            self.pinned.emit(self._at, max(column, 0.0), max(row, 0.0))
        self._drag = None

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_headings(painter)
        runs = sorted(self._map.runs, key=lambda run: self._state.suspicion.get(run.part, 0.0))
        px = self._look.px
        words = WordPlaces(QRectF(0, px(22), self.width(), self.height() - px(22)))
        marks = [(run, at) for run in runs if (at := self._paint_run(painter, run, words)) is not None]
        for one in self._map.places:
            self._paint_spot(painter, one, words)
        for run, at in reversed(marks):  # the most suspected first
            self._paint_label(painter, run, at, words)
        self._paint_probe(painter, self._state.plus, "+")
        self._paint_probe(painter, self._state.minus, "−")

    def _paint_headings(self, painter: QPainter) -> None:
        look = self._look
        painter.setFont(look.font(11.5))
        for name, first, last in self._map.headings:
            left, right = self._point(first, 0).x(), self._point(min(last, max(self._map.columns, first + 0.6)), 0).x()
            painter.setPen(QPen(look.colour("line"), 2))
            painter.drawLine(QPointF(left + 4, look.px(20)), QPointF(right - 4, look.px(20)))
            painter.setPen(look.colour("quiet"))
            box = QRectF(left, look.px(2), right - left, look.px(16))
            text = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(box.width()))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _path(self, run: Run, start: QPointF, end: QPointF) -> QPainterPath:
        """The line of a part; parallel ones bow apart, long ones bow over what lies between."""
        path = QPainterPath(start)
        span = end - start
        length = math.hypot(span.x(), span.y()) or 1.0
        columns = [place.column for place in (self._place(run.start), self._place(run.end or "")) if place]
        long = max(columns) - min(columns)
        bow = (run.lane - (run.of_lanes - 1) / 2) * self._look.px(44) + (self._look.px(34) if long > 1.4 else 0)
        middle = QPointF(
            (start.x() + end.x()) / 2 - span.y() / length * bow, (start.y() + end.y()) / 2 - span.x() / length * bow
        )
        if abs(bow) < 1:
            path.lineTo(end)
        else:
            path.quadTo(
                QPointF(2 * middle.x() - (start.x() + end.x()) / 2, 2 * middle.y() - (start.y() + end.y()) / 2), end
            )
        return path

    def _paint_run(self, painter: QPainter, run: Run, words: WordPlaces) -> QPointF | None:
        """Draws a part with its mark; where the mark stands."""
        look, start = self._look, self._spot(run.start)
        if start is None:
            return None
        end = self._spot(run.end) if run.end else None
        suspicion = self._state.suspicion.get(run.part, 0.0)
        hangs = end is None
        if end is None:
            shift = run.lane * self._lane(run)
            end = QPointF(start.x() + shift, start.y() + look.px(74))
        path = self._path(run, start, end) if not hangs else _stub(start, end)
        colour = (
            look.colour("out")
            if suspicion >= LEAST_SHOWN
            else QColor(WIRES[run.colour])
            if run.colour in WIRES
            else look.colour("quiet")
        )
        dotted = run.kind in BLOCKS and not hangs  # a block looks at its first spot; no current flows from there
        style = (
            Qt.PenStyle.DashLine
            if run.part in self._state.lifted
            else Qt.PenStyle.DotLine
            if dotted
            else Qt.PenStyle.SolidLine
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 1.8 + 9.0 * suspicion, style, Qt.PenCapStyle.RoundCap))
        painter.drawPath(path)
        if suspicion >= LEAST_SHOWN and run.colour in WIRES:
            painter.setPen(QPen(QColor(WIRES[run.colour]), 1.6))
            painter.drawPath(path)
        if hangs:
            self._paint_ground(painter, end)
            words.take(QRectF(end.x() - 10, end.y() - 2, 20, 14))
        at = path.pointAtPercent(0.66 if hangs else 0.5)
        self._paint_glyph(painter, run, at, suspicion)
        self._keep_clear(run, path, at, words)
        return at

    def _keep_clear(self, run: Run, path: QPainterPath, at: QPointF, words: WordPlaces) -> None:
        """No words over a part's mark or its finding, and rather none over its line."""
        px = self._look.px
        words.take(QRectF(at.x() - px(10), at.y() - px(7), px(20), px(14)))
        if run.part in self._state.findings:
            words.take(QRectF(at.x() - px(9), at.y() - px(27), px(18), px(18)))
        count = max(int(path.length() / px(8)), 1)
        for step in range(1, count):
            on = path.pointAtPercent(step / count)
            words.take(QRectF(on.x() - px(2), on.y() - px(2), px(4), px(4)))

    def _paint_ground(self, painter: QPainter, at: QPointF) -> None:
        painter.setPen(QPen(self._look.colour("quiet"), 1.6))
        for place, half in enumerate((9, 6, 3)):
            y = at.y() + place * 4
            painter.drawLine(QPointF(at.x() - half, y), QPointF(at.x() + half, y))

    def _paint_glyph(self, painter: QPainter, run: Run, at: QPointF, suspicion: float) -> None:
        look = self._look
        painter.setPen(QPen(look.colour("out" if suspicion >= LEAST_SHOWN else "quiet"), 1.4))
        painter.setBrush(look.colour("card"))
        size = look.px(7)
        if run.kind in ("wire", "track", "joint", "connector", "contact", "clip", "flex"):
            painter.drawRect(QRectF(at.x() - size * 0.55, at.y() - size * 0.55, size * 1.1, size * 1.1))
        elif run.kind in ("movement", "lamp", "led", "motor", "photocell", "battery", "supply", "source"):
            painter.drawEllipse(at, size * 1.05, size * 1.05)
        else:
            painter.drawRoundedRect(QRectF(at.x() - size * 1.5, at.y() - size * 0.8, size * 3, size * 1.6), 3, 3)
        if run.part in self._state.findings:
            draw_finding(
                painter,
                look,
                QPointF(at.x(), at.y() - size * 2.6),
                self._state.findings[run.part],
                look.px(8),
            )

    def _paint_label(self, painter: QPainter, run: Run, at: QPointF, words: WordPlaces) -> None:
        look, suspicion = self._look, self._state.suspicion.get(run.part, 0.0)
        painter.setFont(look.font(11.5, suspicion >= 0.2))
        text = run.label + (f" {suspicion:.0%}" if suspicion >= LEAST_SHOWN else "")
        pitch = self._point(1, 0).x() - self._point(0, 0).x()
        most = max(min(pitch * 0.86, look.px(120)), look.px(52)) if run.end else self._lane(run) - look.px(13)
        width = min(painter.fontMetrics().horizontalAdvance(text) + 8, most)
        wrapped = painter.fontMetrics().boundingRect(0, 0, int(width), look.px(60), Qt.TextFlag.TextWordWrap, text)
        size = QSizeF(min(wrapped.width() + 6, width), wrapped.height() + 2)
        box = words.room(at, QSizeF(look.px(24), look.px(18)), size, UNDER if run.end else BESIDE)
        back = look.colour("card")
        back.setAlpha(190)
        painter.fillRect(box, back)
        painter.setPen(look.colour("out" if suspicion >= LEAST_SHOWN else "ink"))
        away = box.center().x() - at.x()
        side = Qt.AlignmentFlag.AlignHCenter
        if abs(away) > look.px(12):
            side = Qt.AlignmentFlag.AlignLeft if away > 0 else Qt.AlignmentFlag.AlignRight
        painter.drawText(box, Qt.TextFlag.TextWordWrap | side, text)

    def _paint_spot(self, painter: QPainter, place: Place, words: WordPlaces) -> None:
        look, at = self._look, self._point(place.column, place.row)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("ink"))
        painter.drawEllipse(at, look.px(4), look.px(4))
        if place.node == self._at and self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("violet"), 2.5))
            painter.drawEllipse(at, look.px(9), look.px(9))
        painter.setFont(look.font(11.5, True))
        painter.setPen(look.colour("violet"))
        words.take(QRectF(at.x() - look.px(6), at.y() - look.px(6), look.px(12), look.px(12)))
        size = QSizeF(painter.fontMetrics().horizontalAdvance(place.node) + 4, look.px(16))
        box = words.room(at, QSizeF(look.px(16), look.px(18)), size, OVER)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, place.node)

    def _paint_probe(self, painter: QPainter, node: str, sign: str) -> None:
        if not node:
            return
        look = self._look
        at = self._spot(node)
        if at is None:  # ground: the probe stands in the corner, with the word
            at = QPointF(look.px(26), self.height() - look.px(22))
            painter.setFont(look.font(12, True))
            painter.setPen(look.colour("violet"))
            painter.drawText(
                QRectF(at.x() + look.px(18), at.y() - look.px(9), look.px(160), look.px(18)),
                Qt.AlignmentFlag.AlignVCenter,
                "ground (chassis)",
            )
        painter.setPen(QPen(look.colour("card"), 2))
        painter.setBrush(look.colour("violet"))
        painter.drawEllipse(at, look.px(12), look.px(12))
        painter.setPen(look.colour("on_violet"))
        painter.setFont(look.font(17, True))
        painter.drawText(QRectF(at.x() - 14, at.y() - 14, 28, 28), Qt.AlignmentFlag.AlignCenter, sign)


def _stub(start: QPointF, end: QPointF) -> QPainterPath:
    """A part that hangs to ground: out sideways when it shares its spot, then down."""
    path = QPainterPath(start)
    if abs(end.x() - start.x()) > 1:
        path.lineTo(QPointF(end.x(), start.y() + (end.y() - start.y()) * 0.22))
    path.lineTo(end)
    return path
