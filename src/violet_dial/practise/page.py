"""Practise: the exercise at work, its replay beside the best path, and what one knows by now."""

from datetime import datetime
from functools import partial

from PySide6.QtCore import QTimer, Slot
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.circuit.trade import access_to, switches_of
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.practice.bench import Bench
from violet_dial.job.document import Job
from violet_dial.job.practising import Outcome
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.runner import Runner
from violet_dial.kit.said_page import Rows, RowsPage
from violet_dial.kit.side_panel import SidePanel
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.typed_line import TypedLine
from violet_dial.practise.acts import offers, understand
from violet_dial.practise.coach import Coach, Coached
from violet_dial.practise.exercise import circuit_in, form_for, learn, prepared
from violet_dial.practise.forms import EXPECTED, form_names
from violet_dial.practise.outcome import day_of, keep_outcome, outcome_of
from violet_dial.practise.progress import Progress, progress_in
from violet_dial.practise.progress_state import progress_shown
from violet_dial.practise.progress_view import ProgressView
from violet_dial.practise.replay import replay
from violet_dial.practise.replay_view import ReplayView
from violet_dial.practise.state import BENCH, PROGRESS, REPLAY, THINKING_S, bench_shown, replay_shown
from violet_dial.practise.sum import opened
from violet_dial.services.next import NextAct
from violet_dial.services.station import Section

NAMES = ("Bench", "Replay", "Progress")
BENCH_KEYS = (
    "The bench gives the figure: clip+ to gnd volts · red wire ohms · red wire beeps · movement amps · look at movement · "
    "time · vreg swings · clock at clk. How it "
    "stands: S1 on · cells out · 1000 lx · bent. What you think: say red wire open 80 % · mend red wire open · give up. "
    "coach silent (a nod, next after a minute, everything)."
)
REPLAY_KEYS = (
    "On the picture: left and right choose a step; Enter puts the stations where they stood then, Next leads back."
)
PROGRESS_WORDS = (
    "A skill is a kind of fault in a kind of device. What is known fades by half over its half-life, which grows each time "
    "it goes well and shrinks when it does not; below the broken line it is due. The square holds how sure you said you were "
    "against how often you were right: marks below the line say that you were surer than you had reason to be. Ctrl+E "
    "writes all of it as CSV."
)
TICK_MS = 1_000


