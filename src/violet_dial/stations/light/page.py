"""Light: the dial, the strip of readings, the verdict, the sum behind the reading under the cursor, and its bar."""

from dataclasses import replace

from PySide6.QtCore import Qt, Slot
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_grouped, parse_number
from violet_dial.core.steady.samples import Capture, Function, Measured
from violet_dial.job.document import Job
from violet_dial.job.light import Run
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.ask import open_over
from violet_dial.kit.bar import BarState
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.form import combo
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.sub_pages import SubPages
from violet_dial.report.dial import needle_at
from violet_dial.services import live
from violet_dial.services.light_judgement import judge_run
from violet_dial.services.next import NextAct
from violet_dial.services.station import FileIn, Section
from violet_dial.stations.light.acts import strike_reading, take_reading
from violet_dial.stations.light.bar_state import ATTITUDE, DIRECTION, READING, REFERENCE, BarUnderstood, understand_bar
from violet_dial.stations.light.colour_acts import FILE_IN
from violet_dial.stations.light.colour_page import ColourPage
from violet_dial.stations.light.colour_sum import colour_opened
from violet_dial.stations.light.dial_view import DialView, ReadingStrip
from violet_dial.stations.light.eye_page import EyePage
from violet_dial.stations.light.setup_window import LightSetupWindow
from violet_dial.stations.light.state import SUM_TITLE, LightShown, next_of, reference_text, shown
from violet_dial.stations.light.sum import explain, eye_opened

DIAL, COLOUR, EYE = range(3)
WORKING = "The readings are being judged…"
ROOMY_PERCENT = 125  # larger text leaves the head no room for how the meter is checked; F4 shows it


