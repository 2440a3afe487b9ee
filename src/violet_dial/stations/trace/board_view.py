"""A photo of the board on the screen, with its spots and joins; spots are put on it by arrows and Enter, or by pointer."""

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QTransform, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.kit.theme.look import Look
from violet_dial.kit.word_places import OVER, WordPlaces
from violet_dial.report.palette import LEAD_COLOURS
from violet_dial.stations.trace.map_state import JoinShown, PhotoShown, PinShown

_STEPS = {Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0), Qt.Key.Key_Down: (0.0, 1.0)}
STEP, FINE = 0.02, 0.004  # of the photo's width, with Shift the finer
ZOOMS = (1.0, 1.5, 2.2, 3.2, 4.8, 7.0)
LEAST_WIDE = 440  # pixels at 100 %, below which words would cover the photo: it is then shown in part
NEAR = 14  # pixels at 100 % from a spot that is meant by a click
HELP = "Arrows move the cross, Enter puts a spot, + and − zoom, N the next photo, M mirrors, T turns, [ and ] darken and brighten"


class BoardView(QWidget):
    """``put`` carries where a spot is wanted; ``picked`` the spot under the cross; ``laid`` how the photo is to lie instead."""

    put = Signal(float, float)
    picked = Signal(str)
    laid = Signal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._shown: PhotoShown | None = None
        self._picture: QPixmap | None = None
        self._key: object = None
        self._at = QPointF(0.5, 0.5)
        self._middle = QPointF(0.5, 0.5)
        self._zoom = 0
        self._drag: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(240, 80)
        self.setToolTip(HELP)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(self._look.px(320), self._look.px(110))  # it takes what room there is, and asks for little

    def begin(self) -> None:
        """Another job: the cross in the middle, nothing enlarged."""
        self._shown, self._picture, self._key = None, None, None
        self._at, self._middle, self._zoom = QPointF(0.5, 0.5), QPointF(0.5, 0.5), 0

    def show_photo(self, shown: PhotoShown | None, content: bytes) -> None:
        """Draw a photo with what lies on it; an empty ``content`` while it is being read."""
        self._shown = shown
        ground = shown.ground if shown else None
        key = (ground.photo, ground.mirrored, ground.turned, ground.brightness, len(content)) if ground else None
        if key != self._key:
            self._key = key
            self._picture = _laid(content, shown) if shown and content else None
        self._follow()
        self._say()
        self.update()

    def _follow(self) -> None:
        """Keep the spots that are spoken of in view."""
        probes = [pin for pin in self._shown.pins if pin.probe] if self._shown else []
        if probes:
            self._middle = QPointF(sum(probe.x for probe in probes) / len(probes), sum(probe.y for probe in probes) / len(probes))

    def _say(self) -> None:
        if self._shown is None:
            self.setAccessibleName("No photo laid down yet")
            return
        near = self._under(self._at)
        probes = " and ".join(one.name for one in sorted(self._shown.pins, key=lambda pin: pin.probe) if one.probe)
        touch = f" Touch {probes} next." if probes else ""
        here = f", at {near.name}" if near else ""
        self.setAccessibleName(f"Photo {self._shown.ground.name}, {len(self._shown.pins)} spots{here}.{touch}")

    # where things are

    def _frame(self) -> QRectF:
        """The photo's place on the widget."""
        if self._picture is not None and self._picture.height():
            aspect = self._picture.width() / self._picture.height()
        else:
            aspect = self._shown.ground.aspect if self._shown else 1.5
        room = QSizeF(self.width(), self.height())
        whole = min(room.width(), room.height() * aspect)
        wide = max(whole, self._look.px(LEAST_WIDE)) * ZOOMS[self._zoom]
        tall = wide / aspect
        left = room.width() / 2 - self._middle.x() * wide if wide > room.width() else (room.width() - wide) / 2
        top = room.height() / 2 - self._middle.y() * tall if tall > room.height() else (room.height() - tall) / 2
        left = min(0.0, max(left, room.width() - wide)) if wide > room.width() else left
        top = min(0.0, max(top, room.height() - tall)) if tall > room.height() else top
        return QRectF(left, top, wide, tall)

    def _point(self, x: float, y: float) -> QPointF:
        frame = self._frame()
        return QPointF(frame.left() + x * frame.width(), frame.top() + y * frame.height())

    def _place(self, at: QPointF) -> QPointF:
        frame = self._frame()
        return QPointF((at.x() - frame.left()) / frame.width(), (at.y() - frame.top()) / frame.height())

    def _under(self, at: QPointF) -> PinShown | None:
        spot = self._point(at.x(), at.y())
        pins = self._shown.pins if self._shown else ()
        near = [(pin, (self._point(pin.x, pin.y) - spot).manhattanLength()) for pin in pins]
        near = [pair for pair in near if pair[1] < self._look.px(NEAR)]
        return min(near, key=lambda pair: pair[1])[0] if near else None

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if self._shown is None:
            super().keyPressEvent(event)
            return
        step = _STEPS.get(key)
        if step is not None:
            by = (FINE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP) / ZOOMS[self._zoom]
            self._move(QPointF(self._at.x() + step[0] * by, self._at.y() + step[1] * by * self._shown.ground.aspect))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._enter()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self._enlarge(-1 if key == Qt.Key.Key_Minus else 1)
        elif key in _LAID:
            self.laid.emit(_LAID[key])
        else:
            super().keyPressEvent(event)

    def _move(self, at: QPointF) -> None:
        self._at = QPointF(min(max(at.x(), 0.0), 1.0), min(max(at.y(), 0.0), 1.0))
        on = self._point(self._at.x(), self._at.y())
        if not QRectF(0, 0, self.width(), self.height()).adjusted(30, 30, -30, -30).contains(on):
            self._middle = self._at
        near = self._under(self._at)
        if near is not None:
            self.picked.emit(near.name)
        self._say()
        self.update()

    def _enter(self) -> None:
        self.put.emit(self._at.x(), self._at.y())

    def _enlarge(self, by: int) -> None:
        self._zoom = min(max(self._zoom + by, 0), len(ZOOMS) - 1)
        self._middle = self._at
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._at = self._place(event.position())
        self._enlarge(1 if event.angleDelta().y() > 0 else -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drag = event.position()
        self._move(self._place(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            moved, frame = event.position() - self._drag, self._frame()
            self._middle -= QPointF(moved.x() / frame.width(), moved.y() / frame.height())
            self._drag = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._move(self._place(event.position()))
        self._enter()

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        look = self._look
        if self._shown is None:
            painter.setFont(look.font(13))
            painter.setPen(look.colour("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No photo laid down yet: the drawing shows the map.")
            return
        if self._picture is not None:
            painter.drawPixmap(self._frame(), self._picture, QRectF(self._picture.rect()))
        else:
            painter.fillRect(self._frame(), look.colour("line"))
        for join in self._shown.joins:
            self._paint_join(painter, join)
        words = WordPlaces(QRectF(0, 0, self.width(), self.height()))
        for pin in self._shown.pins:
            at = self._point(pin.x, pin.y)
            words.take(QRectF(at.x() - look.px(6), at.y() - look.px(6), look.px(12), look.px(12)))
        for one in sorted(self._shown.pins, key=lambda pin: -pin.probe):
            self._paint_pin(painter, one, words)
        self._paint_cross(painter)

    def _paint_join(self, painter: QPainter, join: JoinShown) -> None:
        look = self._look
        one, other = self._point(*join.start), self._point(*join.end)
        colour = look.colour("out") if join.is_suspect else QColor(LEAD_COLOURS.get(join.colour, "#F2EEF5"))
        style = Qt.PenStyle.SolidLine if join.how == "measured" else Qt.PenStyle.DashLine
        painter.setPen(QPen(QColor(20, 16, 24, 190), look.px(5), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(one, other)
        painter.setPen(QPen(colour, look.px(3), style, Qt.PenCapStyle.RoundCap))
        painter.drawLine(one, other)

    def _paint_pin(self, painter: QPainter, pin: PinShown, words: WordPlaces) -> None:
        look, at = self._look, self._point(pin.x, pin.y)
        size = look.px(11 if pin.probe else 5)
        painter.setPen(QPen(QColor("#FFFFFF"), 2))
        painter.setBrush(look.colour("violet") if pin.probe else QColor(20, 16, 24))
        painter.drawEllipse(at, size, size)
        painter.setFont(look.font(16 if pin.probe else 12, True))
        room = QSizeF(painter.fontMetrics().horizontalAdvance(pin.name) + 10, painter.fontMetrics().height() + 2)
        box = words.room(at, QSizeF(size * 2 + 4, size * 2 + 4), room, OVER)
        back = look.colour("violet") if pin.probe else QColor(20, 16, 24)
        back.setAlpha(230 if pin.probe else 200)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(back)
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(look.colour("on_violet") if pin.probe else QColor("#FFFFFF"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, pin.name)
        if pin.probe:
            painter.drawText(
                QRectF(at.x() - size, at.y() - size, size * 2, size * 2), Qt.AlignmentFlag.AlignCenter, str(pin.probe)
            )

    def _paint_cross(self, painter: QPainter) -> None:
        if not self.hasFocus():
            return
        at, arm = self._point(self._at.x(), self._at.y()), self._look.px(12)
        for width, colour in ((4, QColor(20, 16, 24)), (2, QColor("#FFFFFF"))):
            painter.setPen(QPen(colour, width))
            painter.drawLine(QPointF(at.x() - arm, at.y()), QPointF(at.x() + arm, at.y()))
            painter.drawLine(QPointF(at.x(), at.y() - arm), QPointF(at.x(), at.y() + arm))


_LAID = {
    Qt.Key.Key_N: "next", Qt.Key.Key_M: "mirror", Qt.Key.Key_T: "turn", Qt.Key.Key_BracketLeft: "darker",
    Qt.Key.Key_BracketRight: "brighter",
}  # fmt: skip


def _laid(content: bytes, shown: PhotoShown) -> QPixmap | None:
    """The photo as it lies: turned, mirrored, darker or brighter."""
    image = QImage.fromData(content)
    if image.isNull():
        return None
    ground = shown.ground
    turn = QTransform().rotate(ground.turned)
    image = image.transformed(turn.scale(-1, 1) if ground.mirrored else turn)
    picture = QPixmap.fromImage(image)
    if ground.brightness:
        painter = QPainter(picture)
        shade = QColor(255, 255, 255) if ground.brightness > 0 else QColor(0, 0, 0)
        shade.setAlphaF(min(abs(ground.brightness), 1.0) * 0.7)
        painter.fillRect(picture.rect(), shade)
        painter.end()
    return picture
