"""Practise: the exercise at work, its replay beside the best path, and what one knows by now."""

from datetime import datetime
from functools import partial

from PySide6.QtCore import Qt, QTimer, Slot

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.circuit.trade import access_to, switches_of
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.errors import VioletDialError
from violet_dial.core.practice.bench import Bench
from violet_dial.job.document import Job
from violet_dial.job.practising import Outcome
from violet_dial.kit.cards import labelled, say
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import OpenedSum, PagedStation, StationPage
from violet_dial.kit.rows import Rows
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import RowsPage
from violet_dial.kit.side_panel import SideSaid
from violet_dial.practise.acts import offers, understand
from violet_dial.practise.exercise import circuit_in, form_for, learn, prepared
from violet_dial.practise.forms import EXPECTED, form_names
from violet_dial.practise.outcome import Coach, Coached, day_of, keep_outcome, outcome_of
from violet_dial.practise.progress_state import Progress, progress_in, progress_shown
from violet_dial.practise.progress_view import ProgressView
from violet_dial.practise.replay import replay
from violet_dial.practise.replay_view import ReplayView
from violet_dial.practise.state import REPLAY, THINKING_S, bench_shown, opened, replay_shown

BENCH_KEYS = (
    "The bench gives the figure: clip+ to gnd volts · red wire ohms · red wire beeps · movement amps · look at movement · "
    "time · vreg swings · clock at clk. How it "
    "stands: S1 on · cells out · 1000 lx · bent. What you think: say red wire open 80 % · mend red wire open · give up. "
    "coach silent (a nod, next after a minute, everything)."
)
REPLAY_KEYS = "On the picture: left and right choose a step; Enter puts the stations where they stood then, Next leads back."
PROGRESS_WORDS = (
    "A skill is a kind of fault in a kind of device. What is known fades by half over its half-life, which grows each time "
    "it goes well and shrinks when it does not; below the broken line it is due. The square holds how sure you said you were "
    "against how often you were right: marks below the line say that you were surer than you had reason to be. Ctrl+E "
    "writes all of it as CSV."
)
TICK_MS = 1_000


class PractisedPage(RowsPage):
    """Tests, what is suspected and mended, a line at a time; what the coach says of them."""

    says_beside = True

    def __init__(self, context: PageContext) -> None:
        self.coached: Coached | None = None
        self.thought_s, self.thinking_s = 0.0, THINKING_S
        typed = self._line("A test, what you suspect, what you mend", understand, offers)
        shows = lambda job: bench_shown(job, self.coached)  # noqa: E731 - by the coach's newest word
        super().__init__(context, "clip+ to gnd volts", typed, ("What was done", ""), shows)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.coached = None

    def draw(self, job: Job) -> None:
        super().draw(job)
        self.typed.setVisible(job.practising.is_open)
        form = form_for(job)
        self.typed.edit.setPlaceholderText(form.tests[8] if form is not None else "clip+ to gnd volts")

    @property
    def next_words(self) -> str:
        """What Next would ask, once a minute was thought; empty before, and where it is not said."""
        job, coached = self._job, self.coached
        if job is None or coached is None or not coached.next_words:
            return ""
        if job.practising.coaching != "next after a minute" or self.thought_s < self.thinking_s:
            return ""
        return f"{coached.next_words}: worth {coached.next_bits:.1f} bit. {coached.why}"

    @property
    def beside(self) -> SideSaid:
        job = self._known()
        if not job.practising.is_open:
            return SideSaid("Replay", (), "The exercise is over: the replay is on the next page.", keys=REPLAY_KEYS)
        words, form, keys = self.next_words, form_for(job), BENCH_KEYS
        if form is not None:
            keys = f"{EXPECTED[form.name]} · coach silent (a nod, next after a minute, everything)"
        title = "What there is to touch" if form is None else "What there is to read"
        return SideSaid("What Next would ask" if words else title, () if words else _points(job), words, keys=keys)

    def focus_first(self) -> None:
        (self.typed.edit if self.typed.isVisibleTo(self) else self).setFocus(Qt.FocusReason.OtherFocusReason)


class ReplayPage(StationPage):
    """The steps on a picture, the chosen one in words."""

    says_beside = True
    beside = SideSaid("Replay", keys=REPLAY_KEYS)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "quiet", True)
        self.view, self.step = ReplayView(context.look), Rows(context.look, "The step")
        self.lay((self.headline, self.reason), self.view, (self.step,))
        self.view.chosen.connect(self._draw_step)
        self.view.entered.connect(self._enter)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.view.place = 0

    def draw(self, job: Job) -> None:
        shown = replay_shown(job)
        if shown.at >= 0:
            self.view.place = shown.at
        self.view.show_replay(shown)
        self.view.setVisible(bool(shown.steps))
        say((self.headline, shown.headline), (self.reason, shown.reason))
        self._draw_step(self.view.place)

    @Slot(int)
    def _draw_step(self, place: int) -> None:
        steps = self.view.shown.steps
        if not steps:
            self.step.show_rows(())
            return
        step = steps[min(place, len(steps) - 1)]
        rows = [
            (f"step {place + 1}", f"{step.words}"),
            ("brought", f"{step.bits or 'no test'}{f', {step.minutes}' if step.minutes else ''}"),
        ]
        if step.is_tested:
            rows += [("best there", step.best), ("because", step.why)]
        self.step.show_rows(tuple(rows))

    @Slot(int)
    def _enter(self, place: int) -> None:
        steps = self.view.shown.steps
        if 0 <= place < len(steps):
            self._context.perform(lambda job, at: replay(job, steps[place].place, at))

    def focus_first(self) -> None:
        self.view.setFocus()


