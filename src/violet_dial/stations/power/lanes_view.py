"""The batteries' lives side by side: one lane for each choice, the error it causes as a band from fresh to spent."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QColor,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip

from violet_dial.kit.picture import PaintedView, antialiased, draw_mark, pens
from violet_dial.kit.theme.look import Look
from violet_dial.stations.power.lanes_state import SCALE_STOPS, Gap, LaneShown, LanesShown, lane_sentence

NAME, LIFE, ROW, HEAD = 206, 118, 62, 24
EDGE = 6
ERROR_FONT = 12
MARK_SIZE = 6.5
NOTHING = LanesShown((), 0.33, 0.0, 20.0, "", "")


class LanesView(PaintedView):
    """Up and Down go from choice to choice, Left and Right move the light, Page up and down the temperature.

    ``chosen`` carries the lane the keys went to, ``taken`` one that Enter takes, ``dropped`` one that Del leaves out, ``moved``
    steps of light and of temperature;
    ``resized`` when lanes lie elsewhere.
    """

    chosen = Signal(int)
    taken = Signal(int)
    dropped = Signal(int)
    moved = Signal(int, int)
    resized = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self.shown = NOTHING
        self.place = 0

    def minimumSizeHint(self) -> QSize:
        look = self._look
        rows = max(len(self.shown.rows), 3)
        return QSize(look.px(NAME + LIFE + 130), look.px(ROW - 8) * rows + 2 * look.px(HEAD))

    def begin(self) -> None:
        """Another job: nothing shown, the first lane."""
        self.shown, self.place = NOTHING, 0
        self._say()
        self.update()

    def show_lanes(self, shown: LanesShown) -> None:
        """Draw these lanes; the cursor stays where it is, as far as there are so many."""
        grown = len(shown.rows) != len(self.shown.rows)
        first = not self.shown.rows
        self.shown = shown
        best = next((place for place, row in enumerate(shown.rows) if row.is_best), 0)
        self.place = best if first else min(self.place, max(len(shown.rows) - 1, 0))
        if grown:
            self.updateGeometry()
        self._say()
        self.update()

    def row_box(self, place: int) -> QRectF:
        """Where a lane lies."""
        tall = (self.height() - 2 * self._look.px(HEAD)) / max(len(self.shown.rows), 1)
        tall = min(tall, self._look.px(ROW * 1.5))
        return QRectF(0, self._look.px(HEAD) + place * tall, self.width(), tall)

    def _say(self) -> None:
        rows = self.shown.rows
        said = lane_sentence(rows[self.place], self.place, len(rows)) if rows else "No choice worked out yet"
        self.setAccessibleName(
            f"Batteries at Ev {self.shown.ev100:g}, {self.shown.temperature_c:g} degrees. {said}" if rows else said
        )
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        lanes = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_PageUp: (0, 1), Qt.Key.Key_PageDown: (0, -1)}
        if not self.shown.rows:
            super().keyPressEvent(event)
        elif key in lanes:
            self.select(self.place + lanes[key])
        elif key in moves:
            self.moved.emit(*moves[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit(self.place)
        elif key == Qt.Key.Key_Delete:
            self.dropped.emit(self.place)
        else:
            super().keyPressEvent(event)

    def select(self, place: int) -> None:
        """The cursor to a lane."""
        place = min(max(place, 0), len(self.shown.rows) - 1)
        if place != self.place:
            self.place = place
            self._say()
            self.chosen.emit(place)
            self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    def _at(self, y: float) -> int:
        return next((place for place in range(len(self.shown.rows)) if self.row_box(place).contains(QPointF(1, y))), -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if (place := self._at(event.position().y())) >= 0:
            self.select(place)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            place = self._at(event.pos().y())
            if place >= 0:
                QToolTip.showText(event.globalPos(), self.shown.rows[place].reason, self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    # drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        if not self.shown.rows:
            return
        self._heads(painter)
        for place, row in enumerate(self.shown.rows):
            self._row(painter, row, self.row_box(place), place == self.place)

    def _life(self, box: QRectF) -> QRectF:
        """The part of a lane that is the battery's life."""
        look = self._look
        return QRectF(box.left() + look.px(NAME), box.top() + EDGE, box.width() - look.px(NAME + LIFE), box.height() - 2 * EDGE)

    def _heads(self, painter: QPainter) -> None:
        look = self._look
        life = self._life(QRectF(0, 0, self.width(), look.px(HEAD) + 2 * EDGE))
        below = self.row_box(len(self.shown.rows) - 1).bottom()
        painter.setFont(look.font(ERROR_FONT))
        painter.setPen(look.colour("quiet"))
        top = QRectF(life.left(), 0, life.width(), look.px(HEAD))
        scale = "above the line reads high, below it low; edge ± ⅔ stop"
        painter.drawText(top, Qt.AlignmentFlag.AlignCenter, scale)
        right = QRectF(life.right() + look.px(10), 0, look.px(LIFE) - look.px(12), look.px(HEAD))
        painter.drawText(right, Qt.AlignmentFlag.AlignVCenter, "how long")
        foot = QRectF(life.left(), below, life.width(), look.px(HEAD))
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, "fresh")
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "life of the battery →")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "a tenth left")

    def _row(self, painter: QPainter, one: LaneShown, box: QRectF, is_cursor: bool) -> None:
        look = self._look
        life = self._life(box)
        if is_cursor:
            painter.setPen(QPen(look.colour("violet"), 2 if self.hasFocus() else 1))
            painter.setBrush(look.colour("soft") if self.hasFocus() else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7)
        self._names(painter, one, box)
        self._picture(painter, one, life)
        painter.setFont(look.font(ERROR_FONT, one.is_chosen))
        painter.setPen(look.colour("violet" if one.is_chosen else "ink"))
        right = QRectF(life.right() + look.px(10), box.top() + 2, look.px(LIFE) - look.px(16), box.height() - 4)
        painter.drawText(right, int(Qt.AlignmentFlag.AlignVCenter) | int(Qt.TextFlag.TextWordWrap), one.life)

    def _names(self, painter: QPainter, one: LaneShown, box: QRectF) -> None:
        look = self._look
        draw_mark(painter, look, QPointF(box.left() + look.px(16), box.center().y()), one.mark, look.px(MARK_SIZE))
        left, wide = box.left() + look.px(30), look.px(NAME - 40)
        painter.setFont(look.font(13, one.is_best or one.is_chosen))
        painter.setPen(look.colour("violet" if one.is_chosen else "ink"))
        lines = painter.fontMetrics().boundingRect(0, 0, wide, 200, int(Qt.TextFlag.TextWordWrap), one.name)
        tall = min(lines.height(), 2 * painter.fontMetrics().lineSpacing())
        painter.setFont(look.font(ERROR_FONT))
        tag = "taken · " if one.is_chosen else "best · " if one.is_best else ""
        said = painter.fontMetrics().elidedText(tag + one.error, Qt.TextElideMode.ElideRight, wide)
        small = painter.fontMetrics().lineSpacing()
        top = box.center().y() - (tall + small) / 2
        painter.setFont(look.font(13, one.is_best or one.is_chosen))
        painter.drawText(QRectF(left, top, wide, tall), int(Qt.TextFlag.TextWordWrap), one.name)
        painter.setFont(look.font(ERROR_FONT))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QRectF(left, top + tall, wide, small), Qt.AlignmentFlag.AlignLeft, said)

    def _picture(self, painter: QPainter, one: LaneShown, life: QRectF) -> None:
        look = self._look
        allowed = min(self.shown.tolerance_stops, SCALE_STOPS)

        def y(stops: float) -> float:
            held = max(-SCALE_STOPS, min(SCALE_STOPS, stops))
            return life.center().y() - held / SCALE_STOPS * life.height() / 2

        painter.fillRect(life, look.colour("card"))
        painter.fillRect(QRectF(life.left(), y(allowed), life.width(), y(-allowed) - y(allowed)), look.colour("band"))
        pens(painter, look, "line", "none", 1)
        painter.drawRect(life)
        painter.drawLine(QPointF(life.left(), y(0)), QPointF(life.right(), y(0)))
        colour = look.colour({"inside": "within", "empty": "quiet", "undecided": "watch"}.get(one.mark, "out"))
        for low, high in _unbroken(one.low, one.high):
            path = QPainterPath()
            points = [(at, y(value)) for at, value in high] + [(at, y(value)) for at, value in reversed(low)]
            for number, (at, height) in enumerate(points):
                point = QPointF(life.left() + at * life.width(), height)
                path.moveTo(point) if number == 0 else path.lineTo(point)
            path.closeSubpath()
            painter.setPen(QPen(colour, 1.4))
            painter.setBrush(_between(colour, look.colour("card")))
            painter.drawPath(path)
        self._line(painter, one, life, y)
        self._ends(painter, one, life)

    def _line(self, painter: QPainter, one: LaneShown, life: QRectF, y) -> None:  # type: ignore[no-untyped-def]
        """The error at the chosen light."""
        painter.setPen(QPen(self._look.colour("ink"), 2))
        before: QPointF | None = None
        for number, value in enumerate(one.here):
            at = life.left() + number / max(len(one.here) - 1, 1) * life.width()
            point = None if value is None else QPointF(at, y(value))
            if before is not None and point is not None:
                painter.drawLine(before, point)
            before = point

    def _ends(self, painter: QPainter, one: LaneShown, life: QRectF) -> None:
        """Where it leaves the tolerance, with how long that takes; where the device gives up."""
        look = self._look
        painter.setFont(look.font(ERROR_FONT, True))
        if one.ends is not None:
            at = life.left() + one.ends * life.width()
            gone = QRectF(at, life.top(), life.right() - at, life.height())
            painter.fillRect(gone, Qt.BrushStyle.BDiagPattern)
            painter.setPen(QPen(look.colour("out"), 2))
            painter.drawLine(QPointF(at, life.top()), QPointF(at, life.bottom()))
        if one.leaves is not None:
            at = life.left() + one.leaves * life.width()
            painter.setPen(QPen(look.colour("watch"), 2, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(at, life.top()), QPointF(at, life.bottom()))
            wide = painter.fontMetrics().horizontalAdvance(one.leaves_words) + look.px(10)
            left = at + look.px(4) if at + wide < life.right() else at - wide
            tag = QRectF(left, life.top() + 2, wide, painter.fontMetrics().height())
            painter.fillRect(tag, look.colour("card"))
            painter.setPen(look.colour("watch"))
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, one.leaves_words)


def _between(first: QColor, second: QColor) -> QColor:
    """A colour between two, nearer the second."""
    share = 0.45
    return QColor.fromRgbF(
        share * first.redF() + (1 - share) * second.redF(), share * first.greenF() + (1 - share) * second.greenF(),
        share * first.blueF() + (1 - share) * second.blueF(),
    )  # fmt: skip


Side = list[tuple[float, float]]


def _unbroken(low: tuple[Gap, ...], high: tuple[Gap, ...]) -> list[tuple[Side, Side]]:
    """Stretches of the band without a gap: places along the life with their stops."""
    found: list[tuple[Side, Side]] = []
    last = max(len(low) - 1, 1)
    begun = False
    for number, (below, above) in enumerate(zip(low, high, strict=True)):
        if below is None or above is None:
            begun = False
            continue
        if not begun:
            found.append(([], []))
            begun = True
        found[-1][0].append((number / last, below))
        found[-1][1].append((number / last, above))
    return found
