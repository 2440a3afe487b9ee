"""The page Speeds: the ladder, the light of a firing, one line to type, and the sound card that takes firings by itself."""

from collections.abc import Callable

from PySide6.QtCore import Slot
from PySide6.QtGui import QResizeEvent

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import measured_said, time_said, weight_said
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.hearing import HeardPage
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services.job_shutter import speeds_of
from violet_dial.services.listening import Taken
from violet_dial.services.repairs import since_repair
from violet_dial.stations.expose import acts
from violet_dial.stations.expose.bench import ladder_of, patterns_of
from violet_dial.stations.expose.ladder_view import LadderView, LightView
from violet_dial.stations.expose.speeds_state import SpeedsShown, light_shown, speeds_shown
from violet_dial.stations.expose.sum import opened

WORKING = "What is wrong is being weighed…"
LEAST_FOR_LIGHT = 430  # of height, at usual text
KEYS = (
    "Type a speed and its time, or F8 and fire: the sound card takes each. Up and down on the ladder, Enter fires that "
    "speed next, Del leaves its last firing out; 1/30 to trace gives its time to Trace. "
    "Ctrl+I takes a recording in. F3 opens the arithmetic."
)
CABLE = "A sensor on a mains-earthed oscilloscope or computer: run the camera on its batteries."


