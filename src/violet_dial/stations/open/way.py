"""Open, the way in: the cheapest way to a part, others beside it, and what earlier jobs teach."""

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from violet_dial.job.document import Job
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import House
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services.lessons import Offer
from violet_dial.services.shorter_way import note_shorter_way, said_shorter_way, understand_shorter_way
from violet_dial.services.way_in import parts_of, ways_in
from violet_dial.stations.open.acts import add_steps
from violet_dial.stations.open.state import deepest_part, way_shown, with_plan
from violet_dial.stations.open.way_lanes import WayLanes

NO_OFFER = Offer("", 0, (), (), ())


class WayPage(QWidget):
    """Type a part: the cheapest way to it is drawn, with alternatives. A shorter way found is noted here too."""

    def __init__(self, house: House) -> None:
        super().__init__()
        self._house = house
        self._job: Job | None = None
        self._offer = NO_OFFER
        self.part = TypedLine("Part to reach", self._parts, self._understood, lambda text: False)
        self.part.edit.setPlaceholderText("part to reach")
        self.lanes = WayLanes(house.look)
        self.learned = labelled("", "quiet", True)
        self.begin_from = QPushButton()
        self.shorter = TypedLine("A shorter way", lambda text: (), said_shorter_way, self._note)
        self.shorter.edit.setPlaceholderText("a shorter way: meter cell through front frame; 6 min")
        frame, inside = card("The way in")
        inside.addWidget(self.part)
        inside.addWidget(scrolled(self.lanes), 1)
        inside.addWidget(self.shorter)
        learned, told = card("Learned on this model")
        told.addWidget(scrolled(self.learned), 1)
        told.addWidget(self.begin_from)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame, 3)
        layout.addWidget(learned, 1)
        self.part.edit.textChanged.connect(self._draw)
        self.begin_from.clicked.connect(self.adopt)

    def begin(self) -> None:
        """Another job: no part typed, no offer of the last one."""
        self._job, self._offer = None, NO_OFFER
        self.part.clear()
        self.shorter.clear()

    def show_job(self, job: Job) -> None:
        """Draw the ways and what earlier jobs teach; without a part typed, the deepest one is shown."""
        if self._job is None or (self._job.device, self._job.job_id) != (job.device, job.job_id):
            self._offer = self._house.lessons(job)
        self._job = job
        if not self.part.edit.text():
            self.part.edit.setText(deepest_part(job, self._offer))
        self._draw()

    @Slot()
    def _draw(self) -> None:
        if self._job is None:
            return
        one = way_shown(self._job, self._offer, self.part.edit.text())
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
        return self._house.perform(lambda job, at: note_shorter_way(job, understand_shorter_way(text), at))

    @Slot()
    def adopt(self) -> None:
        """Begin from what an earlier job took off, as a plan."""
        if self._job is None:
            return
        offer = self._house.lessons(self._job)
        if offer.steps and not self._job.opening.steps:
            self._house.perform(lambda job, at: add_steps(job, offer.steps, offer.source, at))

    def focus_first(self) -> None:
        self.part.edit.setFocus()
        self.part.edit.selectAll()
