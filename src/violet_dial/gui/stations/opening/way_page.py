"""Open, the way in: the cheapest way to a part, others beside it, and what earlier jobs teach."""

from dataclasses import replace

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import card, labelled, scrolled
from violet_dial.gui.widgets.typed_line import TypedLine
from violet_dial.gui.widgets.way_lanes import WayLanes
from violet_dial.job.document import Job
from violet_dial.services.lessons import Offer
from violet_dial.services.opening import (
    add_steps,
    note_shorter_way,
    parts_of,
    said_shorter_way,
    understand_shorter_way,
    ways_in,
)

NO_OFFER = Offer("", 0, (), (), ())


class WayPage(QWidget):
    """Type a part: the cheapest way to it is drawn, with alternatives. A shorter way found is noted here too."""

    act_asked = Signal(object)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._job: Job | None = None
        self._offer = NO_OFFER
        self.part = TypedLine("Part to reach", self._parts, self._understood)
        self.part.edit.setPlaceholderText("part to reach")
        self.lanes = WayLanes(look)
        self.learned = labelled("", "quiet", True)
        self.begin = QPushButton("Begin from it")
        self.shorter = TypedLine("A shorter way", lambda text: (), said_shorter_way)
        self.shorter.edit.setPlaceholderText("a shorter way: meter cell through front frame; 6 min")
        self._build()

    def _build(self) -> None:
        frame, inside = card("The way in")
        inside.addWidget(self.part)
        inside.addWidget(scrolled(self.lanes), 1)
        inside.addWidget(self.shorter)
        learned, told = card("Learned on this model")
        told.addWidget(scrolled(self.learned), 1)
        told.addWidget(self.begin)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame, 3)
        layout.addWidget(learned, 1)
        self.part.edit.textChanged.connect(self._show_ways)
        self.shorter.taken.connect(self._note)
        self.begin.clicked.connect(self.adopt)

    def show_job(self, job: Job) -> None:
        """Show the ways; without a part typed, the deepest one is shown."""
        before = self._job
        if not job.opening.steps:  # nothing is off yet: what an earlier one had is the best guess
            job = replace(job, opening=replace(job.opening, steps=self._offer.steps))
        self._job = job
        if before is None or before.job_id != job.job_id:
            self.part.clear()
        parts = parts_of(job)
        if not self.part.edit.text() and parts:
            self.part.edit.setText(parts[-1])
        self._show_ways()

    def show_offer(self, offer: Offer) -> None:
        """What earlier jobs on this model teach."""
        self._offer = offer
        lines = []
        if offer.steps:
            met = max(step.confirmed for step in offer.steps)
            jobs = "1 job" if offer.jobs == 1 else f"{offer.jobs} jobs"
            times = "once" if met == 1 else f"up to {met} times"
            lines.append(f"Strip-down of {offer.source}: {len(offer.steps)} steps, met {times} in {jobs}.")
        for way in offer.shorter_ways:
            through = f" through {', '.join(way.through)}" if way.through else ""
            lines.append(f"Shorter: {way.part}{through}, {way.minutes:g} min. {way.note}".rstrip())
        lines += [f"“{lesson}”" for lesson in offer.lessons]
        self.learned.setText("\n".join(lines) or "Nothing yet: this is the first of its model on this bench.")
        self.begin.setVisible(bool(offer.steps))
        self.begin.setText(f"Begin from {offer.source} as a plan  Ctrl+L")
        self._show_ways()

    def _parts(self, text: str) -> tuple[str, ...]:
        parts = parts_of(self._job) if self._job else ()
        return tuple(part for part in parts if text.lower() in part.lower() and text != part)[:8]

    def _understood(self, text: str) -> str:
        if self._job is None:
            return ""
        ways = ways_in(self._job, text, self._offer.shorter_ways)
        more = f", {len(ways) - 1} other" if len(ways) > 1 else ""
        return f"{ways[0].minutes:.3g} min over {len(ways[0].ways)} parts{more}"

    @Slot()
    def _show_ways(self) -> None:
        if self._job is None:
            return
        try:
            ways = ways_in(self._job, self.part.edit.text().strip(), self._offer.shorter_ways)
        except InvalidInput:
            ways = ()
        self.lanes.show_ways(ways)

    @Slot(str)
    def _note(self, text: str) -> None:
        self.shorter.clear()
        self.act_asked.emit(lambda job, at: note_shorter_way(job, understand_shorter_way(text), at))

    @Slot()
    def adopt(self) -> None:
        """Begin from what an earlier job took off, as a plan."""
        offer = self._offer
        if offer.steps:
            self.act_asked.emit(lambda job, at: add_steps(job, offer.steps, offer.source, at))

    def focus_first(self) -> None:
        self.part.edit.setFocus()
        self.part.edit.selectAll()
