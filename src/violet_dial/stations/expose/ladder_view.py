"""The ladder of speeds on the screen: a rung for each mark, with a cursor."""

from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.picture import PictureView, antialiased
from violet_dial.kit.theme.look import Look
from violet_dial.report.shapes import Box, Shape
from violet_dial.stations.expose.pictures import FIGURE, HEAD, NAME, ROW, LadderPicture, PictureFrame
from violet_dial.stations.expose.speeds_state import FiringShown, RungShown

LEAST_WIDE = 150


class LadderView(PictureView):
    """Up and Down go from rung to rung; Enter aims the next firing there, Del leaves the last one out."""

    chosen = Signal(int)
    aimed = Signal(int)
    dropped = Signal(int)
    resized = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self.rungs: tuple[RungShown, ...] = ()
        self.place = 0

    def least(self) -> tuple[float, float]:
        return NAME + FIGURE + LEAST_WIDE, (ROW - 8) * max(len(self.rungs), 3) + HEAD

    def begin(self) -> None:
        """Another job: nothing shown, the first rung."""
        self.rungs, self.place = (), 0
        self._said()

    def show_rungs(self, rungs: tuple[RungShown, ...]) -> None:
        """Draw these rungs; the cursor stays where it is as far as there are so many, and begins where Next is."""
        grown, first = len(rungs) != len(self.rungs), not self.rungs
        self.rungs = rungs
        asked = next((place for place, rung in enumerate(rungs) if rung.is_next), 0)
        self.place = asked if first else min(self.place, max(len(rungs) - 1, 0))
        if grown:
            self.updateGeometry()
        self._said()

    def _said(self) -> None:
        said = self.rungs[self.place].sentence if self.rungs else "No speeds"
        self.say(f"Ladder of speeds. {said}")
        self.draw_anew()

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
            self._said()
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

    @property
    def _ladder(self) -> LadderPicture:
        return LadderPicture(self.rungs, PictureFrame(self.width(), self.height(), self.scale))

    def row_box(self, place: int) -> QRectF:
        """Where a rung lies."""
        top, tall = self._ladder.row(place)
        return QRectF(0, top, self.width(), tall)

    def shapes(self) -> Iterable[Shape]:
        if not self.rungs:
            return
        top, tall = self._ladder.row(self.place)
        soft, width = ("soft", 2.0) if self.hasFocus() else ("none", 1.0)
        yield Box((1, top + 1), (self.width() - 2, tall - 2), soft, "violet", width, 6)
        yield from self._ladder.shapes()


TALL, PAD, WORDS = 88, 5, 18


class LightView(QWidget):
    """Only drawn; what it says in words is its name."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown = FiringShown()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(300), self._look.px(TALL if self.shown.points else WORDS * 2))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def show_light(self, shown: FiringShown) -> None:
        """Draw this firing."""
        taller = bool(shown.points) != bool(self.shown.points)
        self.shown = shown
        self.setAccessibleName(shown.words)
        if taller:
            self.updateGeometry()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        look, shown = self._look, self.shown
        painter = antialiased(self)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        words = QRectF(0, self.height() - look.px(WORDS * 2), self.width(), look.px(WORDS * 2))
        flags = int(Qt.AlignmentFlag.AlignLeft) | int(Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)
        painter.drawText(words, flags, shown.words)
        if not shown.points:
            return
        box = QRectF(0, PAD, self.width(), words.top() - 2 * PAD)
        low, high = min(shown.points), max(shown.points)
        swing = max(high - low, 1e-12)

        def at(share: float, value: float) -> QPointF:
            return QPointF(box.left() + share * box.width(), box.bottom() - (value - low) / swing * box.height())

        open_ = QRectF(at(shown.opened, high), at(shown.closed, low))
        painter.fillRect(open_, look.colour("soft"))
        last = max(len(shown.points) - 1, 1)
        painter.setPen(QPen(look.colour("ink"), 1.4))
        painter.drawPolyline(QPolygonF([at(place / last, value) for place, value in enumerate(shown.points)]))
        painter.setPen(QPen(look.colour("violet"), 2))
        for share in (shown.opened, shown.closed):
            painter.drawLine(at(share, low), at(share, high))