class LightPage(StationPage):
    """Shows one run of the job; only the current run takes readings. The bar has the light and the needle read by eye."""

    sets_up = True

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context, self._look = context, context.look
        self._job: Job | None = None
        self._run = -1
        self._now: float | None = None
        self._typed = BarUnderstood(BarState(()), None, None)  # what stands in the bar, read once
        self._aimed = ""  # the light that was put in for Next
        self._captured: tuple[str, Capture] | None = None  # a light put in by an instrument, with the text it was
        self._follows = False  # with the judgement, Next puts in another light: until then no reading is taken
        self.answer = PageAnswer(self)
        self.answer.came.connect(self._judged)
        self.answer.slow.connect(self._say_working)
        self.shown: LightShown | None = None
        self.headline = labelled("", "verdict", True)
        self.reason = labelled("", "quiet", True)
        self.flags = labelled("", "small", True)
        self.setup = QPushButton()
        self.setup.setProperty("role", "link")
        self.runs = combo("Run shown", ())
        self.runs.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.runs.setMinimumWidth(150)
        self.dial = DialView(self._look)
        self.strip = ReadingStrip(self._look)
        self.sum = labelled("", "small", True)
        self._build()

    def _build(self) -> None:
        frame, inside = card()
        inside.setSpacing(3)
        top = QHBoxLayout()
        top.addWidget(labelled("Against reference light", "small"))
        top.addWidget(self.runs)
        top.addStretch(1)
        top.addWidget(self.setup)
        inside.addLayout(top)
        for item in (self.headline, self.reason, self.flags):
            inside.addWidget(item)
        inside.addWidget(self.dial, 1)
        inside.addWidget(self.strip)
        inside.addWidget(self.sum)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.colour = ColourPage(self._context)
        self.eye = EyePage(self._context)
        self.eye.looking.turned.connect(self.changed)
        pages = (("Dial", scrolled(frame)), ("Colour", self.colour), ("Eye", self.eye))
        self.pages = SubPages(pages, (self._draw, self._draw_colour, self._draw_eye))
        layout.addWidget(self.pages)
        self.pages.turned.connect(self._turned)
        self._look.changed.connect(self._fit)
        self.setup.clicked.connect(self.set_up)
        self.runs.activated.connect(self._choose_run)
        self.dial.selected.connect(self._to_reading)
        self.strip.chosen.connect(self.dial.select)
        self.strip.light_chosen.connect(self.aim_at)

    # what is shown

    def begin(self, job: Job) -> None:
        self._run, self._now, self._aimed, self._captured, self._follows = -1, None, "", None, False
        self.answer.begin()
        self.dial.begin()
        self.strip.begin()
        self.colour.begin()
        self.eye.begin()
        self.pages.begin()
        for key, text in ((REFERENCE, ""), (READING, ""), (DIRECTION, "by itself"), (ATTITUDE, "not noted")):
            self._context.bar.put(key, text)

    def show_job(self, job: Job) -> None:
        """Show the job, once its readings are judged; a new run comes to the front by itself."""
        before, self._job = self._job, job
        if before is None or before.job_id != job.job_id or len(before.light.runs) != len(job.light.runs):
            self._run = -1
        elif before.light != job.light:
            self._follows = True
        self._judge()
        self.understand()

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
            self.headline.setText(self.answer.failure)
            return
        if follows:
            self._follow_on()
        self.pages.draw()

    @Slot()
    def _say_working(self) -> None:
        self.headline.setText(WORKING)

    def _run_in_view(self, job: Job) -> Run:
        runs = job.light.runs
        return runs[self._run if self._run < len(runs) else -1]

    def _draw_colour(self) -> None:
        if self._job is not None:
            self.colour.show_job(self._job)

    def _draw_eye(self) -> None:
        if self._job is not None:
            self.eye.show_job(self._job)

    def _follow_on(self) -> None:
        """After an act, or one taken back, the light in the bar is the one that is asked for now."""
        act = next_of(self._job, None) if self._job is not None else None
        if act is None or act.kind != "read":
            self._context.bar.put(DIRECTION, "by itself")
        if act is not None:
            self.follow(act)

    def _draw(self) -> None:
        """Draw all that the page shows."""
        if self._job is None:
            return
        one = self.shown = shown(self._job, self._run, self._now)
        self.headline.setText(one.headline)
        self.reason.setText(one.reason)
        self.flags.setText(one.flags)
        if [self.runs.itemText(at) for at in range(self.runs.count())] != list(one.runs):
            self.runs.clear()
            self.runs.addItems(one.runs)
        self.runs.setCurrentIndex(one.run)
        self.runs.setVisible(len(one.runs) > 1)
        self.dial.show_dial(one.dial, one.readings)
        self.strip.show_slots(one.slots, self.dial.cursor_index)
        self.sum.setText(one.sum_of(self.dial.cursor_index))
        self._fit()

    @Slot()
    def _fit(self) -> None:
        """Large text leaves the dial its room: the small lines go first (F3 has them), then the page scrolls."""
        roomy = self.height() > self._look.px(500)
        said = f"{self.shown.setup}   " if self.shown and self._look.percent <= ROOMY_PERCENT else ""
        self.setup.setText(f"{said}Set-up  F4")
        self.flags.setVisible(roomy)
        self.sum.setVisible(roomy)
        self.dial.setMinimumHeight(self._look.px(150 if roomy else 124))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _show_now(self, ev100: float | None) -> None:
        """Where the meter shows now, as typed: the needle of the dial alone is drawn again."""
        if self._job is None or self.shown is None or ev100 == self._now:
            return
        self._now = ev100
        if self.answer.busy:
            return
        if self.shown.run != len(self.shown.runs) - 1:
            return
        needle = needle_at(judge_run(self._job, self.shown_run).assessment, ev100)
        self.shown = replace(self.shown, dial=replace(self.shown.dial, needle=needle))
        self.dial.show_dial(self.shown.dial, self.shown.readings)

    @property
    def shown_run(self) -> Run:
        """The run on the page."""
        runs = self._job.light.runs if self._job else (Run(),)
        return runs[self.shown.run if self.shown and self.shown.run < len(runs) else -1]

    @property
    def part(self) -> Run:
        return self.shown_run

    @Slot(int)
    def _to_reading(self, index: int) -> None:
        self.strip.set_cursor(index)
        self.sum.setText(self.shown.sum_of(index) if self.shown else "")

    @Slot(int)
    def _choose_run(self, index: int) -> None:
        self._run = index
        self._judge()

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        if self._job is None:
            return None
        run = self.shown_run
        if self.pages.place != DIAL:
            return colour_opened(self._job) if self.pages.place == COLOUR else eye_opened(self._job)
        return SUM_TITLE, explain(self._job, run, judge_run(self._job, run), self.dial.cursor_index)

    # keys and acts

    @Slot(int)
    def _turned(self, place: int) -> None:
        self.focus_first()
        self.changed.emit()

    @property
    def file_in(self) -> FileIn | None:
        return FILE_IN if self.pages.place == COLOUR else None

    def focus_first(self) -> None:
        if self.pages.place == DIAL:
            self._context.bar.focus_field(READING)
        else:
            (self.colour if self.pages.place == COLOUR else self.eye).focus_first()

    def to_reference(self) -> None:
        """The keys to the reference light."""
        self._context.bar.focus_field(REFERENCE)

    def to_reading(self) -> None:
        """The keys to the needle read by eye."""
        self._context.bar.focus_field(READING)

    def to_picture(self) -> None:
        if self.pages.place == EYE:
            self.eye.focus_first()
            return
        self.pages.show_page(DIAL)
        self.dial.setFocus()

    @Slot()
    def set_up(self) -> None:
        if self._job is not None:
            window = LightSetupWindow(self, self._look, self._job.light.setup)
            window.accepted.connect(lambda: self._context.perform(window.act()))
            open_over(window)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        index = self.dial.cursor_index
        last = self.shown is not None and self.shown.run == len(self.shown.runs) - 1
        if event.key() == Qt.Key.Key_Delete and last and index >= 0:
            self._context.perform(lambda job, at: strike_reading(job, index, at))
            return
        super().keyPressEvent(event)

    # the bar

    def _values(self) -> dict[str, str]:
        return {key: self._context.bar.value(key) for key in (REFERENCE, READING, DIRECTION, ATTITUDE)}

    @property
    def typed_ready(self) -> bool:
        return self._typed.state.ready or (self.pages.place == EYE and bool(self.eye.looking.needle))

    @property
    def settled(self) -> bool:
        return not self.answer.busy and self.eye.looking.settled

    def close_workers(self) -> None:
        self.answer.close()
        self.eye.looking.close_workers()

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
        self._show_now(self._typed.indicated_ev100)

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
    def looks_at(self) -> Function:
        return "lux"

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
        return (
            live.Slot("reference light", "lux", self.aimed_lx)
            if self.aimed_lx > 0 and self.eye.looking.run is None
            else None
        )

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
