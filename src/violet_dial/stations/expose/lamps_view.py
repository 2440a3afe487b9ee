"""The map of aperture against light: where the slow and the over lamp should light, and what was seen on it."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.theme.look import Look
from violet_dial.stations.expose.lamps_state import LampsShown, Spot

LEFT, FOOT, TOP, LEAST_TALL, LEAST_WIDE = 56, 40, 8, 210, 340
SPOT = 9


class LampsView(QWidget):
    """Only drawn; what it says in words is its name."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown: LampsShown | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()

    def minimumSizeHint(self) -> QSize:
        return QSize(self._look.px(LEAST_WIDE), self._look.px(LEAST_TALL))

    def show_lamps(self, shown: LampsShown) -> None:
        """Draw these."""
        self.shown = shown
        said = "; ".join(one.words for one in shown.spots) or "nothing seen yet"
        self.setAccessibleName(f"Map of aperture against light: {said}")
        self.update()

    def _box(self) -> QRectF:
        look = self._look
        return QRectF(
            look.px(LEFT), look.px(TOP), self.width() - look.px(LEFT + 10), self.height() - look.px(TOP + FOOT)
        )

    def _at(self, shown: LampsShown, lux2: float, n2: float) -> QPointF:
        box = self._box()
        along = (lux2 - shown.lux2[0]) / (shown.lux2[1] - shown.lux2[0])
        up = (n2 - shown.n2[0]) / (shown.n2[1] - shown.n2[0])
        return QPointF(box.left() + along * box.width(), box.bottom() - up * box.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        shown = self.shown
        if shown is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self._box(), self._look.colour("card"))
        painter.setClipRect(self._box())
        self._regions(painter, shown)
        painter.setClipping(False)
        self._scales(painter, shown)
        for spot in shown.spots:
            self._spot(painter, shown, spot)
        self._next(painter, shown)

    def _edge(self, shown: LampsShown, x: float) -> tuple[QPointF, QPointF]:
        """Where a time is meant: from the widest aperture to the smallest; log2 lx = log2 N^2 + constant - x."""
        return (
            self._at(shown, shown.n2[0] + shown.constant - x, shown.n2[0]),
            self._at(shown, shown.n2[1] + shown.constant - x, shown.n2[1]),
        )

    def _regions(self, painter: QPainter, shown: LampsShown) -> None:
        look, box = self._look, self._box()
        far = box.width() * 2
        slow, over = look.colour("watch"), look.colour("violet")
        for x, side, colour in ((shown.slow, -far, slow), (shown.over, far, over)):
            low, high = self._edge(shown, x)
            colour.setAlphaF(0.16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawPolygon(QPolygonF([low, high, high + QPointF(side, 0), low + QPointF(side, 0)]))
        low, high = self._edge(shown, shown.longest)
        painter.setBrush(QBrush(look.colour("line"), Qt.BrushStyle.BDiagPattern))
        painter.drawPolygon(QPolygonF([low, high, high - QPointF(far, 0), low - QPointF(far, 0)]))
        edges = (
            (shown.slow, True),
            (shown.over, True),
            (shown.longest, True),
            (shown.found_slow, False),
            (shown.found_over, False),
        )
        for edge, meant in edges:
            if edge is not None:
                style = Qt.PenStyle.SolidLine if meant else Qt.PenStyle.DashLine
                painter.setPen(QPen(look.colour("quiet" if meant else "violet"), 1 if meant else 2.4, style))
                painter.drawLine(*self._edge(shown, edge))
        self._names(painter, shown)

    def _names(self, painter: QPainter, shown: LampsShown) -> None:
        """What each part of the map is, along its top."""
        look, box = self._look, self._box()
        painter.setFont(look.font(12, True))
        painter.setPen(look.colour("quiet"))
        ends = [
            box.left(),
            *(self._edge(shown, x)[1].x() for x in (shown.longest, shown.slow, shown.over)),
            box.right(),
        ]
        for left, right, name in zip(
            ends, ends[1:], ("too dark for any time", "slow lamp", "no lamp", "over lamp"), strict=False
        ):
            place = QRectF(
                max(left, box.left()) + 4,
                box.top() + 2,
                min(right, box.right()) - max(left, box.left()) - 8,
                look.px(34),
            )
            flags = int(Qt.AlignmentFlag.AlignHCenter) | int(Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)
            if place.width() > look.px(40):
                painter.drawText(place, flags, name)

    def _scales(self, painter: QPainter, shown: LampsShown) -> None:
        look, box = self._look, self._box()
        painter.setPen(QPen(look.colour("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        apertures = (
            (1, "1.4"),
            (2, "2"),
            (3, "2.8"),
            (4, "4"),
            (5, "5.6"),
            (6, "8"),
            (7, "11"),
            (8, "16"),
            (9, "22"),
            (10, "32"),
        )
        for n2, name in apertures:
            if shown.n2[0] <= n2 <= shown.n2[1]:
                y = self._at(shown, shown.lux2[0], n2).y()
                where = QRectF(0, y - look.px(9), box.left() - look.px(6), look.px(18))
                painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"f/{name}")
        for power, name in ((-1, "0.1"), (0, "1"), (1, "10"), (2, "100"), (3, "1 000"), (4, "10 000"), (5, "100 000")):
            lux2 = power * 3.321928
            if shown.lux2[0] <= lux2 <= shown.lux2[1]:
                x = self._at(shown, lux2, shown.n2[0]).x()
                painter.drawLine(QPointF(x, box.bottom()), QPointF(x, box.bottom() + look.px(4)))
                where = QRectF(x - look.px(40), box.bottom() + look.px(4), look.px(80), look.px(16))
                painter.drawText(where, Qt.AlignmentFlag.AlignCenter, name)
        foot = QRectF(box.left(), box.bottom() + look.px(20), box.width(), look.px(18))
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "light, lx →   S slow  O over  – none  B both  ~ flicker")

    def _spot(self, painter: QPainter, shown: LampsShown, spot: Spot) -> None:
        look = self._look
        at, size = self._at(shown, spot.lux2, spot.n2), look.px(SPOT)
        painter.setFont(look.font(12, True))
        wide = max(size * 2.0, painter.fontMetrics().horizontalAdvance(spot.sign) + look.px(8))
        box = QRectF(at.x() - wide / 2, at.y() - size, wide, 2 * size)
        painter.setPen(QPen(look.colour("within" if spot.right else "out"), 2))
        painter.setBrush(look.colour("card"))
        painter.drawRoundedRect(box, size, size) if spot.right else painter.drawRect(box)
        painter.setPen(look.colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spot.sign)

    def _next(self, painter: QPainter, shown: LampsShown) -> None:
        if shown.next is None:
            return
        at, size = self._at(shown, *shown.next), self._look.px(SPOT + 3)
        painter.setPen(QPen(self._look.colour("violet"), 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, size, size)
        for way in (QPointF(size * 1.5, 0), QPointF(0, size * 1.5)):
            painter.drawLine(at - way, at - way * 0.66)
            painter.drawLine(at + way * 0.66, at + way)
