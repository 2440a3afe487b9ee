"""Both units spot by spot along the way from the supply: a mark for each figure on one line, and the band two good units keep."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.theme.look import Look
from violet_dial.stations.trace.sister_state import PairShown, figure

ROW, NAME, FIGURE = 30, 108, 66
MOST_ROWS = 60


class PairsView(QWidget):
    """Rows from the supply down; the spot that is asked for is framed. It is looked at, not worked with."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._rows: tuple[PairShown, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(440), self._look.px(ROW) * (len(self._rows) + 1))

    def show_rows(self, rows: tuple[PairShown, ...]) -> None:
        """Draw these."""
        self._rows = rows[:MOST_ROWS]
        self.setAccessibleName("; ".join(one.words for one in self._rows) or "No spots yet")
        self.updateGeometry()
        self.update()

    def asked_at(self) -> int | None:
        """How far down the row lies that is asked for."""
        place = next((n for n, one in enumerate(self._rows) if one.asked), None)
        return None if place is None else (place + 1) * self._look.px(ROW)

    def _scale(self) -> tuple[float, float]:
        figures = [value for one in self._rows for value in (one.working, one.sick) if value is not None]
        low, high = min([0.0, *figures]), max([0.1, *figures])
        room = 0.06 * (high - low)
        return low - room, high + room

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, tall = self._look, self._look.px(ROW)
        left = look.px(NAME)
        right = self.width() - look.px(FIGURE) * 3
        self._heads(painter, right, tall)
        for place, one in enumerate(self._rows, start=1):
            self._row(painter, one, QRectF(left, place * tall, right - left, tall))
            self._texts(painter, one, place * tall, right, tall)

    def _heads(self, painter: QPainter, right: float, tall: int) -> None:
        look = self._look
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        for place, words in enumerate(("working", "sick", "apart")):
            box = QRectF(right + place * look.px(FIGURE), 0, look.px(FIGURE) - look.px(6), tall)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.drawText(QRectF(0, 0, look.px(NAME), tall), Qt.AlignmentFlag.AlignVCenter, "spot")

    def _row(self, painter: QPainter, one: PairShown, box: QRectF) -> None:
        look, middle = self._look, box.center().y()
        low, high = self._scale()

        def at(volts: float) -> float:
            return box.left() + look.px(8) + (volts - low) / (high - low) * (box.width() - look.px(16))

        painter.setPen(QPen(look.colour("line"), 1))
        painter.drawLine(QPointF(box.left() + look.px(8), middle), QPointF(box.right() - look.px(8), middle))
        if one.working is not None and one.sick is not None and one.is_apart:
            painter.setPen(QPen(look.colour("out"), 3))
            painter.drawLine(QPointF(at(one.working), middle), QPointF(at(one.sick), middle))
        size = look.px(6)
        if one.working is not None:  # a ring
            painter.setPen(QPen(look.colour("ink"), 1.6))
            painter.setBrush(look.colour("card"))
            painter.drawEllipse(QPointF(at(one.working), middle), size, size)
        if one.sick is not None:  # an upright stroke
            painter.setPen(QPen(look.colour("out" if one.is_apart else "ink"), 3))
            painter.drawLine(QPointF(at(one.sick), middle - size * 1.4), QPointF(at(one.sick), middle + size * 1.4))

    def _texts(self, painter: QPainter, one: PairShown, top: float, right: float, tall: int) -> None:
        look = self._look
        if one.asked:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("violet"), 1.6))
            painter.drawRoundedRect(QRectF(1, top + 2, self.width() - 2, tall - 4), 5, 5)
        painter.setFont(look.font(13, bool(one.asked)))
        painter.setPen(look.colour("ink"))
        name = painter.fontMetrics().elidedText(one.spot, Qt.TextElideMode.ElideRight, look.px(NAME) - look.px(10))
        painter.drawText(QRectF(look.px(8), top, look.px(NAME), tall), Qt.AlignmentFlag.AlignVCenter, name)
        apart = "" if one.apart is None else f"{one.apart:.1f}{' !' if one.is_apart else ''}"
        for place, words in enumerate((figure(one.working), figure(one.sick), apart)):
            box = QRectF(right + place * look.px(FIGURE), top, look.px(FIGURE) - look.px(6), tall)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
