"""The page Lamps: the map, one line to type, what lies behind."""

from collections.abc import Iterable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import measured_said
from violet_dial.job.document import Job
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import PageContext
from violet_dial.kit.picture import PictureView
from violet_dial.kit.said_page import line
from violet_dial.kit.theme.look import Look
from violet_dial.report.shapes import Shape
from violet_dial.services.listening import Taken
from violet_dial.stations.expose import lamps_acts as acts
from violet_dial.stations.expose.lamps_state import LampsShown, chosen_judged, lamps_shown
from violet_dial.stations.expose.pictures import LampMap, PictureFrame

LEAST = (340, 210)


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
        self.say(
            f"Map of aperture against light: {'; '.join(spot.words for spot in shown.spots) or 'nothing seen yet'}"
        )
        self.draw_anew()

    def shapes(self) -> Iterable[Shape]:
        return (
            ()
            if self.shown is None
            else LampMap(self.shown, PictureFrame(self.width(), self.height(), self.scale)).shapes()
        )


class LampsPage(QWidget):
    """Shows one frozen value; ``shown`` is the last."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.shown: LampsShown | None = None
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "", True)
        self.listens = labelled("", "small", True)
        self.stands, self.times = labelled("", "small", True), labelled("", "", True)
        self.view = LampsView(context.look)
        self.typed = line("Lamps at an aperture and a light", self._understood, self._take)
        self.typed.edit.setPlaceholderText("f/16 400 lx slow")
        frame, inside = card()
        inside.setSpacing(6)
        for label in (self.headline, self.reason):
            inside.addWidget(label)
        inside.addWidget(self.view, 1)
        for widget in (self.times, self.stands, self.listens, self.typed):
            inside.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(frame))

    def begin(self, job: Job) -> None:
        """Another job at the bench."""
        self.typed.clear()
        self.show_listens("")

    def show_job(self, job: Job) -> None:
        """Draw all of it."""
        self._job = job
        self.shown = shown = lamps_shown(job)
        times = chosen_judged(job)
        for label, text in (
            (self.headline, shown.headline), (self.reason, shown.reason), (self.stands, shown.stands), (self.times, times)
        ):  # fmt: skip
            label.setText(text)
            label.setVisible(bool(text))
        self.view.show_lamps(shown)

    def _understood(self, text: str) -> str:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        if self.meant_s is not None:
            return f"= meant is {measured_said(self.meant_s)}: F8 and fire, or type what is lit"
        return acts.understand(self._job, text).words

    def _take(self, text: str) -> bool:
        if self.meant_s is not None:
            self._context.say("Type what is lit after it (slow, over, none, both, flicker), or F8 and fire.")
            return False
        return self._context.perform(lambda job, at: acts.say_line(job, text, at))

    # the sound card

    def show_listens(self, words: str) -> None:
        """What the sound card does; nothing while it is not armed."""
        self.listens.setText(words)
        self.listens.setVisible(bool(words))

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

    def focus_first(self) -> None:
        """To the line."""
        self.typed.edit.setFocus(Qt.FocusReason.OtherFocusReason)
