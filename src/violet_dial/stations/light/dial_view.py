"""The dial on the screen: a widget of its own, walked by keys, each reading said in a sentence. The strip below it has a slot
per reading, hollow where none is taken.
"""

import math

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from violet_dial.core.calibration.assess import JudgedReading
from violet_dial.core.quantities import format_signed
from violet_dial.kit.picture import MarkStamps, antialiased, draw_mark, paint, pens
from violet_dial.kit.theme.look import Look
from violet_dial.report.dial import LABEL_RADIUS, OUTER_RADIUS, Dial, Line, Role, reading_sentence
from violet_dial.report.palette import STATE_ROLES
from violet_dial.report.shapes import To, dial_areas, dial_lines
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
        painter = antialiased(self)
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


STILL: frozenset[Role] = frozenset({"zero", "limit", "tick"})
BELOW = 0.12  # part of the radius kept free under the centre
NEAR_PX = 14


class DialView(QWidget):
    """Draws a `Dial` and moves a cursor along its readings.

    Left and Right move in the order of the light, Home and End to the ends. ``selected`` carries the index of the
    reading in the assessment, -1 for none.
    """

    selected = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._dial = Dial((), (), (), (), None)
        self._readings: tuple[JudgedReading, ...] = ()
        self._order: list[int] = []
        self._cursor = -1
        self._moving: tuple[Line, ...] = ()
        self._plate = QPixmap()
        self._plate_key: object = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setMouseTracking(True)
        self.setAccessibleName("Dial, no readings yet")
        look.changed.connect(self.update)

    @property
    def cursor_index(self) -> int:
        """Index of the reading under the cursor; -1 when there is none."""
        return self._cursor

    def begin(self) -> None:
        """Another job: the cursor goes to its newest reading when it is shown."""
        self._readings, self._cursor = (), -1

    def show_dial(self, dial: Dial, readings: tuple[JudgedReading, ...]) -> None:
        """Show new geometry; the cursor goes to the newest reading when one came."""
        came = len(readings) > len(self._readings)
        self._dial, self._readings = dial, readings
        self._moving = tuple(line for line in dial.lines if line.role not in STILL)
        self._order = sorted(range(len(readings)), key=lambda index: (readings[index].reading.reference_ev100, index))
        if came or self._cursor >= len(readings):
            self._cursor = len(readings) - 1
        self._say()
        self.update()

    def select(self, index: int) -> None:
        """Put the cursor on a reading."""
        if index != self._cursor and -1 <= index < len(self._readings):
            self._cursor = index
            self._say()
            self.selected.emit(index)
            self.update()

    def _say(self) -> None:
        """Tell a screen reader what the cursor is on."""
        if 0 <= self._cursor < len(self._readings):
            place = f"Reading {self._order.index(self._cursor) + 1} of {len(self._readings)}. "
            self.setAccessibleName(place + reading_sentence(self._readings[self._cursor]))
        else:
            self.setAccessibleName("Dial, no readings yet")
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(500), self._look.px(132))  # small: it takes whatever room is left

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._order:
            super().keyPressEvent(event)
            return
        place = self._order.index(self._cursor) if self._cursor in self._order else -1
        moves = {
            Qt.Key.Key_Right: place + 1,
            Qt.Key.Key_Left: max(place - 1, 0),
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: len(self._order) - 1,
        }
        target = moves.get(Qt.Key(event.key()))
        if target is None:
            super().keyPressEvent(event)
            return
        self.select(self._order[min(target, len(self._order) - 1)])

    def _near(self, position: QPointF) -> int:
        """Index of the reading whose mark is under the pointer; -1 for none."""
        centre, radius = self._frame()
        best, found = float(NEAR_PX**2), -1
        for mark in self._dial.marks:
            x, y = centre.x() + mark.x * radius - position.x(), centre.y() - mark.y * radius - position.y()
            if mark.index >= 0 and x * x + y * y < best:
                best, found = x * x + y * y, mark.index
        return found

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if (found := self._near(event.position())) >= 0:
            self.select(found)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            found = self._near(QPointF(event.pos()))
            if found >= 0:
                one = self._readings[found]
                QToolTip.showText(event.globalPos(), f"{reading_sentence(one)}\n{one.arithmetic}", self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    def _frame(self) -> tuple[QPointF, float]:
        """Centre of the dial and its radius in pixels."""
        by_width = (self.width() - 2 * self._look.px(14)) / (2 * OUTER_RADIUS)
        by_height = (self.height() - 8) / (OUTER_RADIUS + BELOW)
        radius = max(min(by_width, by_height), 20.0)
        used = radius * (OUTER_RADIUS + BELOW)
        return QPointF(self.width() / 2, (self.height() - used) / 2 + radius * OUTER_RADIUS), radius

    def _to_screen(self) -> To:
        """From the dial's coordinates to those of the screen."""
        centre, radius = self._frame()
        x, y = centre.x(), centre.y()
        return lambda point: (x + point[0] * radius, y - point[1] * radius)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        (centre, radius), at = self._frame(), self._to_screen()
        painter.drawPixmap(0, 0, self._ground_plate(centre, radius))
        needle = (self._dial.needle,) if self._dial.needle else ()
        paint(painter, self._look, dial_lines(self._moving + needle, at))
        stamps = MarkStamps(self._look, self._look.px(6.5), self.devicePixelRatioF())
        for mark in self._dial.marks:
            stamps.draw(painter, QPointF(*at((mark.x, mark.y))), mark.state)
        self._paint_cursor(painter, at)
        self._paint_readout(painter, centre, radius)

    def _ground_plate(self, centre: QPointF, radius: float) -> QPixmap:
        """What stays the same from reading to reading (ring, limits, scale), painted once."""
        ratio = self.devicePixelRatioF()
        still = tuple(line for line in self._dial.lines if line.role in STILL)
        key = (self.size().toTuple(), ratio, self._look.percent, self._look.theme, still, self._dial.areas)
        if key != self._plate_key:
            self._plate_key = key
            self._plate = QPixmap(self.size() * ratio)
            self._plate.setDevicePixelRatio(ratio)
            self._plate.fill(Qt.GlobalColor.transparent)
            painter, at = antialiased(self._plate), self._to_screen()
            paint(painter, self._look, (*dial_areas(self._dial.areas, at), *dial_lines(still, at)))
            self._paint_labels(painter, centre, radius)
            painter.end()
        return self._plate

    def _paint_labels(self, painter: QPainter, centre: QPointF, radius: float) -> None:
        painter.setFont(self._look.font(12))
        painter.setPen(self._look.colour("quiet"))
        half = self._look.px(24)
        numbers = [label for label in self._dial.labels if label.text.isdigit()]
        room = math.pi * LABEL_RADIUS * radius / max(len(numbers), 1)
        crowded = room < 1.35 * painter.fontMetrics().horizontalAdvance("10")
        for label in self._dial.labels:
            if crowded and label.text.isdigit() and int(label.text) % 2:
                continue
            x, y = centre.x() + label.x * radius, centre.y() - label.y * radius
            box = QRectF(x - half, y - half / 2, 2 * half, half)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, label.text)

    def _paint_cursor(self, painter: QPainter, at: To) -> None:
        pens(painter, self._look, "violet", "none", 3 if self.hasFocus() else 1.6)
        for mark in self._dial.marks:
            if mark.index == self._cursor >= 0:
                painter.drawEllipse(QPointF(*at((mark.x, mark.y))), self._look.px(11), self._look.px(11))

    def _paint_readout(self, painter: QPainter, centre: QPointF, radius: float) -> None:
        """The reading under the cursor in large figures, in the free middle of the dial."""
        if not 0 <= self._cursor < len(self._readings):
            return
        one = self._readings[self._cursor]
        large = min(radius * 0.20, self._look.px(46))
        font = self._look.font(14, True)
        font.setPixelSize(max(int(large), 12))
        painter.setFont(font)
        painter.setPen(self._look.colour("ink"))
        box = QRectF(centre.x() - radius * 0.5, centre.y() - large * 1.75, radius, large * 1.25)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, format_signed(one.error_stops))
        painter.setFont(self._look.font(12))
        painter.setPen(self._look.colour("quiet"))
        text = f"± {one.expanded_uncertainty_stops:.2f} stop at Ev {one.reading.reference_ev100:.1f}"
        if painter.fontMetrics().horizontalAdvance(text) > radius * 0.8:
            text = f"at Ev {one.reading.reference_ev100:.1f}"
        tall = painter.fontMetrics().height()
        top = min(box.bottom(), centre.y() + radius * BELOW * 0.9 - tall)
        under = QRectF(centre.x() - radius * 0.5, top, radius, tall)
        painter.drawText(under, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, text)
