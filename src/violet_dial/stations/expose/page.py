"""Expose: the ladder of speeds, the lamps of an automatic, and test shots of cameras whose cell sets the time."""

from functools import partial
from typing import Any

from PySide6.QtCore import Slot
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.exposure.said import weight_said
from violet_dial.core.records.circuit import Evidence
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.side_panel import SidePanel
from violet_dial.kit.sub_pages import SubPages
from violet_dial.services.next import NextAct
from violet_dial.services.station import FileIn, Section
from violet_dial.stations.expose.lamps_page import LampsPage
from violet_dial.stations.expose.shots_page import ShotsPage
from violet_dial.stations.expose.speeds_page import SpeedsPage
from violet_dial.stations.expose.state import LAMPS, SHOTS, SPEEDS, TRACES
from violet_dial.stations.expose.sum import lamps_opened, opened, shots_opened, traces_opened
from violet_dial.stations.expose.traces_page import TracesPage
from violet_dial.stations.expose.traces_state import EARTH

NAMES = ("Speeds", "Lamps", "Test shots", "Traces")
OPENED = (opened, lamps_opened, shots_opened, traces_opened)
SPEED_KEYS = (
    "Type a speed and its time, or F8 and fire: the sound card takes each. Up and down on the ladder, Enter fires that "
    "speed next, Del leaves its last firing out; 1/30 to trace gives its time to Trace. "
    "Ctrl+I takes a recording in. F3 opens the arithmetic."
)
CABLE = "A sensor on a mains-earthed oscilloscope or computer: run the camera on its batteries."


