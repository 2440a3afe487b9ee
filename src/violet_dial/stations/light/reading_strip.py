"""The strip of readings under the dial: one slot per reading in the order of the light, hollow where none is taken."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.marks import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.report.palette import STATE_ROLES
from violet_dial.stations.light.state import StripSlot

CHEVRON_PX = 16


class ReadingStrip(QWidget):
    """Slots side by side; those around the cursor are in view. A click chooses a reading or a light to read."""

    chosen = Signal(int)
    light_chosen = Signal(float)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._slots: tuple[StripSlot, ...] = ()
        self._cursor = -1
        self._first = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Readings in the order of the light")
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(400, self._look.px(70))

    def begin(self) -> None:
        """Another job: from the beginning of the strip."""
        self._first = 0

    def show_slots(self, slots: tuple[StripSlot, ...], cursor: int) -> None:
        self._slots = slots
        self.set_cursor(cursor)

    def set_cursor(self, index: int) -> None:
        """Bring a reading into view and mark it."""
        self._cursor = index
        place = next((n for n, slot in enumerate(self._slots) if slot.index == index >= 0), 0)
        fit = self._fit()
        if place < self._first or place >= self._first + fit:
            self._first = place - fit // 2
        self._first = max(0, min(self._first, len(self._slots) - fit))
        self.update()

    def _inset(self) -> int:
        """Room kept at either end for the signs that there is more."""
        return CHEVRON_PX if len(self._slots) * self._look.px(58) > self.width() else 0

    def _width(self) -> float:
        if len(self._slots) < 6:
            return self._look.px(84)
        room = self.width() - 2 * self._inset()
        fit = max(1, int(room // self._look.px(58)))
        return room / min(len(self._slots), fit)

    def _fit(self) -> int:
        return max(1, int((self.width() - 2 * self._inset()) / self._width() + 1e-6))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width, inset = self._width(), self._inset()
        shown = self._slots[self._first : self._first + self._fit()]
        for place, slot in enumerate(shown):
            self._paint_slot(painter, QRectF(inset + place * width + 2, 1, width - 4, self.height() - 2), slot)
        painter.setPen(self._look.colour("violet"))
        painter.setFont(self._look.font(16, True))
        centre = Qt.AlignmentFlag.AlignCenter
        if self._first > 0:
            painter.drawText(QRectF(0, 0, inset, self.height()), centre, "‹")
        if self._first + len(shown) < len(self._slots):
            painter.drawText(QRectF(self.width() - inset, 0, inset, self.height()), centre, "›")

    def _paint_slot(self, painter: QPainter, box: QRectF, slot: StripSlot) -> None:
        look, taken = self._look, slot.index >= 0
        under = taken and slot.index == self._cursor
        painter.setPen(QPen(look.colour("violet" if under else "line"), 2 if under else 1))
        painter.setBrush(look.colour("soft" if under else "ground") if taken else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 7, 7)
        third = box.height() / 3.15
        centre = Qt.AlignmentFlag.AlignCenter
        painter.setPen(look.colour("quiet"))
        painter.setFont(look.font(11.5))
        painter.drawText(QRectF(box.x(), box.y() + 2, box.width(), third), centre, f"Ev {slot.ev100:.3g}{slot.way}")
        painter.setPen(look.colour("ink" if taken else "quiet"))
        painter.setFont(look.font(17))
        painter.drawText(QRectF(box.x(), box.y() + third, box.width(), third), centre, slot.read)
        if not taken:
            return
        painter.setFont(look.font(11.5))
        low = QRectF(box.x() + look.px(9), box.y() + 2 * third, box.width() - look.px(9), third)
        painter.setPen(look.colour(STATE_ROLES[slot.state]))
        painter.drawText(low, centre, slot.error)
        draw_mark(painter, look, QPointF(box.x() + look.px(9), low.center().y()), slot.state, look.px(4.5))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self._first + int((event.position().x() - self._inset()) // self._width())
        if 0 <= place < len(self._slots):
            slot = self._slots[place]
            if slot.index >= 0:
                self.chosen.emit(slot.index)
            else:
                self.light_chosen.emit(slot.ev100)

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = -1 if event.angleDelta().y() > 0 else 1
        self._first = max(0, min(self._first + step, len(self._slots) - self._fit()))
        self.update()