class PractisePage(StationPage):
    """Each page shows one frozen value; coach, outcome and progress are worked out beside."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        self.coached: Coached | None = None
        self.progress: Progress | None = None
        self._coach, self._thought_s, self.thinking_s = Coach(), 0.0, THINKING_S
        look = context.look
        typed = TypedLine("A test, what you suspect, what you mend", self._offers, self._understood, self._take)
        self.bench = RowsPage(look, "clip+ to gnd volts", typed, ("What was done", ""))
        self.replay_view, self.progress_view = ReplayView(look), ProgressView(look)
        self.step = Rows(look, "The step")
        self._replay, self._replay_words = _framed(self.replay_view, self.step)
        self._progress, self._progress_words = _framed(self.progress_view)
        self._side = SidePanel(look)
        self.pages = SubPages(
            tuple(zip(NAMES, (self.bench, self._replay, self._progress), strict=True)),
            (self._draw_bench, self._draw_replay, self._draw_progress),
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.pages.turned.connect(self._turned)
        self.replay_view.chosen.connect(self._draw_step)
        self.replay_view.entered.connect(self._enter)
        self.looking, self.working, self.counting = Runner(self), Runner(self), Runner(self)
        self.warming = Runner(self)
        self.warming.succeeded.connect(self._warmed)
        self._warm_for: tuple[str, int] = ("", 0)  # the device and how often it was mended
        self._counted_for: Outcome | None = None
        self.looking.succeeded.connect(self._coached)
        self.working.succeeded.connect(self._came_out)
        self.working.failed.connect(context.say)
        self.counting.succeeded.connect(self._counted)
        self._clock = QTimer(self, interval=TICK_MS)
        self._clock.timeout.connect(self._tick)

    # what is shown

    def begin(self, job: Job) -> None:
        self._job = self.coached = None
        self._clock.stop()
        self.looking.cancel()
        self.working.cancel()
        self.warming.cancel()
        self._warm_for, self._counted_for = ("", 0), None
        self.bench.typed.clear()
        self.replay_view.place = 0
        self.pages.begin()

    def show_job(self, job: Job) -> None:
        """Draw the job on every page; what is still to be worked out is begun."""
        other = self._job is None or self._job.practising != job.practising or self._job.tracing != job.tracing
        self._job = job
        if other:
            self._thought_s = 0.0
            self._begin_work(job)
        self._draw()

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
        if self.progress is None or practising.outcome not in (None, self._counted_for):
            self._counted_for = practising.outcome
            path, today = self._context.records.workshop_path(), day_of(datetime.now().astimezone().isoformat())
            self.counting.start(partial(progress_in, path, today))

    def _draw(self) -> None:
        self.pages.draw()
        self._draw_side()

    def _draw_bench(self) -> None:
        job = self._job
        if job is None:
            return
        self.bench.draw(bench_shown(job, self.coached))
        self.bench.typed.setVisible(job.practising.is_open)
        form = form_for(job)
        self.bench.typed.edit.setPlaceholderText(form.tests[8] if form is not None else "clip+ to gnd volts")

    def _draw_replay(self) -> None:
        if self._job is None:
            return
        shown = replay_shown(self._job)
        if shown.at >= 0:
            self.replay_view.place = shown.at
        self.replay_view.show_replay(shown)
        self.replay_view.setVisible(bool(shown.steps))
        self._say(self._replay_words, shown.headline, shown.reason)
        self._draw_step(self.replay_view.place)

    def _draw_progress(self) -> None:
        progress = progress_shown(self.progress)
        self.progress_view.show_progress(progress)
        self._say(self._progress_words, progress.headline, progress.reason)

    @staticmethod
    def _say(labels: tuple[QLabel, QLabel], headline: str, reason: str) -> None:
        for label, text in zip(labels, (headline, reason), strict=True):
            label.setText(text)
            label.setVisible(bool(text))

    @Slot(int)
    def _draw_step(self, place: int) -> None:
        steps = self.replay_view.shown.steps
        if not steps:
            self.step.show_rows(())
            return
        one = steps[min(place, len(steps) - 1)]
        rows = [
            (f"step {place + 1}", f"{one.words}"),
            ("brought", f"{one.bits or 'no test'}{f', {one.minutes}' if one.minutes else ''}"),
        ]
        if one.is_tested:
            rows += [("best there", one.best), ("because", one.why)]
        self.step.show_rows(tuple(rows))

    def _draw_side(self) -> None:
        job, place = self._job, self.pages.place
        if job is None:
            return
        if place == BENCH and job.practising.is_open:
            words = self._next_words()
            form = form_for(job)
            title = (
                "What Next would ask"
                if words
                else "What there is to touch"
                if form is None
                else "What there is to read"
            )
            keys = (
                BENCH_KEYS
                if form is None
                else f"{EXPECTED[form.name]} · coach silent (a nod, next after a minute, everything)"
            )
            self._side.show_panel(title, () if words else _points(job), words, "", keys)
        elif place == PROGRESS:
            self._side.show_panel("How it is reckoned", (), PROGRESS_WORDS, "", "")
        else:
            words = "" if place == REPLAY else "The exercise is over: the replay is on the next page."
            self._side.show_panel("Replay", (), words, "", REPLAY_KEYS)

    def _next_words(self) -> str:
        """What Next would ask, once a minute was thought; empty before, and where it is not said."""
        job, coached = self._job, self.coached
        if job is None or coached is None or not coached.next_words:
            return ""
        if job.practising.coaching != "next after a minute" or self._thought_s < self.thinking_s:
            return ""
        return f"{coached.next_words}: worth {coached.next_bits:.1f} bit. {coached.why}"

    @Slot()
    def _tick(self) -> None:
        before = self._next_words()
        self._thought_s += TICK_MS / 1000
        if self._next_words() != before:
            self._draw_side()

    @property
    def side(self) -> QWidget:
        return self._side

    # what was worked out

    @Slot(object)
    def _warmed(self, found: object) -> None:
        """Answers come at once from here on."""
        job = self._job
        if isinstance(found, Bench) and job is not None and job.practising.is_open:
            learn(job, found)

    @Slot(object)
    def _coached(self, found: object) -> None:
        if isinstance(found, Coached) and self._job is not None and found.job_id == self._job.job_id:
            self.coached = found
            self._draw()

    @Slot(object)
    def _came_out(self, found: object) -> None:
        if not isinstance(found, tuple) or self._job is None or found[0] != self._job.job_id:
            return
        outcome = found[1]
        if isinstance(outcome, Outcome) and self._job.practising.outcome is None and self._job.practising.ended:
            self._context.perform(lambda job, at: keep_outcome(job, outcome))

    @Slot(object)
    def _counted(self, found: object) -> None:
        if isinstance(found, Progress):
            self.progress = found
            self._draw()

    @property
    def settled(self) -> bool:
        return not (self.looking.busy or self.working.busy or self.counting.busy)

    def close_workers(self) -> None:
        self._clock.stop()
        for one in (self.looking, self.working, self.counting, self.warming):
            one.close()

    # the line and the keys

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "an exercise at the bench")
        return self._job

    def _offers(self, text: str) -> tuple[str, ...]:
        return offers(self._known(), text)

    def _understood(self, text: str) -> str:
        return understand(self._known(), text).words

    def _take(self, text: str) -> bool:
        return self._context.perform(understand(self._known(), text).act)

    @Slot(int)
    def _enter(self, place: int) -> None:
        steps = self.replay_view.shown.steps
        if 0 <= place < len(steps):
            self._context.perform(lambda job, at: replay(job, steps[place].place, at))

    @Slot(int)
    def _turned(self, place: int) -> None:
        self._draw_side()
        self.focus_first()
        self.changed.emit()

    def focus_first(self) -> None:
        """To where the page in view begins."""
        if self.pages.place == BENCH and self.bench.typed.isVisibleTo(self):
            self.bench.focus_first()
        elif self.pages.place == REPLAY:
            self.replay_view.setFocus()
        else:
            self.setFocus()

    def to_picture(self) -> None:
        self.pages.turn_to(REPLAY)

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        return opened(self._job, self.coached, self.progress) if self._job is not None else None

    @property
    def part(self) -> object:
        """The page in view, with the progress that is written from it."""
        return self.pages.place, self.progress


def _framed(*views: QWidget) -> tuple[QWidget, tuple[QLabel, QLabel]]:
    """A page with a headline, a reason, a picture and what stands under it."""
    frame, inside = card()
    headline, reason = labelled("", "verdict", True), labelled("", "quiet", True)
    for item in (headline, reason):
        inside.addWidget(item)
    for place, view in enumerate(views):
        inside.addWidget(view, 0 if place else 1)
    return scrolled(frame), (headline, reason)


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
    rows = [
        (f"behind the {where}" if where != "lies open" else where, ", ".join(nodes)) for where, nodes in points.items()
    ]
    parts = dict.fromkeys(short_words(circuit, part.name) for part in circuit.parts)
    rows.append(("parts", ", ".join(parts)))
    switches = [f"{name.upper()} {' | '.join(switch.positions)}" for name, switch in switches_of(circuit).items()]
    return (*rows, *((("switches", "; ".join(switches)),) if switches else ()))
