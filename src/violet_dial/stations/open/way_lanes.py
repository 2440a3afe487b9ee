"""Ways in, drawn as lanes: from outside to the part, each part taken off a chip with its minutes."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from violet_dial.core.opening.way_in import WayIn
from violet_dial.kit.theme.look import Look


class WayLanes(QWidget):
    """One lane per way in, cheapest first; chips wrap onto the next line."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._ways: tuple[WayIn, ...] = ()
        self._chips: list[tuple[QRectF, str, bool, int]] = []
        self._heads: list[tuple[QRectF, str, int]] = []
        look.changed.connect(self._lay_out)

    def show_ways(self, ways: tuple[WayIn, ...]) -> None:
        self._ways = ways
        said = [f"{way.minutes:.0f} minutes: {', then '.join(one.part for one in way.ways)}" for way in ways]
        self.setAccessibleName(". ".join(said))
        self._lay_out()

    def sizeHint(self) -> QSize:
        return QSize(300, self._height)

    _height = 40

    def _lay_out(self) -> None:
        px, metrics = self._look.px, self.fontMetrics()
        self._chips, self._heads = [], []
        y, gap, tall = px(4), px(22), px(30)
        for lane, way in enumerate(self._ways):
            name = "cheapest" if lane == 0 else "or"
            proof = "" if way.proven else ", best found"
            self._heads.append((QRectF(0, y, self.width(), px(24)), f"{name}: {way.minutes:.3g} min{proof}", lane))
            y += px(26)
            x = 0.0
            for place, one in enumerate(way.ways):
                text = f"{one.part} · {one.minutes:.2g} min"
                width = metrics.horizontalAdvance(text) + px(24)
                if x and x + width > self.width():
                    x, y = 0.0, y + tall + px(8)
                self._chips.append((QRectF(x, y, width, tall), text, place == len(way.ways) - 1, lane))
                x += width + gap
            y += tall + px(16)
        self._height = y
        self.setMinimumHeight(y)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = self._look
        for box, text, lane in self._heads:
            painter.setFont(look.font(14, lane == 0))
            painter.setPen(look.colour("violet" if lane == 0 else "quiet"))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        painter.setFont(look.font(14))
        for box, text, last, lane in self._chips:
            painter.setPen(QPen(look.colour("violet" if lane == 0 else "line"), 2 if lane == 0 else 1))
            painter.setBrush(look.colour("soft" if last else "card"))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 8, 8)
            painter.setPen(look.colour("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
            if not last:
                middle, right = box.center().y(), box.right()
                painter.setPen(QPen(look.colour("quiet"), 1.6))
                painter.drawLine(QPointF(right + 3, middle), QPointF(right + look.px(17), middle))
                painter.drawLine(QPointF(right + look.px(12), middle - 4), QPointF(right + look.px(17), middle))
                painter.drawLine(QPointF(right + look.px(12), middle + 4), QPointF(right + look.px(17), middle))
