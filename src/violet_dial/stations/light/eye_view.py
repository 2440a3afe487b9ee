"""What the camera sees of the dial: the picture, the marks that were put, a cross with its glass, the needle as it was read."""

import itertools

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)

from violet_dial.core.eye.face import Face
from violet_dial.core.eye.needle import NeedleReading
from violet_dial.job.light import DialMark
from violet_dial.kit.picture import PaintedView, antialiased, pens
from violet_dial.kit.theme.look import Look
from violet_dial.stations.light.eye_state import value_said

Frame = npt.NDArray[np.uint8]
Went = tuple[float, float | None]  # seconds, and the needle
COURSE_S, LEAST_HALF = 30.0, 0.25  # of the course that is drawn; of its height, in the needle's unit
GLASS, SEEN = 150, 30  # the glass on the screen; points of the picture under it
FAR, FINE = 10.0, 0.2  # steps of the cross with Shift, with Ctrl
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
DARK, LIGHT = QColor("#17131F"), QColor("#FFFDFA")  # over a picture, whatever the theme


class EyeView(PaintedView):
    """``crossed`` when the cross was moved, ``typed`` what is typed on the picture, ``struck`` for Del, ``entered`` for
    Enter."""

    crossed = Signal()
    typed = Signal(str)
    struck = Signal()
    entered = Signal()

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self._image: QImage | None = None
        self._given: Frame | None = None
        self._marks: tuple[DialMark, ...] = ()
        self._face: Face | None = None
        self._read: NeedleReading | None = None
        self._went: tuple[Went, ...] = ()
        self.cross = QPointF(0, 0)

    def least(self) -> tuple[float, float]:
        return 380, 220

    @property
    def size_px(self) -> tuple[int, int]:
        """Of the pictures, wide and tall; 0, 0 before the first."""
        return (0, 0) if self._image is None else (self._image.width(), self._image.height())

    def begin(self) -> None:
        """Another job."""
        self._image = self._given = self._face = self._read = None
        self._marks, self._went = (), ()
        self.cross = QPointF(0, 0)
        self.update()

    def show_frame(self, frame: Frame) -> None:
        """Draw a picture, shape (h, w), 0 to 255."""
        if frame is self._given:
            return
        self._given = frame
        tall, wide = frame.shape
        if self.size_px != (wide, tall):
            self.cross = QPointF(wide / 2, tall / 2)
        grey = QImage(np.ascontiguousarray(frame).data, wide, tall, wide, QImage.Format.Format_Grayscale8)
        self._image = grey.convertToFormat(QImage.Format.Format_RGB32)  # a copy, in the window's own format: faster drawn
        self.update()

    def show_dial(
        self, face: Face | None, marks: tuple[DialMark, ...], read: NeedleReading | None, went: tuple[Went, ...]
    ) -> None:
        """Draw the dial as it is known, the needle as it was read, and how it went: seconds and values, None where it was not
        read."""
        self._face, self._marks, self._read, self._went = face, marks, read, went
        needle = f"the needle shows {value_said(read)}" if read is not None else "no needle read"
        name = f"The dial before the camera: {len(marks)} marks, {needle}"
        if name != self.accessibleName():
            self.setAccessibleName(name)
            QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))
        self.update()

    # the cross

    def move_cross(self, x: float, y: float) -> None:
        """Put the cross to a point of the picture."""
        wide, tall = self.size_px
        self.cross = QPointF(min(max(x, 0.0), max(wide - 1.0, 0.0)), min(max(y, 0.0), max(tall - 1.0, 0.0)))
        self.update()
        self.crossed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(Qt.Key(event.key()))
        how = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if step is not None and self._image is not None:
            size = {Qt.KeyboardModifier.ShiftModifier: FAR, Qt.KeyboardModifier.ControlModifier: FINE}.get(how, 1.0)
            self.move_cross(self.cross.x() + size * step[0], self.cross.y() + size * step[1])
        elif event.key() == Qt.Key.Key_Delete:
            self.struck.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        elif event.text().isprintable() and event.text().strip() and how in (
            Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier,
        ):  # fmt: skip
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        box = self._box()
        if self._image is not None and box.contains(event.position()):
            scale = self._image.width() / box.width()
            self.move_cross((event.position().x() - box.left()) * scale, (event.position().y() - box.top()) * scale)
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    # drawing

    def _box(self) -> QRectF:
        """Where the picture stands."""
        wide, tall = self.size_px
        if not wide:
            return QRectF()
        scale = min(self.width() / wide, self.height() / tall)
        return QRectF(0, 0, scale * wide, scale * tall)

    def _beside(self) -> QRectF:
        """What is free at the right of the picture."""
        left = self._box().right() + self._look.px(10)
        return QRectF(left, 0, max(self.width() - left, 0), self._box().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        look, box = self._look, self._box()
        if self._image is None:
            painter.setFont(look.font(14))
            painter.setPen(look.colour("quiet"))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, "no picture yet")
            return
        painter.drawImage(box, self._image)
        painter.save()
        painter.setClipRect(box)
        scale = box.width() / self._image.width()
        self._dial(painter, scale)
        self._cross(painter, self.cross * scale)
        painter.restore()
        self._glass(painter, box)
        self._course(painter)
        if self.hasFocus():
            pens(painter, look, "violet", "none", 2)
            painter.drawRect(box.adjusted(1, 1, -1, -1))

    def _lined(self, painter: QPainter, points: list[QPointF], colour: QColor, wide: float) -> None:
        """A line that is seen on dark and on light."""
        for pen in (QPen(LIGHT, wide + 2), QPen(colour, wide)):
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF(points))

    def _dial(self, painter: QPainter, scale: float) -> None:
        violet = QColor("#5B2A86")
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._face is not None:
            angles = np.linspace(self._face.angles[0], self._face.angles[-1], 60)
            arc = self._face.picture(np.stack([np.cos(angles), np.sin(angles)], axis=1))
            self._lined(painter, [QPointF(x, y) * scale for x, y in arc.tolist()], violet, 1.2)
        painter.setFont(self._look.font(13, bold=True))
        for mark in self._marks:
            at = QPointF(mark.x, mark.y) * scale
            for pen in (QPen(LIGHT, 4), QPen(violet, 2)):
                painter.setPen(pen)
                painter.drawEllipse(at, 5, 5)
            self._said(painter, at + QPointF(-5, self._look.px(20)), f"{mark.value:g}", violet)
        if self._face is not None and self._read is not None:
            way = np.array([np.cos(self._read.angle), np.sin(self._read.angle)])
            (x0, y0), (x1, y1) = self._face.picture(np.stack([0.3 * way, 1.02 * way])).tolist()
            self._lined(painter, [QPointF(x0, y0) * scale, QPointF(x1, y1) * scale], QColor("#0F7A6D"), 2)

    def _said(self, painter: QPainter, at: QPointF, text: str, colour: QColor) -> None:
        wide = painter.fontMetrics().horizontalAdvance(text)
        painter.fillRect(QRectF(at.x() - 2, at.y() - self._look.px(12), wide + 4, self._look.px(15)), LIGHT)
        painter.setPen(colour)
        painter.drawText(at, text)

    def _cross(self, painter: QPainter, at: QPointF) -> None:
        for pen in (QPen(LIGHT, 3), QPen(DARK, 1)):
            painter.setPen(pen)
            for x, y in ((1, 0), (0, 1)):
                way = QPointF(x, y)
                painter.drawLine(at - way * 16, at - way * 4)
                painter.drawLine(at + way * 4, at + way * 16)

    def _course(self, painter: QPainter) -> None:
        """How the needle went, newest at the right."""
        free, look = self._beside(), self._look
        top = look.px(GLASS + 30)
        box = QRectF(free.left(), top, free.width(), free.height() - top - look.px(8))
        if free.width() < look.px(GLASS) or box.height() < look.px(50):
            return
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        painter.drawText(QPointF(box.left(), top - look.px(8)), f"the needle, {COURSE_S:.0f} s")
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        known = [(at, value) for at, value in self._went if value is not None]
        if len(known) < 2:
            return
        values = [value for _at, value in known]
        middle, half = (max(values) + min(values)) / 2, max((max(values) - min(values)) / 2, LEAST_HALF)
        now = self._went[-1][0]

        def spot(at: float, value: float) -> QPointF:
            x = box.right() - (now - at) / COURSE_S * box.width()
            return QPointF(x, box.center().y() - (value - middle) / half * (box.height() / 2 - 6))

        painter.setPen(QPen(look.colour("within"), 2))
        for one, other in itertools.pairwise(self._went):
            if one[1] is not None and other[1] is not None:
                painter.drawLine(spot(one[0], one[1]), spot(other[0], other[1]))
        painter.setPen(look.colour("quiet"))
        for value, place in ((middle + half, box.top() + look.px(9)), (middle - half, box.bottom() - look.px(4))):
            painter.drawText(QPointF(box.left(), place), f"{value:.2f}".replace("-", "−"))

    def _glass(self, painter: QPainter, box: QRectF) -> None:
        """What lies under the cross, larger: in the corner that the cross is far from."""
        if self._image is None or not self.hasFocus():
            return
        size, free = float(self._look.px(GLASS)), self._beside()
        is_left = self.cross.x() > self._image.width() / 2
        at = QRectF(box.left() + 6 if is_left else box.right() - size - 6, box.top() + 6, size, size)
        if free.width() >= size:
            at = QRectF(free.left(), 2, size, size)
        painter.fillRect(at, DARK)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        # a pixel's middle is a whole number: half a point to the right and down
        painter.drawImage(at, self._image, QRectF(self.cross.x() + 0.5 - SEEN / 2, self.cross.y() + 0.5 - SEEN / 2, SEEN, SEEN))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(LIGHT, 3), QPen(QColor("#5B2A86"), 1.5)):
            painter.setPen(pen)
            painter.drawRect(at)
        for way in (QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)):
            painter.drawLine(at.center() + way * 8, at.center() + way * size / 2)
