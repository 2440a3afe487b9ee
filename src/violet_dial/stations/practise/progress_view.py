"""The picture of progress: a lane for each skill, what is likely still at hand today and how it fades over the days ahead; beside
it chances said against how often they were right."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from violet_dial.core.practice.memory import DUE
from violet_dial.kit.marks import draw_mark
from violet_dial.kit.theme.look import Look
from violet_dial.stations.practise.progress_state import AHEAD_DAYS, ProgressShown, SkillShown

NAME, SAID, ROW, HEAD, SQUARE, GAP = 210, 190, 34, 26, 250, 40


class ProgressView(QWidget):
    """Nothing to act on: what to practise is said above it."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown = ProgressShown("", "")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        look.changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()

    def minimumSizeHint(self) -> QSize:
        look, rows = self._look, max(len(self.shown.skills), 4)
        return QSize(look.px(NAME + 140), max(look.px(HEAD + 20) + rows * look.px(ROW - 8), look.px(SQUARE)))

    def show_progress(self, shown: ProgressShown) -> None:
        """Draw this."""
        grown = len(shown.skills) != len(self.shown.skills)
        self.shown = shown
        if grown:
            self.updateGeometry()
        self.setAccessibleName("Skills: " + ("; ".join(f"{one.name} {one.said}" for one in shown.skills) or "none"))
        self.update()

    @property
    def _square(self) -> float:
        """Side of the square of chances; none where there is no room."""
        side = min(self._look.px(SQUARE), self.height() - self._look.px(HEAD + 44))
        return side if self.shown.bands and self.width() > self._look.px(NAME + SAID + SQUARE + GAP + 120) else 0

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.shown.skills:
            return
        right = self.width() - (self._square + self._look.px(GAP + 40) if self._square else 0)
        self._heads(painter, right)
        for place, one in enumerate(self.shown.skills):
            self._lane(painter, place, one, right)
        if self._square:
            self._chances(painter, self.width() - self._square - self._look.px(8))

    def _ends(self, right: float) -> tuple[float, float]:
        """Where the days begin and end."""
        look = self._look
        return look.px(NAME), right - look.px(SAID)

    def _heads(self, painter: QPainter, right: float) -> None:
        look, (left, end) = self._look, self._ends(right)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        for day in (0, AHEAD_DAYS // 2, AHEAD_DAYS):
            x = left + (end - left) * day / AHEAD_DAYS
            words = "today" if day == 0 else f"in {day} days"
            painter.drawText(QRectF(x - look.px(40), 0, look.px(80), look.px(18)), Qt.AlignmentFlag.AlignHCenter, words)

    def _lane(self, painter: QPainter, place: int, one: SkillShown, right: float) -> None:
        look, (left, end) = self._look, self._ends(right)
        tall = min((self.height() - look.px(HEAD)) / len(self.shown.skills), look.px(ROW * 1.6))
        top, bottom = look.px(HEAD) + place * tall + look.px(4), look.px(HEAD) + (place + 1) * tall - look.px(5)
        role = "watch" if one.is_due else "within"
        painter.setPen(QPen(look.colour("line"), 1))
        painter.drawLine(QPointF(left, bottom), QPointF(end, bottom))
        due = bottom - (bottom - top) * DUE
        painter.setPen(QPen(look.colour("line"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(left, due), QPointF(end, due))
        points = [
            QPointF(left + (end - left) * day / AHEAD_DAYS, bottom - (bottom - top) * chance)
            for day, chance in enumerate(one.curve)
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("soft"))
        painter.drawPolygon([QPointF(left, bottom), *points, QPointF(end, bottom)])
        painter.setPen(QPen(look.colour(role), look.px(2)))  # type: ignore[arg-type]
        painter.drawPolyline(points)
        draw_mark(painter, look, points[0], "high" if one.is_due else "inside", look.px(5))
        painter.setPen(look.colour("ink"))
        painter.setFont(look.font(14, one.is_due))
        box = QRectF(0, top, look.px(NAME - 18), bottom - top)
        words = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words)
        painter.setFont(look.font(13))
        said = f"{one.said}{' · due' if one.is_due else ''}"
        painter.drawText(
            QRectF(end + look.px(12), top, look.px(SAID - 12), bottom - top), Qt.AlignmentFlag.AlignVCenter, said
        )

    def _chances(self, painter: QPainter, left: float) -> None:
        """What was said across, how often it was right upwards; the straight line is what they should be."""
        look, side, top = self._look, self._square, self._look.px(HEAD)
        painter.setPen(QPen(look.colour("line"), 1))
        painter.drawRect(QRectF(left, top, side, side))
        painter.setPen(QPen(look.colour("quiet"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(left, top + side), QPointF(left + side, top))
        for one in self.shown.bands:
            x = left + side * one.said
            painter.setPen(QPen(look.colour("violet"), look.px(2)))
            painter.drawLine(QPointF(x, top + side * (1 - one.low)), QPointF(x, top + side * (1 - one.high)))
            is_true = one.low <= one.said <= one.high
            draw_mark(
                painter, look, QPointF(x, top + side * (1 - one.right)), "inside" if is_true else "high", look.px(6)
            )
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        head = QRectF(left, 0, side, look.px(18))
        painter.drawText(head, Qt.AlignmentFlag.AlignLeft, "right, of what you said")
        foot = QRectF(left, top + side + look.px(4), side, look.px(34))
        words = "0 %" + " " * 4 + "how sure you said you were" + " " * 4 + "100 %"
        painter.drawText(foot, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, words)
