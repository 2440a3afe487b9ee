"""Expose: the ladder of speeds, the lamps of an automatic, and test shots of cameras whose cell sets the time."""

from PySide6.QtCore import Slot

from violet_dial.job.document import Job
from violet_dial.kit.context import PageContext
from violet_dial.kit.hearing import Hearing
from violet_dial.kit.page import PagedStation
from violet_dial.stations.expose.lamps_page import LampsPage
from violet_dial.stations.expose.shots_page import ShotsPage
from violet_dial.stations.expose.speeds_page import SpeedsPage
from violet_dial.stations.expose.state import LAMPS, SPEEDS, TRACES
from violet_dial.stations.expose.traces_page import TracesPage


class ExposePage(PagedStation):
    """The sound card of Speeds hears for Lamps too."""

    def __init__(self, context: PageContext) -> None:
        self.speeds, self.shots, self.traces = SpeedsPage(context), ShotsPage(context), TracesPage(context)
        self.lamps = LampsPage(context, self.speeds)
        super().__init__(
            context, (("Speeds", self.speeds), ("Lamps", self.lamps), ("Test shots", self.shots), ("Traces", self.traces))
        )

    def draw(self, job: Job) -> None:
        self.speeds.take_job(job)
        super().draw(job)

    @property
    def part(self) -> Hearing:
        """What holds the last live recording, for writing out."""
        return self.speeds.hearing

    @Slot(int)
    def _turned(self, place: int) -> None:
        self.speeds.elsewhere = self.lamps.heard if place == LAMPS else None
        super()._turned(place)

    def to_picture(self) -> None:
        if self.pages.place != TRACES:
            self.pages.turn_to(SPEEDS)
        self.here.to_picture()
