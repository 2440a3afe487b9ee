"""The page Lamps: the map, one line to type, what lies behind."""

from collections.abc import Iterable

from PySide6.QtCore import Slot

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import measured_said
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.kit.cards import labelled, say
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import PictureView
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import line
from violet_dial.report.shapes import Shape
from violet_dial.services.listening import Taken
from violet_dial.stations.expose import lamps_acts as acts
from violet_dial.stations.expose.lamps_state import LampsShown, chosen_judged, lamps_shown
from violet_dial.stations.expose.pictures import LampMap, PictureFrame
from violet_dial.stations.expose.speeds_page import SpeedsPage
from violet_dial.stations.expose.sum import lamps_opened

LEAST = (340, 210)
KEYS = (
    "Type what is lit: f/16 400 lx slow (or over, none, both, flicker), or the time it chose: f/8 400 lx 1/60. f/8 400 lx, "
    "then F8 and fire, takes it by the sound card. What it is meant to do: iso 400, slow from 1/30, shortest 1/500, longest "
    "8 s, apertures 2.8 5.6 16."
)


class LampsView(PictureView):
    """Only drawn; what it says in words is its name."""

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.shown: LampsShown | None = None

    def least(self) -> tuple[float, float]:
        return LEAST

    def show_lamps(self, shown: LampsShown) -> None:
        """Draw these."""
        self.shown = shown
        self.say(f"Map of aperture against light: {'; '.join(spot.words for spot in shown.spots) or 'nothing seen yet'}")
        self.draw_anew()

    def shapes(self) -> Iterable[Shape]:
        return () if self.shown is None else LampMap(self.shown, PictureFrame(self.width(), self.height(), self.scale)).shapes()


class LampsPage(StationPage):
    """Shows one frozen value; ``shown`` is the last. ``speeds`` has the sound card."""

    says_beside = True
    opens = staticmethod(lamps_opened)

    def __init__(self, context: PageContext, speeds: SpeedsPage) -> None:
        super().__init__(context)
        self._speeds = speeds
        self.shown: LampsShown | None = None
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.listens = labelled("", "small", True)
        self.stands, self.times = labelled("", "small", True), labelled("", "", True)
        self.view = LampsView(context.look)
        self.typed = line("Lamps at an aperture and a light", self._understood, self._take)
        self.typed.edit.setPlaceholderText("f/16 400 lx slow")
        self.lay((self.headline, self.reason), self.view, (self.times, self.stands, self.listens, self.typed))
        speeds.hearing.changed.connect(self._draw_listens)

    def begin(self, job: Job) -> None:
        super().begin(job)
        say((self.listens, ""))

    def draw(self, job: Job) -> None:
        self.shown = shown = lamps_shown(job)
        say(
            (self.headline, shown.headline), (self.reason, shown.reason), (self.stands, shown.stands),
            (self.times, chosen_judged(job)),
        )  # fmt: skip
        self.view.show_lamps(shown)

    def _understood(self, text: str) -> str:
        if self.meant_s is not None:
            return f"= meant is {measured_said(self.meant_s)}: F8 and fire, or type what is lit"
        return acts.understand(self._known(), text).words

    def _take(self, text: str) -> bool:
        if self.meant_s is not None:
            self._context.say("Type what is lit after it (slow, over, none, both, flicker), or F8 and fire.")
            return False
        return self._context.perform(lambda job, at: acts.say_line(job, text, at))

    # the sound card

    @Slot()
    def _draw_listens(self) -> None:
        """What the sound card does; nothing while it is not armed."""
        hearing = self._speeds.hearing
        say((self.listens, hearing.words if hearing.armed else ""))

    def heard(self, taken: Taken) -> None:
        """A firing heard while this page is in view: the time that the automatic chose at what is typed."""
        if taken.seen is None:
            self._context.say(taken.fault)
            return
        text, firing = self.typed.edit.text(), taken.seen.firing
        kept = self._context.perform(lambda job, at: acts.take_heard(job, text, firing.time_s, firing.u_s, at))
        self._context.instruments.hear(kept)

    @property
    def meant_s(self) -> float | None:
        """The time that is meant at what is typed; None where no aperture and light are."""
        try:
            said = acts.heard(self._job, self.typed.edit.text(), 1.0, 0.0) if self._job is not None else None
        except InvalidInput:
            return None
        return None if said is None else float(acts.law_of(said.law).time_s(said.auto[-1].f_number, said.auto[-1].lux))

    def take_typed(self) -> None:
        self._speeds.toggle()

    @property
    def typed_ready(self) -> bool:
        return self.isVisible()

    def by_hand(self) -> bool:
        return self.meant_s is not None and self._speeds.fire(self.meant_s)

    # in the house

    @property
    def beside(self) -> SideSaid:
        hides, causes = self._known().practising.hides, self.shown.causes if self.shown is not None else ()
        title = "What lies behind" if causes or hides else "What lies behind shows with the first look"
        return SideSaid(title, causes, HIDDEN if hides else "", keys=KEYS)
