"""The replay's picture: bits about what was wrong over the minutes, one's own work beside the same device worked by others."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from violet_dial.kit.picture import PaintedView, antialiased, draw_mark, pens
from violet_dial.kit.theme.colours import Role
from violet_dial.kit.theme.look import Look
from violet_dial.practise.state import ReplayShown, SkillCurve

LEFT, RIGHT, HEAD, FOOT = 52, 172, 14, 42
COLOURS: dict[str, Role] = {"": "violet", "next": "within", "few": "quiet"}  # by player; others are drawn as "watch"
NEAR_PX = 18  # apart, from which a name is moved down


class ReplayView(PaintedView):
    """Left and Right go from step to step, Enter puts the job at the step for the real stations."""

    chosen = Signal(int)
    entered = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__(look, takes_keys=True)
        self.shown = ReplayShown("", "")
        self.place = 0

    def least(self) -> tuple[float, float]:
        return 420, 230

    def show_replay(self, shown: ReplayShown) -> None:
        """Draw this; the step chosen stays where there is one."""
        self.shown = shown
        self.place = min(self.place, max(len(shown.steps) - 1, 0))
        self._tell()
        self.update()

    def choose(self, place: int) -> None:
        """Another step."""
        if self.shown.steps:
            self.place = min(max(place, 0), len(self.shown.steps) - 1)
            self._tell()
            self.update()
            self.chosen.emit(self.place)

    def _tell(self) -> None:
        step = self.shown.steps[self.place] if self.shown.steps else None
        said = f"Step {self.place + 1} of {len(self.shown.steps)}: {step.words}. {step.bits}" if step else "no step"
        self.say(f"Bits over minutes. {said}")

    # keys and pointer

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Up):
            self.choose(self.place - 1)
        elif key in (Qt.Key.Key_Right, Qt.Key.Key_Down):
            self.choose(self.place + 1)
        elif key == Qt.Key.Key_Home:
            self.choose(0)
        elif key == Qt.Key.Key_End:
            self.choose(len(self.shown.steps) - 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.shown.steps:
            self.entered.emit(self.place)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        own = next((curve for curve in self.shown.curves if curve.is_own), None)
        if own is not None and self.shown.steps:
            far = [abs(self._x(minute) - event.position().x()) for minute in own.minutes[1:]]
            self.choose(far.index(min(far)))

    # drawing

    @property
    def _most(self) -> float:
        return max((max(curve.minutes) for curve in self.shown.curves), default=1.0) or 1.0

    @property
    def _span(self) -> tuple[float, float]:
        every = [bit for curve in self.shown.curves for bit in curve.bits]
        return min([0.0, *every]), max([1.0, *every])

    def _x(self, minutes: float) -> float:
        room = self.width() - self._look.px(LEFT + RIGHT)
        return self._look.px(LEFT) + room * minutes / self._most

    def _y(self, bits: float) -> float:
        low, high = self._span
        room = self.height() - self._look.px(HEAD + FOOT)
        return self._look.px(HEAD) + room * (high - bits) / (high - low)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        self._axes(painter)
        for one in sorted(self.shown.curves, key=lambda curve: curve.is_own):
            self._curve(painter, one)
        self._names(painter)
        if self.hasFocus():
            pens(painter, self._look, "violet", "none", 2)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _axes(self, painter: QPainter) -> None:
        look = self._look
        painter.setFont(look.font(12))
        low, high = self._span
        step = next(one for one in (1, 2, 5, 10, 20, 50) if (high - low) / one <= 7)
        for bits in range(int(low // step) * step, int(high) + 1, step):
            if not low <= bits <= high:
                continue
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(QPointF(look.px(LEFT), self._y(bits)), QPointF(self.width() - look.px(RIGHT), self._y(bits)))
            painter.setPen(look.colour("quiet"))
            box = QRectF(0, self._y(bits) - look.px(9), look.px(LEFT - 8), look.px(18))
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{bits}".replace("-", "−"))
        step = next((one for one in (5, 10, 20, 30, 60, 120, 240) if self._most / one <= 8), 480)
        for minutes in range(0, int(self._most) + 1, step):
            box = QRectF(self._x(minutes) - look.px(30), self.height() - look.px(FOOT - 4), look.px(60), look.px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, f"{minutes}")
        foot = QRectF(look.px(LEFT), self.height() - look.px(22), self.width() - look.px(LEFT + RIGHT), look.px(18))
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, "minutes; upwards: bits about what was wrong")

    def _curve(self, painter: QPainter, one: SkillCurve) -> None:
        look = self._look
        role = COLOURS.get(one.player, "watch")
        style = Qt.PenStyle.SolidLine if one.is_own else Qt.PenStyle.DashLine if role == "watch" else Qt.PenStyle.DotLine
        painter.setPen(QPen(look.colour(role), look.px(2.6 if one.is_own else 2.0), style))
        points = [QPointF(self._x(minute), self._y(bits)) for minute, bits in zip(one.minutes, one.bits, strict=True)]
        painter.drawPolyline(points)
        if one.is_own:
            for place, point in enumerate(points[1:]):
                is_here = place == self.place
                draw_mark(painter, look, point, "inside" if is_here else "empty", look.px(6 if is_here else 4))
            if self.shown.steps:
                painter.setPen(QPen(look.colour("violet"), 1, Qt.PenStyle.DotLine))
                x = points[self.place + 1].x()
                painter.drawLine(QPointF(x, look.px(HEAD)), QPointF(x, self.height() - look.px(FOOT)))

    def _names(self, painter: QPainter) -> None:
        """The curves' names at their ends, moved apart where they would lie on each other."""
        look, last = self._look, -1e9
        painter.setFont(look.font(13))
        for one in sorted(self.shown.curves, key=lambda curve: self._y(curve.bits[-1])):
            y = max(self._y(one.bits[-1]), last + look.px(NEAR_PX))
            last = y
            painter.setPen(look.colour(COLOURS.get(one.player, "watch")))
            box = QRectF(self.width() - look.px(RIGHT - 8), y - look.px(9), look.px(RIGHT - 12), look.px(18))
            words = f"{one.name}{'' if one.found else ': not found'}"
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, int(box.width())))  # fmt: skip