class ProgressPage(StationPage):
    """What one knows by now."""

    says_beside = True
    beside = SideSaid("How it is reckoned", (), PROGRESS_WORDS)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.progress: Progress | None = None
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "quiet", True)
        self.view = ProgressView(context.look)
        self.lay((self.headline, self.reason), self.view, ())

    def draw(self, job: Job) -> None:
        shown = progress_shown(self.progress)
        self.view.show_progress(shown)
        say((self.headline, shown.headline), (self.reason, shown.reason))


class PractisePage(PagedStation):
    """Coach, outcome and progress are worked out beside."""

    def __init__(self, context: PageContext) -> None:
        self.bench, self.replay, self.progress = PractisedPage(context), ReplayPage(context), ProgressPage(context)
        super().__init__(context, (("Bench", self.bench), ("Replay", self.replay), ("Progress", self.progress)))
        self._coach = Coach()
        self.looking, self.working, self.counting, self.warming = (Runner(self) for _ in range(4))
        self._of_the_job = (self.looking, self.working, self.warming)
        self.warming.succeeded.connect(self._warmed)
        self._warm_for: tuple[str, int] = ("", 0)  # the device and how often it was mended
        self._counted_for: Outcome | None = None
        self.looking.succeeded.connect(self._coached)
        self.working.succeeded.connect(self._came_out)
        self.working.failed.connect(context.say)
        self.counting.succeeded.connect(self._counted)
        self._clock = QTimer(self, interval=TICK_MS)
        self._clock.timeout.connect(self._tick)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._clock.stop()
        for worker in self._of_the_job:
            worker.cancel()
        self._warm_for, self._counted_for = ("", 0), None

    def show_job(self, job: Job) -> None:
        """Draw the job; what is still to be worked out is begun."""
        before = self._job
        self._job = job
        if before is None or before.practising != job.practising or before.tracing != job.tracing:
            self.bench.thought_s = 0.0
            self._begin_work(job)
        self.draw(job)

    def _begin_work(self, job: Job) -> None:
        practising = job.practising
        stands = (practising.sealed, len(job.tracing.repairs))
        if practising.is_open and stands != self._warm_for:
            self._warm_for = stands
            self.warming.start(lambda task: prepared(job, task))
        if practising.is_open and practising.coaching != "silent":
            self._clock.start()
            self.looking.start(lambda task: self._coach.look(job, task))
        elif practising.is_one and practising.ended and practising.outcome is None:
            self._clock.stop()
            self.working.start(lambda task: (job.job_id, outcome_of(job, task)))
        if self.progress.progress is None or practising.outcome not in (None, self._counted_for):
            self._counted_for = practising.outcome
            path, today = self._context.records.workshop_path(), day_of(datetime.now().astimezone().isoformat())
            self.counting.start(partial(progress_in, path, today))

    @Slot()
    def _tick(self) -> None:
        before = self.bench.next_words
        self.bench.thought_s += TICK_MS / 1000
        if self.bench.next_words != before:
            self.draw_beside()

    # what was worked out

    @Slot(object)
    def _warmed(self, found: object) -> None:
        """Answers come at once from here on."""
        job = self._job
        if isinstance(found, Bench) and job is not None and job.practising.is_open:
            learn(job, found)

    @Slot(object)
    def _coached(self, found: Coached | None) -> None:
        job = self._job
        if found is not None and job is not None and found.job_id == job.job_id:
            self.bench.coached = found
            self.draw(job)

    @Slot(object)
    def _came_out(self, found: tuple[str, Outcome | None]) -> None:
        job, (job_id, outcome) = self._job, found
        if job is None or outcome is None or job_id != job.job_id:
            return
        if job.practising.outcome is None and job.practising.ended:
            self._context.perform(lambda job, at: keep_outcome(job, outcome))

    @Slot(object)
    def _counted(self, found: Progress) -> None:
        self.progress.progress = found
        if self._job is not None:
            self.draw(self._job)

    @property
    def settled(self) -> bool:
        return not (self.looking.busy or self.working.busy or self.counting.busy)

    def close_workers(self) -> None:
        self._clock.stop()
        for worker in (*self._of_the_job, self.counting):
            worker.close()

    # in the house

    def to_picture(self) -> None:
        self.pages.turn_to(REPLAY)

    def opened(self) -> OpenedSum | None:
        return opened(self._job, self.bench.coached, self.progress.progress) if self._job is not None else None

    @property
    def part(self) -> object:
        """The page in view, with the progress that is written from it."""
        return self.pages.place, self.progress.progress


def _points(job: Job) -> tuple[tuple[str, str], ...]:
    """The points there are with what they lie behind, the parts, the switches; for a device judged by readings how it fails."""
    form = form_for(job)
    if form is not None:
        return ("tests", f"{form.tests[0]} to {form.tests[-1]}"), ("how it fails", ", ".join(form_names(form)))
    try:
        circuit = circuit_in(job)
    except VioletDialError:
        return ()
    points: dict[str, list[str]] = {}
    for node in circuit.nodes:
        if node != GROUND and not node.endswith("#"):
            points.setdefault(access_to(circuit, node).behind or "lies open", []).append(node)
    rows = [(f"behind the {where}" if where != "lies open" else where, ", ".join(nodes)) for where, nodes in points.items()]
    parts = dict.fromkeys(short_words(circuit, part.name) for part in circuit.parts)
    rows.append(("parts", ", ".join(parts)))
    switches = [f"{name.upper()} {' | '.join(switch.positions)}" for name, switch in switches_of(circuit).items()]
    return (*rows, *((("switches", "; ".join(switches)),) if switches else ()))
