"""The circuit on the screen: wiring heavy with suspicion, probes at the two points to touch."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.mapping.drawing import BoardDrawing, DrawnPlace, Wire
from violet_dial.kit.finding_marks import draw_finding
from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.theme.look import Look
from violet_dial.kit.word_places import BESIDE, OVER, UNDER, WordPlaces
from violet_dial.report.palette import LEAD_COLOURS
from violet_dial.stations.trace.state import MapState

_MOVES = {Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0), Qt.Key.Key_Down: (0.0, 1.0)}
LEAST_SHOWN = 0.03  # suspicion below this is not written beside a part
PIN_STEP = 0.5
# Pixels at 100 % between columns and rows: below the least words would run into each other, and the drawing scrolls instead.
COLUMN, ROW = (78, 150), (58, 104)
ZOOMS = (0.0, 1.0, 1.5, 2.2)  # of the least; the first brings all of it into view
LEFT, RIGHT, HEAD, FOOT = 40, 84, 54, 46


class CircuitView(QWidget):
    """Arrows go from spot to spot; Shift and arrows move a spot and pin it; dragging does the same. Plus and minus enlarge,
    down to all of it in view."""

    pinned = Signal(str, float, float)
    spot_chosen = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._map = BoardDrawing()
        self._state = MapState()
        self._places: dict[str, DrawnPlace] = {}
        self._at = ""
        self._drag: QPointF | None = None
        self._zoom = 1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(260, 170)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(500), self._look.px(330))

    def begin(self) -> None:
        """Another job: its first spot."""
        self._at, self._drag, self._zoom = "", None, 1

    def show_map(self, drawing: BoardDrawing, state: MapState) -> None:
        """Draw a circuit as it stands."""
        self._map, self._state = drawing, state
        self._places = {place.node: place for place in drawing.places}
        if self._at not in self._places:
            self._at = drawing.places[0].node if drawing.places else ""
        self._take_room()
        self._say()
        self.update()

    def _take_room(self) -> None:
        px, zoom = self._look.px, ZOOMS[self._zoom]
        wide, tall = self._map.wide * px(COLUMN[0]) * zoom, self._map.tall * px(ROW[0]) * zoom
        self.setMinimumSize(px(LEFT + RIGHT) + int(wide), px(HEAD + FOOT) + int(tall))

    def probe_point(self) -> QPointF | None:
        """Where the plus probe stands, to be brought into view."""
        return self._spot(self._state.plus) if self._state.plus else None

    def _say(self) -> None:
        if not self._at:
            self.setAccessibleName("No circuit yet")
            return
        parts = [run.label for run in self._map.wires if self._at in (run.start, run.end)]
        probes = f" Probes: plus at {self._state.plus}, minus at {self._state.minus or 'ground'}." if self._state.plus else ""
        self.setAccessibleName(f"Point {self._at}, at {', '.join(parts)}.{probes}")

    # geometry

    def _pitch(self) -> tuple[float, float]:
        """Pixels between columns and between rows: as many as there is room for."""
        px = self._look.px
        wide = (self.width() - px(LEFT + RIGHT)) / max(self._map.wide, 1.0)
        tall = (self.height() - px(HEAD + FOOT)) / max(self._map.tall, 1.0)
        zoom = ZOOMS[self._zoom]
        most = max(zoom, 1.0)
        return (min(max(wide, px(COLUMN[0]) * zoom), px(COLUMN[1]) * most), min(max(tall, px(ROW[0]) * zoom), px(ROW[1]) * most))

    def _point(self, x: float, y: float) -> QPointF:
        px, (wide, tall) = self._look.px, self._pitch()
        spare = max(self.height() - px(HEAD + FOOT) - tall * self._map.tall, 0.0)
        return QPointF(px(LEFT) + x * wide, px(HEAD) + spare * 0.3 + y * tall)

    def _place(self, node: str) -> DrawnPlace | None:
        return self._places.get(node)

    def _spot(self, node: str) -> QPointF | None:
        place = self._place(node)
        return self._point(place.x, place.y) if place else None

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if Qt.Key(event.key()) in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            by = -1 if event.key() == Qt.Key.Key_Minus else 1
            self._zoom = min(max(self._zoom + by, 0), len(ZOOMS) - 1)
            self._take_room()
            self.update()
            return
        move = _MOVES.get(Qt.Key(event.key()))
        place = self._place(self._at)
        if move is None or place is None:
            super().keyPressEvent(event)
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.pinned.emit(self._at, place.x + move[0] * PIN_STEP, place.y + move[1] * PIN_STEP)
            return
        best, least = None, math.inf
        for one in self._map.places:
            along = (one.x - place.x) * move[0] + (one.y - place.y) * move[1]
            across = abs((one.x - place.x) * move[1]) + abs((one.y - place.y) * move[0])
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
        near = [(place, self._point(place.x, place.y)) for place in self._map.places]
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
        painter = antialiased(self)
        self._paint_headings(painter)
        self._paint_rails(painter)
        wires = sorted(self._map.wires, key=lambda wire: self._state.suspicion.get(wire.part, 0.0))
        px = self._look.px
        words = WordPlaces(QRectF(0, px(22), self.width(), self.height() - px(22)))
        for wire in wires:
            self._paint_wire(painter, wire, words)
        for wire in wires:  # their marks over all lines
            self._paint_glyph(painter, wire, self._point(*wire.mark), self._state.suspicion.get(wire.part, 0.0))
        for place in self._map.places:
            self._paint_spot(painter, place, words)
        for wire in reversed(wires):  # the most suspected first
            self._paint_label(painter, wire, self._point(*wire.mark), words)
        self._paint_probe(painter, self._state.plus, "+")
        self._paint_probe(painter, self._state.minus, "−")

    def _paint_headings(self, painter: QPainter) -> None:
        look = self._look
        painter.setFont(look.font(11.5))
        for name, first, last in self._map.headings:
            left, right = self._point(first, 0).x(), self._point(min(last, max(self._map.wide, first + 0.6)), 0).x()
            painter.setPen(QPen(look.colour("line"), 2))
            painter.drawLine(QPointF(left + 4, look.px(20)), QPointF(right - 4, look.px(20)))
            painter.setPen(look.colour("quiet"))
            box = QRectF(left, look.px(2), right - left, look.px(16))
            text = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(box.width()))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_rails(self, painter: QPainter) -> None:
        look = self._look
        painter.setPen(QPen(look.colour("quiet"), look.px(3), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for rail in self._map.rails:
            painter.drawLine(self._point(rail.first, rail.y), self._point(rail.last, rail.y))
            if rail.node == GROUND:
                self._paint_ground(painter, self._point(rail.first, rail.y))

    def _paint_wire(self, painter: QPainter, wire: Wire, words: WordPlaces) -> None:
        look, suspicion = self._look, self._state.suspicion.get(wire.part, 0.0)
        is_suspect = suspicion >= LEAST_SHOWN
        own = QColor(LEAD_COLOURS[wire.colour]) if wire.colour in LEAD_COLOURS else look.colour("quiet")
        style = Qt.PenStyle.DotLine if wire.is_block else Qt.PenStyle.SolidLine  # a block looks there; no current flows
        style = Qt.PenStyle.DashLine if wire.part in self._state.lifted else style
        path = QPainterPath(self._point(*wire.points[0]))
        for point in wire.points[1:]:
            path.lineTo(self._point(*point))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.colour("out") if is_suspect else own, 1.8 + 9.0 * suspicion, style,
                            Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))  # fmt: skip
        painter.drawPath(path)
        if is_suspect and wire.colour in LEAD_COLOURS:
            painter.setPen(QPen(QColor(LEAD_COLOURS[wire.colour]), 1.6))
            painter.drawPath(path)
        self._keep_clear(wire, path, self._point(*wire.mark), words)

    def _keep_clear(self, wire: Wire, path: QPainterPath, at: QPointF, words: WordPlaces) -> None:
        """No words over a part's mark or its finding, and rather none over its line."""
        px = self._look.px
        words.take(QRectF(at.x() - px(10), at.y() - px(7), px(20), px(14)))
        if wire.part in self._state.findings:
            words.take(QRectF(at.x() - px(9), at.y() - px(27), px(18), px(18)))
        count = max(int(path.length() / px(8)), 1)
        for step in range(1, count):
            on = path.pointAtPercent(step / count)
            words.take(QRectF(on.x() - px(2), on.y() - px(2), px(4), px(4)))

    def _paint_ground(self, painter: QPainter, at: QPointF) -> None:
        painter.setPen(QPen(self._look.colour("quiet"), 1.6))
        for place, half in enumerate((9, 6, 3), start=1):
            y = at.y() + place * 4
            painter.drawLine(QPointF(at.x() - half, y), QPointF(at.x() + half, y))

    def _paint_glyph(self, painter: QPainter, run: Wire, at: QPointF, suspicion: float) -> None:
        look = self._look
        pens(painter, look, "out" if suspicion >= LEAST_SHOWN else "quiet", "card", 1.4)
        size = look.px(7)
        if run.kind in ("wire", "track", "joint", "connector", "contact", "clip", "flex"):
            painter.drawRect(QRectF(at.x() - size * 0.55, at.y() - size * 0.55, size * 1.1, size * 1.1))
        elif run.kind in ("movement", "lamp", "led", "motor", "photocell", "battery", "supply", "source"):
            painter.drawEllipse(at, size * 1.05, size * 1.05)
        else:
            painter.drawRoundedRect(QRectF(at.x() - size * 1.5, at.y() - size * 0.8, size * 3, size * 1.6), 3, 3)
        if run.part in self._state.findings:
            draw_finding(painter, look, QPointF(at.x(), at.y() - size * 2.6), self._state.findings[run.part], look.px(8))

    def _paint_label(self, painter: QPainter, run: Wire, at: QPointF, words: WordPlaces) -> None:
        look, suspicion = self._look, self._state.suspicion.get(run.part, 0.0)
        painter.setFont(look.font(11.5, suspicion >= 0.2))
        text = run.label + (f" {suspicion:.0%}" if suspicion >= LEAST_SHOWN else "")
        is_upright = run.is_upright
        most = self._pitch()[0] * (0.62 if is_upright else 0.86)
        most = max(min(most, look.px(120)), look.px(52))
        width = min(painter.fontMetrics().horizontalAdvance(text) + 8, most)
        wrapped = painter.fontMetrics().boundingRect(0, 0, int(width), look.px(60), Qt.TextFlag.TextWordWrap, text)
        size = QSizeF(min(wrapped.width() + 6, width), wrapped.height() + 2)
        box = words.room(at, QSizeF(look.px(24), look.px(18)), size, BESIDE if is_upright else UNDER)
        back = look.colour("card")
        back.setAlpha(190)
        painter.fillRect(box, back)
        painter.setPen(look.colour("out" if suspicion >= LEAST_SHOWN else "ink"))
        away = box.center().x() - at.x()
        side = Qt.AlignmentFlag.AlignHCenter
        if abs(away) > look.px(12):
            side = Qt.AlignmentFlag.AlignLeft if away > 0 else Qt.AlignmentFlag.AlignRight
        painter.drawText(box, Qt.TextFlag.TextWordWrap | side, text)

    def _paint_spot(self, painter: QPainter, place: DrawnPlace, words: WordPlaces) -> None:
        look, at = self._look, self._point(place.x, place.y)
        pens(painter, look, "none", "ink")
        painter.drawEllipse(at, look.px(4), look.px(4))
        if place.node == self._at and self.hasFocus():
            pens(painter, look, "violet", "none", 2.5)
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
        at = self._spot(node) or self._chassis(painter)
        pens(painter, look, "card", "violet", 2)
        painter.drawEllipse(at, look.px(12), look.px(12))
        painter.setFont(look.font(17, True))
        painter.setPen(look.colour("on_violet"))
        painter.drawText(QRectF(at.x() - 14, at.y() - 14, 28, 28), Qt.AlignmentFlag.AlignCenter, sign)

    def _chassis(self, painter: QPainter) -> QPointF:
        """Where the probe stands on the chassis: on its rail near the left, with the word."""
        look = self._look
        rail = next((one for one in self._map.rails if one.node == GROUND), None)
        at = self._point(rail.first + 0.4, rail.y) if rail is not None else QPointF(look.px(26), self.height() - look.px(26))
        painter.setFont(look.font(12, True))
        painter.setPen(look.colour("violet"))
        box = QRectF(at.x() + look.px(16), at.y() + look.px(4), look.px(160), look.px(18))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, "ground (chassis)")
        return at