class ExposePage(StationPage):
    """Each page shows one frozen value; what its side panel says follows the page in view."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.speeds, self.lamps = SpeedsPage(context), LampsPage(context)
        self.shots, self.traces = ShotsPage(context), TracesPage(context)
        self._side = SidePanel(context.look)
        self._each = (self.speeds, self.lamps, self.shots, self.traces)
        self.pages = SubPages(
            tuple(zip(NAMES, self._each, strict=True)), tuple(partial(self._draw, one) for one in self._each)
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.pages.turned.connect(self._turned)
        self.speeds.shown_changed.connect(self._draw_side)
        self.shots.compared_changed.connect(self._draw_side)
        self.speeds.hearing.changed.connect(self._draw_listens)

    def begin(self, job: Job) -> None:
        self._job = None
        for page in self._each:
            page.begin(job)
        self.pages.begin()

    def show_job(self, job: Job) -> None:
        """Draw the job on the page in view."""
        self._job = job
        self.speeds.take_job(job)  # its sound card hears for the lamps too
        self.pages.draw()
        self._draw_side()

    def _draw(self, page: SpeedsPage | LampsPage | ShotsPage | TracesPage) -> None:
        if self._job is not None:
            page.show_job(self._job)

    @Slot()
    def _draw_listens(self) -> None:
        self.lamps.show_listens(self.speeds.hearing.words if self.speeds.hearing.armed else "")

    @Slot()
    def _draw_side(self) -> None:
        hides = self._job is not None and self._job.practising.hides
        if self.pages.place == SPEEDS:
            shown = self.speeds.shown
            rows = tuple((weight_said(pattern.weight), pattern.words) for pattern in shown.patterns)
            title = "What is wrong" if rows else "What is wrong shows from three speeds on"
            seen = (HIDDEN, *shown.seen) if hides else shown.seen
            self._side.show_panel("What is wrong" if hides else title, rows, "\n".join(seen), CABLE, SPEED_KEYS)
        elif self.pages.place == LAMPS:
            causes = self.lamps.shown.causes if self.lamps.shown is not None else ()
            title = "What lies behind" if causes or hides else "What lies behind shows with the first look"
            self._side.show_panel(title, causes, HIDDEN if hides else "", "", LAMP_KEYS)
        elif self.pages.place == TRACES:
            beside = self.traces.shown.beside
            title = "Beside each other" if beside else "A sister's trace of the same name is laid beside"
            self._side.show_panel(title, beside, "", EARTH, TRACE_KEYS)
        else:
            compared = "\n".join(self.shots.compared)
            title = "Two pictures" if compared else "How it is thought"
            self._side.show_panel(title, (), compared or SHOT_WORDS, "", SHOT_KEYS)

    @property
    def side(self) -> QWidget:
        return self._side

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        return None if self._job is None else OPENED[self.pages.place](self._job)

    @property
    def part(self) -> Any:
        """What holds the last live recording, for writing out."""
        return self.speeds.hearing

    @property
    def file_in(self) -> FileIn | None:
        return self.traces.captures.file_in if self.pages.place == TRACES else None

    def close_workers(self) -> None:
        self.speeds.hearing.disarm()
        self.speeds.answer.close()
        self.shots.runner.close()
        self.traces.runner.close()

    @property
    def settled(self) -> bool:
        return not (self.speeds.answer.busy or self.shots.runner.busy or self.traces.runner.busy)

    def turn_view(self) -> None:
        """On the test shots: two pictures beside each other."""
        if self.pages.place == SHOTS:
            self.shots.compare()

    # pages and keys

    @Slot(int)
    def _turned(self, place: int) -> None:
        self.speeds.elsewhere = self.lamps.heard if place == LAMPS else None
        self._draw_side()
        self.focus_first()
        self.changed.emit()

    def focus_first(self) -> None:
        """To the line of the page in view."""
        self._each[self.pages.place].focus_first()

    def to_picture(self) -> None:
        if self.pages.place == TRACES:
            self.traces.view.setFocus()
            return
        self.pages.turn_to(SPEEDS)
        self.speeds.ladder.setFocus()

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)
        self.focus_first()

    # the sound card: F8 arms it, simulated hands fire

    @property
    def typed_ready(self) -> bool:
        return self.isVisible() and self.pages.place != SHOTS  # only where it is in view: nothing lies typed here

    def take_typed(self) -> None:
        if self.pages.place in (SPEEDS, LAMPS):
            self.speeds.toggle()
        elif self.pages.place == TRACES:
            self.traces.fetch()

    @property
    def asks(self) -> Evidence | None:
        return self.traces.asks if self.pages.place == TRACES else None

    @property
    def slot_missing(self) -> str:
        if self.pages.place == TRACES:
            return "F8 takes the trace of the oscilloscope"
        return (
            "no reading is asked for here: F8 arms the sound card"
            if self.pages.place == SPEEDS
            else "no reading is asked for here"
        )

    def hands_changed(self, is_free: bool) -> None:
        if self.pages.place == SPEEDS and is_free != self.speeds.hearing.armed:
            self.speeds.toggle()

    def by_hand(self) -> bool:
        if self.pages.place == LAMPS and self.lamps.meant_s is not None:
            return self.speeds.fire(self.lamps.meant_s)
        return self.pages.place == SPEEDS and self.speeds.fire()


SHOT_WORDS = (
    "Where the middle setting lies, and how many stops a number of the wheel and a mark of the slider are, is not known at "
    "first. Every frame narrows all of it. The next one is where the surest end is expected soonest, not always where the "
    "best guess is. A shot indoors without flash may have run into the longest time: it counts as at least that dark."
)
SHOT_KEYS = (
    "Type wheel, slider and stops: 5 0 -1.5 is too dark by one and a half. right is 0. film 6 says how many are left. Ctrl+R "
    "lays two pictures of the same scene over each other and says by how many stops they differ; card 0.4 0.4 0.2 0.2 says "
    "where an 18 % card is in both."
)
LAMP_KEYS = (
    "Type what is lit: f/16 400 lx slow (or over, none, both, flicker), or the time it chose: f/8 400 lx 1/60. f/8 400 lx, "
    "then F8 and fire, takes it by the sound card. What it is meant to do: iso 400, slow from 1/30, shortest 1/500, longest "
    "8 s, apertures 2.8 5.6 16."
)
TRACE_KEYS = (
    "Ctrl+I takes a capture; vreg to gnd and F8 take the trace of an oscilloscope (scope ADDRESS says which). 1 is vreg to "
    "gnd names it as Trace knows the points; 1 to trace gives it to Trace as evidence; 1 sister marks it as a working unit's; "
    "drop 1 leaves it out. On the traces (F5): + and − zoom, arrows move, 0 shows all."
)
