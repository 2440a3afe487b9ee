"""The ladder of speeds: a rung for each mark, every firing a tick by how many stops it is off, the tolerance behind."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.marks import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.stations.expose.speeds_state import RungShown

NAME, FIGURE, ROW, HEAD, LEAST_WIDE = 96, 182, 30, 26, 150
MOST_STOPS, LEAST_STOPS = 4.0, 1.0
PAD = 8


class LadderView(QWidget):
    """Up and Down go from rung to rung; Enter aims the next firing there, Del leaves the last one out."""

    chosen = Signal(int)
    aimed = Signal(int)
    dropped = Signal(int)
    resized = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.rungs: tuple[RungShown, ...] = ()
        self._most = LEAST_STOPS  # stops at the edge of the picture
        self.place = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()

    def minimumSizeHint(self) -> QSize:
        look = self._look
        rows = max(len(self.rungs), 3)
        return QSize(look.px(NAME + FIGURE + LEAST_WIDE), look.px(ROW - 8) * rows + look.px(HEAD))

    def begin(self) -> None:
        """Another job: nothing shown, the first rung."""
        self.rungs, self.place = (), 0
        self._say()
        self.update()

    def show_rungs(self, rungs: tuple[RungShown, ...]) -> None:
        """Draw these rungs; the cursor stays where it is as far as there are so many, and begins where Next is."""
        grown, first = len(rungs) != len(self.rungs), not self.rungs
        self.rungs = rungs
        far = max((abs(error) for one in rungs for error in one.errors), default=0.0)
        self._most = min(max(LEAST_STOPS, float(int(far * 1.1) + 1)), MOST_STOPS)  # holds every firing, in whole stops
        asked = next((place for place, one in enumerate(rungs) if one.is_next), 0)
        self.place = asked if first else min(self.place, max(len(rungs) - 1, 0))
        if grown:
            self.updateGeometry()
        self._say()
        self.update()

    def _say(self) -> None:
        said = self.rungs[self.place].sentence if self.rungs else "No speeds"
        self.setAccessibleName(f"Ladder of speeds. {said}")
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        key = Qt.Key(event.key())
        if not self.rungs:
            super().keyPressEvent(event)
        elif key in steps:
            self.select(self.place + steps[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.aimed.emit(self.place)
        elif key == Qt.Key.Key_Delete:
            self.dropped.emit(self.place)
        else:
            super().keyPressEvent(event)

    def select(self, place: int) -> None:
        """The cursor to a rung."""
        place = min(max(place, 0), len(self.rungs) - 1)
        if place != self.place and self.rungs:
            self.place = place
            self._say()
            self.chosen.emit(place)
            self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        y = event.position().y()
        for place in range(len(self.rungs)):
            if self.row_box(place).contains(QPointF(1, y)):
                self.select(place)

    # drawing

    def row_box(self, place: int) -> QRectF:
        """Where a rung lies."""
        look = self._look
        tall = (self.height() - look.px(HEAD)) / max(len(self.rungs), 1)
        tall = min(tall, look.px(ROW * 1.7))
        return QRectF(0, look.px(HEAD) + place * tall, self.width(), tall)

    def _x(self, stops: float) -> float:
        look = self._look
        left, right = look.px(NAME), self.width() - look.px(FIGURE)
        held = min(max(stops, -self._most), self._most)
        return left + (held / self._most + 1) / 2 * (right - left)

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.rungs:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._cursor(painter)
        self._scale(painter)
        for place, one in enumerate(self.rungs):
            self._rung(painter, one, self.row_box(place))

    def _scale(self, painter: QPainter) -> None:
        look = self._look
        painter.setFont(look.font(12))
        below = self.row_box(len(self.rungs) - 1).bottom()
        for stops in range(-int(self._most), int(self._most) + 1):
            painter.setPen(QPen(look.colour("line"), 2 if not stops else 1))
            x = self._x(float(stops))
            painter.drawLine(QPointF(x, look.px(HEAD) - 4), QPointF(x, below))
            said = "as marked" if not stops else f"{stops:+d}".replace("-", "−")
            painter.setPen(look.colour("quiet"))
            painter.drawText(
                QRectF(x - look.px(40), 0, look.px(80), look.px(HEAD - 6)), Qt.AlignmentFlag.AlignCenter, said
            )
        tall = look.px(HEAD - 6)
        painter.drawText(QRectF(look.px(PAD), 0, look.px(60), tall), Qt.AlignmentFlag.AlignVCenter, "← fast")
        ends = QRectF(0, 0, self.width() - look.px(PAD), tall)
        painter.drawText(ends, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "slow →  in stops")

    def _cursor(self, painter: QPainter) -> None:
        box = self.row_box(self.place)
        painter.setPen(QPen(self._look.colour("violet"), 2 if self.hasFocus() else 1))
        painter.setBrush(self._look.colour("soft") if self.hasFocus() else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)

    def _rung(self, painter: QPainter, one: RungShown, box: QRectF) -> None:
        look = self._look
        middle = box.center().y()
        self._band(painter, one, box)
        painter.setFont(look.font(14, one.is_next))
        painter.setPen(look.colour("violet" if one.is_next else "ink"))
        name = QRectF(look.px(PAD + 18), box.top(), look.px(NAME - PAD - 26), box.height())
        painter.drawText(name, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, one.mark)
        if one.is_next:
            painter.drawText(
                QRectF(look.px(PAD), box.top(), look.px(18), box.height()), Qt.AlignmentFlag.AlignVCenter, "▸"
            )
        painter.setPen(QPen(look.colour("ink"), 1.6))
        tall = min(box.height() * 0.28, look.px(8))
        for error in one.errors:
            x = self._x(error)
            painter.drawLine(QPointF(x, middle - tall), QPointF(x, middle + tall))
        x = self._x(one.mean_stops)
        if one.errors:
            painter.setPen(QPen(look.colour("ink"), 1))
            low, high = self._x(one.mean_stops - one.doubt_stops), self._x(one.mean_stops + one.doubt_stops)
            painter.drawLine(QPointF(low, middle), QPointF(high, middle))
        draw_mark(painter, look, QPointF(x, middle), one.state, look.px(6))
        painter.setFont(look.font(13))
        painter.setPen(look.colour("ink" if one.errors else "quiet"))
        said = QRectF(self.width() - look.px(FIGURE - 10), box.top(), look.px(FIGURE - 14), box.height())
        painter.drawText(
            said, Qt.AlignmentFlag.AlignVCenter, one.measured or ("fire it next" if one.is_next else "not fired")
        )

    def _band(self, painter: QPainter, one: RungShown, box: QRectF) -> None:
        low, high = self._x(-one.tolerance_stops), self._x(one.tolerance_stops)
        gap = min(box.height() * 0.16, 5)
        painter.fillRect(QRectF(low, box.top() + gap, high - low, box.height() - 2 * gap), self._look.colour("band"))
