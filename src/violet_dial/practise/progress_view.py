"""The picture of progress: a lane for each skill, what is likely still at hand today and how it fades over the days ahead; beside
it chances said against how often they were right."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from violet_dial.core.practice.memory import DUE
from violet_dial.kit.picture import PaintedView, antialiased, draw_mark, pens
from violet_dial.kit.theme.look import Look
from violet_dial.practise.progress_state import AHEAD_DAYS, ProgressShown, SkillShown
from violet_dial.report.dial import MarkState

NAME, SAID, ROW, HEAD, SQUARE, GAP, FOOT = 206, 124, 34, 26, 170, 40, 26
LEFT, ROOM = 30, 200  # of the square; room for three days by name


class ProgressView(PaintedView):
    """Nothing to act on: what to practise is said above it."""

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.shown = ProgressShown("", "")

    def minimumSizeHint(self) -> QSize:
        look, rows = self._look, max(len(self.shown.skills), 4)
        below = look.px(SQUARE + GAP + FOOT) if self.shown.bands else 0
        return QSize(look.px(NAME + SAID + 110), look.px(HEAD) + rows * look.px(ROW - 6) + below)

    def show_progress(self, shown: ProgressShown) -> None:
        """Draw this."""
        grown = len(shown.skills) != len(self.shown.skills)
        self.shown = shown
        if grown:
            self.updateGeometry()
        self.setAccessibleName("Skills: " + ("; ".join(f"{skill.name} {skill.said}" for skill in shown.skills) or "none"))
        self.update()

    @property
    def _below(self) -> float:
        """Where the lanes end and the square of chances begins."""
        return self.height() - (self._look.px(SQUARE + GAP + FOOT) if self.shown.bands else 0)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        if not self.shown.skills:
            return
        self._heads(painter, self.width())
        for place, skill in enumerate(self.shown.skills):
            self._lane(painter, place, skill, self.width())
        if self.shown.bands:
            self._chances(painter, self._below + self._look.px(GAP))

    def _ends(self, right: float) -> tuple[float, float]:
        """Where the days begin and end."""
        look = self._look
        return look.px(NAME), right - look.px(SAID)

    def _heads(self, painter: QPainter, right: float) -> None:
        look, (left, end) = self._look, self._ends(right)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        days = (0, AHEAD_DAYS // 2, AHEAD_DAYS) if end - left > look.px(ROOM) else (0, AHEAD_DAYS)
        for day in days:
            x = left + (end - left) * day / AHEAD_DAYS
            words = "today" if day == 0 else f"in {day} days"
            painter.drawText(QRectF(x - look.px(40), 0, look.px(80), look.px(18)), Qt.AlignmentFlag.AlignHCenter, words)

    def _lane(self, painter: QPainter, place: int, one: SkillShown, right: float) -> None:
        look, (left, end) = self._look, self._ends(right)
        tall = min((self._below - look.px(HEAD)) / len(self.shown.skills), look.px(ROW * 1.6))
        top, bottom = look.px(HEAD) + place * tall + look.px(4), look.px(HEAD) + (place + 1) * tall - look.px(5)
        role = "watch" if one.is_due else "within"
        painter.setPen(QPen(look.colour("line"), 1))
        painter.drawLine(QPointF(left, bottom), QPointF(end, bottom))
        due = bottom - (bottom - top) * DUE
        painter.setPen(QPen(look.colour("line"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(left, due), QPointF(end, due))
        points = [
            QPointF(left + (end - left) * place / (len(one.curve) - 1), bottom - (bottom - top) * chance)
            for place, chance in enumerate(one.curve)
        ]
        pens(painter, look, "none", "soft")
        painter.drawPolygon([QPointF(left, bottom), *points, QPointF(end, bottom)])
        painter.setPen(QPen(look.colour(role), look.px(2)))
        painter.drawPolyline(points)
        draw_mark(painter, look, points[0], "high" if one.is_due else "inside", look.px(5))
        painter.setPen(look.colour("ink"))
        painter.setFont(look.font(14, one.is_due))
        box = QRectF(0, top, look.px(NAME - 18), bottom - top)
        words = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words)
        painter.setFont(look.font(13))
        painter.drawText(
            QRectF(end + look.px(12), top, look.px(SAID - 12), bottom - top), Qt.AlignmentFlag.AlignVCenter, one.said
        )

    def _chances(self, painter: QPainter, top: float) -> None:
        """What was said across, how often it was right upwards; the straight line is what they should be."""
        look, side, left = self._look, self._look.px(SQUARE), self._look.px(LEFT)
        pens(painter, look, "line", "none", 1)
        painter.drawRect(QRectF(left, top, side, side))
        painter.setPen(QPen(look.colour("quiet"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(left, top + side), QPointF(left + side, top))
        painter.setFont(look.font(13))
        for place, band in enumerate(self.shown.bands):
            x, is_true = left + side * band.said, band.low <= band.said <= band.high
            painter.setPen(QPen(look.colour("violet"), look.px(2)))
            painter.drawLine(QPointF(x, top + side * (1 - band.low)), QPointF(x, top + side * (1 - band.high)))
            mark: MarkState = "inside" if is_true else "high" if band.said > band.right else "low"
            draw_mark(painter, look, QPointF(x, top + side * (1 - band.right)), mark, look.px(6))
            line = top + look.px(14) + place * look.px(40)
            draw_mark(painter, look, QPointF(left + side + look.px(34), line), mark, look.px(5))
            painter.setPen(look.colour("ink"))
            begins = left + side + look.px(50)
            box = QRectF(begins, line - look.px(10), self.width() - begins, look.px(38))
            painter.drawText(box, Qt.TextFlag.TextWordWrap, band.words)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        over = QRectF(left, top - look.px(20), side + look.px(200), look.px(18))
        painter.drawText(over, Qt.AlignmentFlag.AlignLeft, "upwards: right, of what you said")
        foot = QRectF(left, top + side + look.px(4), side + look.px(200), look.px(18))
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, "how sure you said you were, 0 to 100 %")