class SpeedsPage(HeardPage):
    """Shows one frozen value."""

    says_beside = True
    opens = staticmethod(opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self._aimed: float | None = None
        self.elsewhere: Callable[[Taken], None] | None = None  # where a firing goes while another page is in view
        self.shown = SpeedsShown("", "", (), (), ())
        self.answer = PageAnswer(self)
        self.workers = (self.answer,)
        self.answer.came.connect(self._draw)
        self.answer.slow.connect(self._say_working)
        self.headline = labelled("", "verdict", True)
        self.stands = labelled("", "small", True)
        self.ladder, self.light = LadderView(context.look), LightView(context.look)
        self.typed = TypedLine("A firing, or a speed to fire next", self._offers, self._understood, self._take)
        self.typed.edit.setPlaceholderText("1/125 9.2 ms")
        self.area = scrolled(self.ladder)
        self.lay((self.headline, self.stands), self.area, (self.light, self.listens, self.typed), is_scrolled=False)
        self.ladder.chosen.connect(self._draw_light)
        self.ladder.resized.connect(self._bring)
        self.ladder.aimed.connect(self._aim_at)
        self.ladder.dropped.connect(self._drop)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._aimed = None
        self.ladder.begin()

    def show_job(self, job: Job) -> None:
        """Draw all of it."""
        self.take_job(job)
        if patterns_of.knows(job):
            self.answer.stop()
        else:
            self.answer.ask(job, lambda task: patterns_of(job))
        self._draw()

    def take_job(self, job: Job) -> None:
        """The job as it stands; nothing is drawn."""
        self._job = job
        self.hearing.show_job(job)
        if self._aimed is not None and self._aimed not in speeds_of(job):
            self._aimed = None

    @Slot()
    def _say_working(self) -> None:
        self.headline.setText(WORKING)

    @Slot()
    def _draw(self) -> None:
        """The ladder at once; what is wrong when it was weighed: for a blink, what was said before stays."""
        job = self._job
        if job is None:
            return
        self.shown = shown = speeds_shown(job, self._aimed)
        self.stands.setText(shown.stands)
        self.ladder.show_rungs(shown.rungs)
        self._draw_light()
        self.draw_listens()
        if not self.answer.busy:
            self.headline.setText(self.answer.failure or shown.headline)
            self.beside_changed.emit()

    @Slot()
    def _draw_light(self) -> None:
        """The light of the rung under the cursor."""
        rungs = self.ladder.rungs
        if self._job is not None and rungs:
            self.light.show_light(light_shown(since_repair(self._job).fired, rungs[self.ladder.place].marked_s))
        self._share()
        self._bring()

    @Slot()
    def _bring(self) -> None:
        """The rung under the cursor into view."""
        if self.ladder.rungs:
            box = self.ladder.row_box(self.ladder.place)
            self.area.ensureVisible(0, int(box.center().y()), 0, int(box.height() / 2) + 4)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._share()

    def _share(self) -> None:
        """The ladder has its room first: where there is too little for both, the light goes."""
        self.light.setVisible(bool(self.ladder.rungs) and self.height() > self._context.look.px(LEAST_FOR_LIGHT))

    @Slot()
    def draw_listens(self) -> None:
        aim = self._asked
        to = f" · to {time_said(aim)}" if self.hearing.armed and aim is not None else ""
        last = f"{self.heard_last} · " if self.heard_last and self.hearing.armed else ""
        self.listens.setText(f"{last}{self.hearing.words}{to}")

    @property
    def _asked(self) -> float | None:
        """The speed that the next firing goes to: what was aimed at, else what Next asks for."""
        if self._aimed is not None or self._job is None:
            return self._aimed
        following = ladder_of(self._job).next
        return following.marked_s if following is not None else None

    # acts

    @Slot(int)
    def _aim_at(self, place: int) -> None:
        """The next firing goes to a rung; once more lets Next choose again."""
        marked = self.ladder.rungs[place].marked_s
        self._aimed = None if self._aimed == marked else marked
        self._draw()

    @Slot(int)
    def _drop(self, place: int) -> None:
        marked = self.ladder.rungs[place].marked_s
        self._context.perform(lambda job, at: acts.drop_last(job, marked, at))

    def _offers(self, text: str) -> tuple[str, ...]:
        marks = tuple(f"{time_said(speed)} " for speed in speeds_of(self._known()))
        words = ("speeds 1 to 1/500", "works leaf", "works focal plane", "works electronic", "tolerance 1/3 fastest 1/2")
        return tuple(mark for mark in (*marks, *words) if mark.startswith(text.lower()) and mark.strip() != text.strip())

    def _understood(self, text: str) -> str:
        return acts.understand(self._known(), text).words

    def _take(self, text: str) -> bool:
        said = acts.understand(self._known(), text)
        if said.kind == "aim":
            self._aimed = said.marked_s if said.marked_s in speeds_of(self._known()) else None
            if self._aimed is None:
                self._context.say(f"{time_said(said.marked_s)} is not on this dial; say its speeds, or a firing with its time.")
                return False
            self._draw()
            return True
        return self._context.perform(lambda job, at: acts.say_line(job, text, at))

    # the sound card

    def fire(self, time_s: float | None = None) -> bool:
        """Simulated hands fire the shutter at the speed that is asked for, or so that it should be open for a time."""
        asked = self._asked if time_s is None else time_s
        if asked is None and self.ladder.rungs:
            asked = self.ladder.rungs[self.ladder.place].marked_s
        if asked is None or self._job is None:
            return False
        return self.fired(asked)

    @Slot(object)
    def heard(self, taken: Taken) -> None:
        asked = self._asked
        if self.elsewhere is not None:
            self.elsewhere(taken)
            return
        if taken.seen is None or self._job is None:
            self._context.instruments.hear(False)
            self._context.say(taken.fault)
            return
        try:
            marked = asked if asked is not None else acts.nearest_speed(self._job, taken.seen.firing.time_s)
        except InvalidInput as error:  # a hand meter, of which no speeds were said
            self._context.instruments.hear(False)
            self._context.say(str(error))
            return
        fired = acts.fired_of(taken.seen, marked, "sound card", taken.picture)
        kept = self._context.perform(acts.taking((fired,)))
        self._context.instruments.hear(kept)
        if kept:
            self.heard_last = f"{time_said(marked)}: {measured_said(fired.time_s)} taken"
            place = next((n for n, rung in enumerate(self.ladder.rungs) if rung.marked_s == marked), self.ladder.place)
            self.ladder.select(place)
            self.draw_listens()

    def by_hand(self) -> bool:
        return self.fire()

    # in the house

    @property
    def beside(self) -> SideSaid:
        shown, hides = self.shown, self._known().practising.hides
        rows = tuple((weight_said(pattern.weight), pattern.words) for pattern in shown.patterns)
        title = "What is wrong" if rows or hides else "What is wrong shows from three speeds on"
        return SideSaid(title, rows, "\n".join((HIDDEN, *shown.seen) if hides else shown.seen), CABLE, KEYS)

    def take_typed(self) -> None:
        self.toggle()

    @property
    def slot_missing(self) -> str:
        return "no reading is asked for here: F8 arms the sound card"

    def to_picture(self) -> None:
        self.ladder.setFocus()
