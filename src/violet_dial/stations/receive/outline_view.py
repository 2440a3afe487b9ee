"""The outline of a device with findings on it: walked by arrows from place to place, or clicked."""

import math

from PySide6.QtCore import QByteArray, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.core.receiving.places import VIEWS, DeviceKind, OutlineSpot, View, nearest_spot, spots_of
from violet_dial.job.receiving import Finding
from violet_dial.kit.finding_marks import draw_finding
from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.theme.look import Look
from violet_dial.stations.receive.outline_drawn import outline_svg

# Colours in the drawings stand for roles: lines, body, raised parts, glass and openings.
_INKS = (("#111111", "quiet"), ("#EEEEEE", "ground"), ("#FAFAFA", "card"), ("#CFCFCF", "band"))
NEAR_PX = 16
_MOVES = {Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0), Qt.Key.Key_Down: (0.0, 1.0)}


class OutlineView(QWidget):
    """Shows one view large and the four views small above it.

    Arrows go to the next named place, PageUp and PageDown to the next view, Enter asks for a finding there
    (``place_asked``), Del strikes the finding under the cursor out (``strike_asked``). ``moved`` follows the cursor.
    """

    place_asked = Signal()
    strike_asked = Signal(str)
    moved = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._kind: DeviceKind = "hand meter"
        self.view: View = "front"
        self.at = (0.5, 0.5)
        self._findings: tuple[Finding, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(200, 170)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(420), self._look.px(420))

    def begin(self, kind: DeviceKind) -> None:
        """Another job: the front of its device, at its first place."""
        self._kind, self.view = kind, "front"
        spot = spots_of(kind, "front")[0]
        self.at = (spot.x, spot.y)

    def show_device(self, kind: DeviceKind, findings: tuple[Finding, ...]) -> None:
        """Show a kind of device with its findings; the cursor stays where it can."""
        if kind != self._kind:
            self.begin(kind)
        self._findings = findings
        self._say()
        self.update()

    @property
    def spot(self) -> OutlineSpot:
        """The named place nearest to the cursor."""
        return nearest_spot(self._kind, self.view, *self.at)

    @property
    def under_cursor(self) -> Finding | None:
        """The newest finding at the cursor."""
        here = [
            finding
            for finding in self._findings
            if finding.view == self.view and math.dist((finding.x, finding.y), self.at) < 0.03
        ]
        return here[-1] if here else None

    def go_to(self, view: View, x: float, y: float) -> None:
        """Put the cursor on a point of a view."""
        self.view, self.at = view, (x, y)
        self._say()
        self.moved.emit()
        self.update()

    def _say(self) -> None:
        one = self.under_cursor
        found = f", {one.kind} {one.extent} {one.note}" if one else ""
        self.setAccessibleName(f"{self._kind}, {self.view}, at the {self.spot.name}{found}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in _MOVES:
            self._step(*_MOVES[key])
        elif key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            step = 1 if key == Qt.Key.Key_PageDown else -1
            self._turn(VIEWS[(VIEWS.index(self.view) + step) % len(VIEWS)])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.place_asked.emit()
        elif key == Qt.Key.Key_Delete and self.under_cursor is not None:
            self.strike_asked.emit(self.under_cursor.finding_id)
        else:
            super().keyPressEvent(event)

    def _turn(self, view: View) -> None:
        spot = spots_of(self._kind, view)[0]
        self.go_to(view, spot.x, spot.y)

    def _step(self, dx: float, dy: float) -> None:
        """To the nearest named place or finding in a direction."""
        points = [(spot.x, spot.y) for spot in spots_of(self._kind, self.view)]
        points += [(finding.x, finding.y) for finding in self._findings if finding.view == self.view]
        best, least = None, math.inf
        for x, y in points:
            along = (x - self.at[0]) * dx + (y - self.at[1]) * dy
            across = abs((x - self.at[0]) * dy) + abs((y - self.at[1]) * dx)
            if along > 0.015 and along + 2 * across < least:
                best, least = (x, y), along + 2 * across
        if best is not None:
            self.go_to(self.view, *best)

    def _thumbs(self) -> dict[View, QRectF]:
        width = min(self.width() / 4, self._look.px(130))
        left = (self.width() - 4 * width) / 2
        return {view: QRectF(left + place * width, 0, width, self._look.px(64)) for place, view in enumerate(VIEWS)}

    def _fitted(self, view: View, room: QRectF) -> QRectF:
        """The drawing of a view as large as fits into ``room``."""
        size = self._renderer(view).defaultSize()
        scale = min(room.width() / size.width(), room.height() / size.height())
        width, height = size.width() * scale, size.height() * scale
        return QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height)

    def _large(self) -> QRectF:
        top = self._look.px(64) + self._look.px(26)
        edge = self._look.px(14)
        room = QRectF(edge, top, self.width() - 2 * edge, self.height() - top - self._look.px(30))
        return self._fitted(self.view, room)

    def _renderer(self, view: View) -> QSvgRenderer:
        text = outline_svg(self._kind, view)
        for ink, role in _INKS:
            text = text.replace(ink, self._look.colour(role).name())
        return QSvgRenderer(QByteArray(text.encode()))

    def _point(self, box: QRectF, x: float, y: float) -> QPointF:
        return QPointF(box.x() + x * box.width(), box.y() + y * box.height())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for view, box in self._thumbs().items():
            if box.contains(event.position()):
                self._turn(view)
                return
        box = self._large()
        if not box.contains(event.position()):
            return
        for finding in reversed(self._findings):
            if finding.view == self.view and self._distance(box, finding, event.position()) < NEAR_PX:
                self.go_to(finding.view, finding.x, finding.y)
                return
        point = event.position()
        self.go_to(self.view, (point.x() - box.x()) / box.width(), (point.y() - box.y()) / box.height())
        self.place_asked.emit()

    def _distance(self, box: QRectF, one: Finding, to: QPointF) -> float:
        at = self._point(box, one.x, one.y)
        return math.hypot(at.x() - to.x(), at.y() - to.y())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        for view, box in self._thumbs().items():
            self._paint_thumb(painter, view, box)
        box = self._large()
        self._renderer(self.view).render(painter, box)
        pens(painter, self._look, "none", "violet")
        for spot in spots_of(self._kind, self.view):
            painter.drawEllipse(self._point(box, spot.x, spot.y), 2.4, 2.4)
        size = self._look.px(11)
        for finding in self._findings:
            if finding.view == self.view:
                grown = size * (1 + 0.25 * ("a spot", "a patch", "all over").index(finding.extent))
                draw_finding(painter, self._look, self._point(box, finding.x, finding.y), finding.kind, grown)
        self._paint_cursor(painter, box)

    def _paint_cursor(self, painter: QPainter, box: QRectF) -> None:
        at, ring = self._point(box, *self.at), self._look.px(17)
        pens(painter, self._look, "violet", "none", 3 if self.hasFocus() else 1.6)
        painter.drawEllipse(at, ring, ring)
        painter.setFont(self._look.font(13, True))
        name = self.spot.name
        width = painter.fontMetrics().horizontalAdvance(name) + self._look.px(14)
        height = self._look.px(24)
        left = min(max(at.x() - width / 2, 2.0), self.width() - width - 2)
        above = at.y() - ring - height - 4
        label = QRectF(left, above if above > box.y() - height else at.y() + ring + 4, width, height)
        pens(painter, self._look, "line", "card", 1)
        painter.drawRoundedRect(label, 6, 6)
        painter.setPen(self._look.colour("violet"))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, name)

    def _paint_thumb(self, painter: QPainter, view: View, box: QRectF) -> None:
        shown = view == self.view
        count = sum(finding.view == view for finding in self._findings)
        drawing = self._fitted(view, box.adjusted(6, 4, -6, -self._look.px(20)))
        self._renderer(view).render(painter, drawing)
        painter.setFont(self._look.font(12, shown))
        painter.setPen(self._look.colour("violet" if shown else "quiet"))
        text = box.adjusted(0, box.height() - self._look.px(19), 0, 0)
        painter.drawText(text, Qt.AlignmentFlag.AlignCenter, f"{view} · {count}" if count else view)
        if shown:
            painter.setPen(QPen(self._look.colour("violet"), 2))
            painter.drawLine(QPointF(box.x() + 8, box.bottom() + 3), QPointF(box.right() - 8, box.bottom() + 3))
