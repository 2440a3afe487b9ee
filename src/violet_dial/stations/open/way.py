"""Open, the way in: the cheapest way to a part, others beside it, and what earlier jobs teach."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Slot
from PySide6.QtGui import QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from violet_dial.core.opening.way_in import WayIn
from violet_dial.job.document import Job
from violet_dial.kit.cards import card, fill, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import antialiased, pens
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services.lessons import Offer
from violet_dial.services.way_in import note_shorter_way, parts_of, said_shorter_way, understand_shorter_way, ways_in
from violet_dial.stations.open.acts import add_steps
from violet_dial.stations.open.state import deepest_part, way_shown, with_plan

NO_OFFER = Offer("", 0, (), (), ())


class WayPage(StationPage):
    """Type a part: the cheapest way to it is drawn, with alternatives. A shorter way found is noted here too."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._offer = NO_OFFER
        self.sought = TypedLine("Part to reach", self._parts, self._understood, lambda text: False)
        self.sought.edit.setPlaceholderText("part to reach")
        self.lanes = WayLanes(context.look)
        self.learned = labelled("", "quiet", True)
        self.begin_from = QPushButton()
        self.shorter = TypedLine("A shorter way", None, said_shorter_way, self._note)
        self.shorter.edit.setPlaceholderText("a shorter way: meter cell through front frame; 6 min")
        frame, inside = card("The way in")
        inside.addWidget(self.sought)
        inside.addWidget(scrolled(self.lanes), 1)
        inside.addWidget(self.shorter)
        learned, told = card("Learned on this model")
        told.addWidget(scrolled(self.learned), 1)
        told.addWidget(self.begin_from)
        both = QWidget()
        layout = QVBoxLayout(both)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame, 3)
        layout.addWidget(learned, 1)
        fill(self, scrolled(both))
        self.sought.edit.textChanged.connect(self._draw)
        self.begin_from.clicked.connect(self.adopt)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._offer = NO_OFFER
        self.sought.clear()
        self.shorter.clear()

    def show_job(self, job: Job) -> None:
        """Draw the ways and what earlier jobs teach; without a part typed, the deepest one is shown."""
        if self._job is None or (self._job.device, self._job.job_id) != (job.device, job.job_id):
            self._offer = self._context.records.lessons(job)
        self._job = job
        if not self.sought.edit.text():
            self.sought.edit.setText(deepest_part(job, self._offer))
        self._draw()

    @Slot()
    def _draw(self) -> None:
        if self._job is None:
            return
        one = way_shown(self._job, self._offer, self.sought.edit.text())
        self.lanes.show_ways(one.ways)
        self.learned.setText(one.learned)
        self.begin_from.setText(one.begin)
        self.begin_from.setVisible(bool(one.begin))

    def _parts(self, text: str) -> tuple[str, ...]:
        parts = parts_of(with_plan(self._job, self._offer)) if self._job else ()
        return tuple(part for part in parts if text.lower() in part.lower() and text != part)[:8]

    def _understood(self, text: str) -> str:
        if self._job is None:
            return ""
        ways = ways_in(with_plan(self._job, self._offer), text, self._offer.shorter_ways)
        more = f", {len(ways) - 1} other" if len(ways) > 1 else ""
        return f"{ways[0].minutes:.3g} min over {len(ways[0].ways)} parts{more}"

    def _note(self, text: str) -> bool:
        return self._context.perform(lambda job, at: note_shorter_way(job, understand_shorter_way(text), at))

    @Slot()
    def adopt(self) -> None:
        """Begin from what an earlier job took off, as a plan."""
        if self._job is None:
            return
        offer = self._context.records.lessons(self._job)
        if offer.steps and not self._job.opening.steps:
            self._context.perform(lambda job, at: add_steps(job, offer.steps, offer.source, at))

    def focus_first(self) -> None:
        self.sought.edit.setFocus()
        self.sought.edit.selectAll()


class WayLanes(QWidget):
    """One lane per way in, cheapest first; chips wrap onto the next line."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._ways: tuple[WayIn, ...] = ()
        self._chips: list[tuple[QRectF, str, bool, int]] = []
        self._heads: list[tuple[QRectF, str, int]] = []
        look.changed.connect(self._lay_out)

    def show_ways(self, ways: tuple[WayIn, ...]) -> None:
        self._ways = ways
        said = [f"{way.minutes:.0f} minutes: {', then '.join(one.part for one in way.ways)}" for way in ways]
        self.setAccessibleName(". ".join(said))
        self._lay_out()

    def sizeHint(self) -> QSize:
        return QSize(300, self._height)

    _height = 40

    def _lay_out(self) -> None:
        px, metrics = self._look.px, self.fontMetrics()
        self._chips, self._heads = [], []
        y, gap, tall = px(4), px(22), px(30)
        for lane, way in enumerate(self._ways):
            name = "cheapest" if lane == 0 else "or"
            proof = "" if way.proven else ", best found"
            self._heads.append((QRectF(0, y, self.width(), px(24)), f"{name}: {way.minutes:.3g} min{proof}", lane))
            y += px(26)
            x = 0.0
            for place, one in enumerate(way.ways):
                text = f"{one.part} · {one.minutes:.2g} min"
                width = metrics.horizontalAdvance(text) + px(24)
                if x and x + width > self.width():
                    x, y = 0.0, y + tall + px(8)
                self._chips.append((QRectF(x, y, width, tall), text, place == len(way.ways) - 1, lane))
                x += width + gap
            y += tall + px(16)
        self._height = y
        self.setMinimumHeight(y)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        look = self._look
        for box, text, lane in self._heads:
            painter.setFont(look.font(14, lane == 0))
            painter.setPen(look.colour("violet" if lane == 0 else "quiet"))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        painter.setFont(look.font(14))
        for box, text, last, lane in self._chips:
            pens(painter, look, "violet" if lane == 0 else "line", "soft" if last else "card", 2 if lane == 0 else 1)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 8, 8)
            painter.setPen(look.colour("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
            if not last:
                middle, right = box.center().y(), box.right()
                painter.setPen(QPen(look.colour("quiet"), 1.6))
                painter.drawLine(QPointF(right + 3, middle), QPointF(right + look.px(17), middle))
                painter.drawLine(QPointF(right + look.px(12), middle - 4), QPointF(right + look.px(17), middle))
                painter.drawLine(QPointF(right + look.px(12), middle + 4), QPointF(right + look.px(17), middle))
