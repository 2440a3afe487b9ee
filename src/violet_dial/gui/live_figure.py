"""A live instrument in huge figures: what it is, what it shows, how still it stands, and where the reading goes."""

from dataclasses import dataclass
from typing import Literal

from PySide6.QtCore import QElapsedTimer, QPointF, QRectF, QSize, Qt, QTimer, Slot
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.theme.look import Look

LiveKind = Literal["none", "hunting", "settling", "steady", "held", "open", "overload", "lost", "looking"]
FIGURE_EVERY_MS = 200  # a figure that changes faster cannot be read
FLASH_MS = 700
HEIGHT, TALLEST_PX = 88, 132  # at 100 % text, and at the largest


@dataclass(frozen=True)
class LiveState:
    """What is shown: instrument and its function, figure, state in words, where it goes, whether hands-free is on."""

    kind: LiveKind = "none"
    name: str = ""
    figure: str = "—"
    state: str = ""
    goes: str = ""
    hands: str = ""
    hands_on: bool = False
    aside: str = ""  # left out first where there is no room


class LiveFigure(QWidget):
    """Paints itself; the figure changes at most five times a second, the state at once."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._state, self._coming = LiveState(), LiveState()
        self._flash = ""
        self._since = QElapsedTimer()
        self._since.start()
        self._late = QTimer(self, singleShot=True, interval=FIGURE_EVERY_MS)
        self._late.timeout.connect(self._show_coming)
        self._over = QTimer(self, singleShot=True, interval=FLASH_MS)
        self._over.timeout.connect(self._end_flash)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    @property
    def state(self) -> LiveState:
        """What is on the screen."""
        return self._state

    @property
    def flash(self) -> str:
        """The take that is being shown, empty when none."""
        return self._flash

    def show_state(self, state: LiveState) -> None:
        """Show a state; a figure that changed just now waits its turn."""
        self._coming = state
        if state == self._state:
            return
        calm = (state.kind, state.goes, state.hands, state.name) == (
            self._state.kind, self._state.goes, self._state.hands, self._state.name,
        )  # fmt: skip
        if calm and self._since.elapsed() < FIGURE_EVERY_MS:
            if not self._late.isActive():
                self._late.start(max(FIGURE_EVERY_MS - self._since.elapsed(), 0))
            return
        self._show_coming()

    @Slot()
    def _show_coming(self) -> None:
        if self._coming.kind != self._state.kind:
            self.setAccessibleName(f"{self._coming.name} {self._coming.figure}, {self._coming.state}. {self._coming.goes}")
        self._state = self._coming
        self._since.restart()
        self.update()

    def show_taken(self, words: str) -> None:
        """Flash what was taken."""
        self._flash = words
        self._over.start()
        self.update()

    @Slot()
    def _end_flash(self) -> None:
        self._flash = ""
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(300), min(self._look.px(HEIGHT), TALLEST_PX))

    def minimumSizeHint(self) -> QSize:
        return QSize(240, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        state, look = self._state, self._look
        quiet, figures = look.colour("bar_quiet"), look.colour("figures")
        if self._flash:
            pens(painter, look, "bar_accent", "bar_field", 2)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
        inset = look.px(8)
        line = min(look.px(20), round(self.height() * 0.25))
        if state.kind == "none":
            self._text(painter, QRectF(inset, 0, self.width() - inset, self.height()), state.state, 14, False, quiet)
            return
        self._text(painter, QRectF(inset, 0, self.width() - 2 * inset, line), state.name, 13, False, quiet)
        middle = QRectF(inset, line, self.width() - 2 * inset, self.height() - 2 * line)
        words = "taken" if self._flash else state.state
        beside = self._width(painter, words, 15, bool(self._flash)) + look.px(36)
        used = self._text(painter, middle, state.figure, self._fitting(painter, middle, state.figure, beside), True, figures)
        side = QRectF(middle.x() + used + look.px(14), middle.y(), middle.width() - used - look.px(14), middle.height())
        self._mark(painter, QPointF(side.x() + look.px(8), side.center().y()), state.kind)
        self._text(painter, side.adjusted(look.px(22), 0, 0, 0), words, 15, bool(self._flash), figures)
        self._below(painter, QRectF(inset, middle.bottom(), self.width() - 2 * inset, line))

    def _below(self, painter: QPainter, box: QRectF) -> None:
        """Where the reading goes, and at the right whether hands-free is on."""
        state, look = self._state, self._look
        quiet, accent = look.colour("bar_quiet"), look.colour("bar_accent")
        goes = self._flash or state.goes
        colour = accent if self._flash else look.colour("figures") if goes.startswith("→") else quiet
        whole = f"{state.aside} · {state.hands}" if state.aside else state.hands
        room = box.width() - self._width(painter, goes, 13, False) - look.px(10)
        hands = next((one for one in (whole, state.hands) if self._width(painter, one, 13, False) <= room), state.hands)
        width = self._width(painter, hands, 13, False)
        self._text(painter, box.adjusted(0, 0, -width - look.px(10), 0), goes, 13, False, colour)
        at_right = QRectF(box.right() - width, box.y(), width + 2, box.height())
        self._text(painter, at_right, hands, 13, False, accent if state.hands_on else quiet)

    def _fitting(self, painter: QPainter, box: QRectF, figure: str, beside: float) -> float:
        """The size at which the figure leaves room for its state, at 100 % text."""
        size = 38.0
        while size > 20.0 and self._width(painter, figure, size, True) + beside > box.width():
            size -= 2.0
        return size

    def _width(self, painter: QPainter, text: str, size: float, bold: bool) -> float:
        painter.setFont(self._look.font(size, bold))
        return painter.fontMetrics().horizontalAdvance(text)

    def _text(self, painter: QPainter, box: QRectF, text: str, size: float, bold: bool, colour: QColor) -> float:
        """Draw one line, cut where it does not fit; the width used."""
        font = self._look.font(size, bold)
        font.setPixelSize(min(font.pixelSize(), round(box.height() * 0.84)))  # the largest text still fits its line
        painter.setFont(font)
        painter.setPen(colour)
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, max(int(box.width()), 0))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)
        return painter.fontMetrics().horizontalAdvance(shown)

    def _mark(self, painter: QPainter, at: QPointF, kind: LiveKind) -> None:
        """Each state has a shape of its own."""
        size, look = self._look.px(6), self._look
        accent, quiet = look.colour("bar_accent"), look.colour("bar_quiet")
        painter.setPen(QPen(accent if kind in ("steady", "held", "settling") else quiet, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)
        if kind in ("hunting", "looking", "settling"):
            painter.drawEllipse(box)
        if kind == "settling":
            painter.setBrush(accent)
            painter.drawPie(box, 90 * 16, 180 * 16)
        elif kind in ("steady", "held"):
            painter.setBrush(accent if kind == "steady" else quiet)
            painter.drawEllipse(box)
        elif kind == "open":
            for side in (-1, 1):
                x = at.x() + side * size * 0.6
                painter.drawLine(QPointF(x, at.y() - size), QPointF(x, at.y() + size))
        elif kind == "overload":
            ends = ((0, -1), (1, 1), (-1, 1))
            corners = [QPointF(at.x() + x * size, at.y() + y * size) for x, y in ends]
            painter.drawPolygon(QPolygonF(corners))
        elif kind == "lost":
            painter.setPen(QPen(look.colour("bar_warn"), 3))
            painter.drawLine(box.topLeft(), box.bottomRight())
            painter.drawLine(box.topRight(), box.bottomLeft())
