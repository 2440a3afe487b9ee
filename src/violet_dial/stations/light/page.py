"""Light: the dial, the strip of readings, the verdict, the sum behind the reading under the cursor, and its bar."""

from dataclasses import replace

from PySide6.QtCore import Slot

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_grouped, parse_number
from violet_dial.core.steady.samples import Capture, Function, Measured
from violet_dial.job.document import Job
from violet_dial.job.light import Run
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.ask import open_over
from violet_dial.kit.bar import BarState
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import PagedStation
from violet_dial.services import live
from violet_dial.services.light_judgement import judge_run
from violet_dial.services.next import NextAct
from violet_dial.stations.light.acts import take_reading
from violet_dial.stations.light.bar_state import ATTITUDE, DIRECTION, READING, REFERENCE, BarUnderstood, understand_bar
from violet_dial.stations.light.colour_page import ColourPage
from violet_dial.stations.light.dial_page import DialPage
from violet_dial.stations.light.eye_page import EyePage
from violet_dial.stations.light.setup_window import LightSetupWindow
from violet_dial.stations.light.state import next_of, reference_text

DIAL, _COLOUR, EYE = range(3)
WORKING = "The readings are being judged…"


class LightPage(PagedStation):
    """Readings are judged beside the window; only the current run takes some. The bar has the light and the needle as read."""

    sets_up = True
    looks_at: Function = "lux"

    def __init__(self, context: PageContext) -> None:
        self.front, self.colour, self.eye = DialPage(context), ColourPage(context), EyePage(context)
        super().__init__(context, (("Dial", self.front), ("Colour", self.colour), ("Eye", self.eye)))
        self._typed = BarUnderstood(BarState(()), None, None)  # what stands in the bar, read once
        self._aimed = ""  # the light that was put in for Next
        self._captured: tuple[str, Capture] | None = None  # a light put in by an instrument, with the text it was
        self._follows = False  # with the judgement, Next puts in another light: until then no reading is taken
        self.answer = PageAnswer(self)
        self.answer.came.connect(self._judged)
        self.answer.slow.connect(lambda: self.front.headline.setText(WORKING))
        self.front.setup.clicked.connect(self.set_up)
        self.front.run_chosen.connect(self._judge)
        self.front.strip.light_chosen.connect(self.aim_at)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._aimed, self._captured, self._follows = "", None, False
        self.answer.begin()
        for key, text in ((REFERENCE, ""), (READING, ""), (DIRECTION, "by itself"), (ATTITUDE, "not noted")):
            self._context.bar.put(key, text)

    def show_job(self, job: Job) -> None:
        """Show the job, once its readings are judged; a new run comes to the front by itself."""
        before, self._job = self._job, job
        if before is None or before.job_id != job.job_id or len(before.light.runs) != len(job.light.runs):
            self.front.run = -1
        elif before.light != job.light:
            self._follows = True
        self.front.take_job(job)
        self._judge()
        self.understand()

    @Slot()
    def _judge(self) -> None:
        """Have the run in view and the current one judged, beside the window where that is not known yet; then draw."""
        job = self._job
        if job is None:
            return
        runs = (job.light.current, self._run_in_view(job))
        if all(judge_run.knows(job, run) for run in runs):
            self.answer.stop()
        else:
            self.answer.ask((job, runs), lambda task: tuple(judge_run(job, run) for run in runs))
        if not self.answer.busy:
            self._judged()

    @Slot()
    def _judged(self) -> None:
        """All that follows from the judgement: the picture, and the light that is asked for now."""
        follows, self._follows = self._follows, False
        if self.answer.failure:
            self.front.headline.setText(self.answer.failure)
            return
        if follows:
            self._follow_on()
        self.pages.draw()

    def _run_in_view(self, job: Job) -> Run:
        runs = job.light.runs
        return runs[self.front.run if self.front.run < len(runs) else -1]

    def _follow_on(self) -> None:
        """After an act, or one taken back, the light in the bar is the one that is asked for now."""
        act = next_of(self._job, None) if self._job is not None else None
        if act is None or act.kind != "read":
            self._context.bar.put(DIRECTION, "by itself")
        if act is not None:
            self.follow(act)

    @property
    def part(self) -> Run:
        return self.front.shown_run

    # keys and acts

    def to_reference(self) -> None:
        """The keys to the reference light."""
        self._context.bar.focus_field(REFERENCE)

    def to_reading(self) -> None:
        """The keys to the needle read by eye."""
        self._context.bar.focus_field(READING)

    def to_picture(self) -> None:
        if self.here is not self.eye:
            self.pages.show_page(DIAL)
            self.front.dial.setFocus()
        else:
            self.eye.focus_first()

    @Slot()
    def set_up(self) -> None:
        if self._job is not None:
            window = LightSetupWindow(self, self._context.look, self._job.light.setup)
            window.accepted.connect(lambda: self._context.perform(window.act()))
            open_over(window)

    # the bar

    def _values(self) -> dict[str, str]:
        return {key: self._context.bar.value(key) for key in (REFERENCE, READING, DIRECTION, ATTITUDE)}

    @property
    def typed_ready(self) -> bool:
        return self._typed.state.ready or (self.pages.place == EYE and bool(self.eye.looking.needle))

    @property
    def settled(self) -> bool:
        return not self.answer.busy and super().settled

    def close_workers(self) -> None:
        self.answer.close()
        super().close_workers()

    def hands_changed(self, is_free: bool) -> None:
        """At the eye hands-free is a check that runs by itself."""
        if not is_free:
            self.eye.looking.stop_run()
        elif self.pages.place == EYE:
            self.eye.looking.begin_run()

    def _put_seen(self) -> Measured | None:
        """At the eye: light and needle into their fields, where nothing else was typed; the needle with its uncertainty."""
        bar, light, seen = self._context.bar, self._context.instruments.light(), self.eye.looking.measured
        if self.pages.place != EYE or seen is None or bar.value(READING):
            return None
        bar.put(READING, self.eye.looking.needle)
        if self.aimed_lx and light is not None and bar.value(REFERENCE) == self._aimed:
            self._put_light(light)
        return seen

    def understand(self) -> None:
        if self._job is None:
            return
        self._typed = understand_bar(self._job, self._values(), self._capture)
        self._context.bar.show_bar(self._typed.state)
        self.front.show_now(self._typed.indicated_ev100, not self.answer.busy)

    def follow(self, act: NextAct) -> None:
        """Put in the light Next asks for, unless the person typed another."""
        bar = self._context.bar
        if act.kind == "read" and bar.value(REFERENCE) in ("", self._aimed):
            self._aimed = act.reference
            bar.put(REFERENCE, act.reference)
            bar.put(DIRECTION, act.direction or "by itself")
            self.understand()
            self.changed.emit()

    @Slot(float)
    def aim_at(self, ev100: float) -> None:
        """Put in a chosen light, ready for its reading."""
        if self._job is None:
            return
        try:
            self._aimed = reference_text(self._job, ev100)
        except InvalidInput as error:
            self._context.say(str(error))
            return
        self._context.bar.put(REFERENCE, self._aimed)
        self._context.bar.put(DIRECTION, "by itself")
        self.understand()
        self.changed.emit()
        self.focus_first()

    def take_typed(self) -> None:
        """Take the reading; what cannot be understood is said and kept in its field."""
        if self._job is None:
            return
        if self._follows:
            self._context.say("A moment: which light is next is being worked out.")
            return
        seen = self._put_seen()
        typed = understand_bar(self._job, self._values(), self._capture)
        read = typed.read
        if read is None:
            if typed.wrong is not None:
                self._context.say(str(typed.wrong[1]))
                self._context.bar.focus_field(typed.wrong[0])
            return
        if seen is not None:
            read = replace(read, needle=seen, picture=self.eye.looking.picture)
        aimed, self._aimed = self._aimed, read.reference.typed  # with the reading taken, Next may put in another light
        if not self._context.perform(lambda job, at: take_reading(job, read, at)):
            self._aimed = aimed
            return
        self._captured = None
        self._context.bar.put(READING, "")
        self.understand()
        self.focus_first()

    # live instruments

    @property
    def aimed_lx(self) -> float:
        """The light asked for next, when it is set by a lux meter; 0 when it is not."""
        if self._job is None or self._job.light.setup.chain.source.kind != "lux meter" or not self._aimed:
            return 0.0
        try:
            return parse_number(self._aimed, "Reference")
        except InvalidInput:
            return 0.0

    @property
    def slot(self) -> live.Slot | None:
        return live.Slot("reference light", "lux", self.aimed_lx) if self.aimed_lx > 0 and self.eye.looking.run is None else None

    @property
    def slot_missing(self) -> str:
        return "read by itself" if self.eye.looking.run is not None else "no lux meter in the chain: F4"

    @property
    def awaits(self) -> str:
        return "light taken: type what the needle shows" if self._capture is not None else ""

    @property
    def _capture(self) -> Capture | None:
        """The instrument's light, as long as the field still says it."""
        if self._captured is None or self._captured[0] != self._context.bar.value(REFERENCE):
            return None
        return self._captured[1]

    def put_capture(self, capture: Capture) -> bool:
        """Put in the light an instrument measured; the needle is typed next."""
        self._put_light(capture)
        self.understand()
        self.focus_first()
        return True

    def _put_light(self, capture: Capture) -> None:
        text = format_grouped(capture.value, 0 if capture.value >= 1000 else 2).replace("\u00a0", " ")
        self._captured = (text, capture)
        self._context.bar.put(REFERENCE, text)

    def drop_capture(self) -> bool:
        """Take back a light an instrument put in, before the needle was read."""
        if self._capture is None:
            return False
        self._captured = None
        self._context.bar.put(REFERENCE, self._aimed)
        self.understand()
        return True
