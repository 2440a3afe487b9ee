"""The lanes of settings: every firing a tick in time order, failures with the key of their kind, repairs as lines across."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.core.proof.log import KINDS
from violet_dial.kit.marks import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.stations.prove.firings_state import FiringsShown, Lane

NAME, SAID, ROW, HEAD, FOOT = 92, 214, 44, 30, 26
LEAST_APART = 9  # px between ticks, from which a key fits beside a failure
MOST_APART = 16


class FiringsView(QWidget):
    """Up and Down go from setting to setting, and the device stands there; Enter counts a clean firing, F a failure, 1 to 7 its
    kind, Del leaves the last one out."""

    chosen = Signal(str)
    fired = Signal(str)  # how it failed; empty for a clean one
    dropped = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown: FiringsShown | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()

    def minimumSizeHint(self) -> QSize:
        look = self._look
        rows = max(len(self.lanes), 3)
        return QSize(look.px(NAME + SAID + 120), look.px(ROW - 14) * rows + look.px(HEAD + FOOT))

    @property
    def lanes(self) -> tuple[Lane, ...]:
        return self.shown.lanes if self.shown is not None else ()

    @property
    def place(self) -> int:
        """The lane the device stands at."""
        return next((place for place, one in enumerate(self.lanes) if one.is_now), -1)

    def show_firings(self, shown: FiringsShown | None) -> None:
        """Draw these."""
        grown = len(shown.lanes if shown else ()) != len(self.lanes)
        self.shown = shown
        if grown:
            self.updateGeometry()
        now = self.lanes[self.place].sentence if self.place >= 0 else "no setting yet"
        self.setAccessibleName(f"Firings by setting. {now}. {shown.headline if shown else ''}")
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))
        self.update()

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = Qt.Key(event.key()), event.text()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.lanes:
            step = -1 if key == Qt.Key.Key_Up else 1
            place = min(max(self.place + step, 0), len(self.lanes) - 1) if self.place >= 0 else 0
            self.chosen.emit(self.lanes[place].setting)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.fired.emit("")
        elif text in ("f", "F"):
            self.fired.emit("failed")
        elif text.isdigit() and 1 <= int(text) <= len(KINDS):
            self.fired.emit(KINDS[int(text) - 1])
        elif key == Qt.Key.Key_Delete and self.place >= 0:
            self.dropped.emit(self.lanes[self.place].setting)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for place, one in enumerate(self.lanes):
            if self._box(place).contains(event.position()):
                self.chosen.emit(one.setting)

    # drawing

    def _box(self, place: int) -> QRectF:
        look = self._look
        tall = (self.height() - look.px(HEAD + FOOT)) / max(len(self.lanes), 1)
        tall = min(tall, look.px(ROW * 1.5))
        return QRectF(0, look.px(HEAD) + place * tall, self.width(), tall)

    def _apart(self) -> float:
        look, count = self._look, max(self.shown.count if self.shown else 0, 1)
        room = self.width() - look.px(NAME + SAID) - look.px(16)
        return min(room / count, look.px(MOST_APART))

    def _x(self, place: float) -> float:
        return self._look.px(NAME + 8) + (place + 0.5) * self._apart()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.shown is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._stretches(painter)
        for place, one in enumerate(self.lanes):
            self._lane(painter, one, self._box(place))
        self._legend(painter)

    def _stretches(self, painter: QPainter) -> None:
        """Each repair as a line across all lanes, its name over it."""
        look, shown = self._look, self.shown
        if shown is None or not shown.lanes:
            return
        below = self._box(len(shown.lanes) - 1).bottom()
        marks = shown.stretches if shown.stretches and shown.stretches[0][0] == 0 else ((0, ""), *shown.stretches)
        right = self.width() - look.px(SAID)
        painter.setFont(look.font(12))
        for number, (place, name) in enumerate(marks):
            x = self._x(place - 0.5)
            end = self._x(marks[number + 1][0] - 0.5) if number + 1 < len(marks) else right
            words = f"after {name}" if name else "as it came"
            if place:
                painter.setPen(QPen(look.colour("violet"), 1.6, Qt.PenStyle.DashLine))
                painter.drawLine(QPointF(x, look.px(6)), QPointF(x, below))
            room = QRectF(x + look.px(4), 0, max(end - x - look.px(8), 0), look.px(HEAD - 6))
            painter.setPen(look.colour("violet" if place else "quiet"))
            metrics = painter.fontMetrics()
            painter.drawText(
                room, Qt.AlignmentFlag.AlignVCenter,
                metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(room.width())),
            )  # fmt: skip

    def _lane(self, painter: QPainter, one: Lane, box: QRectF) -> None:
        look, middle = self._look, box.center().y()
        right = self.width() - look.px(SAID)
        if one.is_now:
            painter.setPen(QPen(look.colour("violet"), 2 if self.hasFocus() else 1))
            painter.setBrush(look.colour("soft") if self.hasFocus() else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 2, -1, -2), 6, 6)
        painter.setPen(QPen(look.colour("line"), 1))
        painter.drawLine(QPointF(look.px(NAME), middle), QPointF(right - look.px(8), middle))
        painter.setFont(look.font(15, one.is_now or one.is_next))
        painter.setPen(look.colour("violet" if one.is_next else "ink"))
        name = QRectF(look.px(24), box.top(), look.px(NAME - 36), box.height())
        painter.drawText(name, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, one.setting)
        if one.is_next:
            painter.drawText(
                QRectF(look.px(8), box.top(), look.px(16), box.height()), Qt.AlignmentFlag.AlignVCenter, "▶"
            )
        self._ticks(painter, one, box)
        draw_mark(painter, look, QPointF(right + look.px(10), middle), one.state, look.px(6))
        painter.setFont(look.font(13))
        painter.setPen(look.colour("ink"))
        said = QRectF(right + look.px(24), box.top(), look.px(SAID - 28), box.height())
        painter.drawText(said, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, one.said)

    def _ticks(self, painter: QPainter, one: Lane, box: QRectF) -> None:
        look, middle = self._look, box.center().y()
        tall, apart = box.height() * 0.2, self._apart()
        painter.setPen(QPen(look.colour("within"), max(min(apart * 0.35, look.px(2.4)), 1.0)))
        painter.drawLines(
            [line for place in one.clean if (x := self._x(place)) is not None
             for line in (QPointF(x, middle - tall), QPointF(x, middle + tall))]
        )  # fmt: skip
        size = min(max(apart * 0.7, look.px(4)), look.px(8))
        painter.setFont(look.font(12, True))
        for place, letter in one.failed:
            x = self._x(place)
            painter.setPen(QPen(look.colour("out"), look.px(2.4)))
            painter.drawLine(QPointF(x, middle - tall * 1.5), QPointF(x, middle + tall * 1.2))
            draw_mark(painter, look, QPointF(x, middle + tall * 1.2), "low", size)
            room = middle - tall * 1.35 - box.top()
            if room > look.px(11) and (apart >= look.px(LEAST_APART) or len(one.failed) < 12):
                painter.setPen(look.colour("out"))
                over = QRectF(x - look.px(12), box.top() + look.px(3), look.px(24), room)
                painter.drawText(over, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom, letter)

    def _legend(self, painter: QPainter) -> None:
        """The kinds of failure with their keys, under the lanes."""
        look, shown = self._look, self.shown
        if shown is None:
            return
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        words = "    ".join(f"{digit} {kind}" for digit, kind in shown.kinds)
        room = QRectF(look.px(8), self.height() - look.px(FOOT), self.width() - look.px(16), look.px(FOOT))
        text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)
