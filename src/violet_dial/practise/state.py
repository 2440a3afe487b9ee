"""What Practise shows: the exercise at work, its replay; its next act; the arithmetic of an exercise, opened."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.core.diagnosis.explain import spoken
from violet_dial.core.errors import VioletDialError
from violet_dial.core.practice.course import Course, CourseStep
from violet_dial.core.practice.memory import FIRST_DAYS, GROWS, SHRINKS
from violet_dial.core.practice.score import SAID, quadratic, score_of
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.job.practising import Outcome, Path
from violet_dial.practise.exercise import PRACTISE, course_of, moves_of, secret_of
from violet_dial.practise.forms import shown
from violet_dial.practise.outcome import PLAYERS_SAID, Coached, best_of, map_of, step_words, test_words
from violet_dial.practise.progress_state import Progress
from violet_dial.practise.replay import end_replay
from violet_dial.report.blocks import RowsShown
from violet_dial.report.dial import MarkState
from violet_dial.services.circuits import circuit_from
from violet_dial.services.next import NextAct, Urgency
from violet_dial.services.station import Section, StationState


def opened(job: Job, coached: Coached | None, progress: Progress | None) -> tuple[str, tuple[Section, ...]] | None:
    """The sums behind an exercise and one's progress; what is still hidden stays so."""
    sections: list[Section] = []
    if job.practising.is_one:
        try:
            course = course_of(job)
        except VioletDialError as error:
            return "Exercise", (("It cannot be opened", (str(error),)),)
        outcome = job.practising.outcome
        if outcome is not None and outcome.paths:
            sections.append(("Points", score_of(course, best_of(outcome.paths).minutes, outcome.coached).opened()))
            said = tuple(
                f"{step_words(course, one)}\t{SAID:.0f} × {format_signed(quadratic(one.move.chance, one.is_right), 3)}"
                for one in course.said
            )
            sections.append(("What was said with a chance", said or ("nothing",)))
        done = [step for step in course.steps if not job.practising.is_open or step.move.kind in ("test", "slip")]
        lines = tuple(f"{step_words(course, one)}\t{_cost(one)}" for one in done)
        sections.append(("Minutes and money", lines or ("nothing yet",)))
        sections.append(("The rule", RULE))
        mapped = map_of(job)
        if mapped is not None and mapped.words:
            rows = (("there", mapped.right), ("not there", mapped.wrong), ("not traced", mapped.missing))
            sections.append(("What was traced", tuple(f"{name}\t{', '.join(one) or 'none'}" for name, one in rows)))
    if progress is not None and progress.skills:
        fades = tuple(
            f"{skill.name}\t2^(−{skill.days:.1f} d / {skill.half_life_days:.1f} d)"
            f"{'' if skill.was_good else ', halved: the last did not go well,'} = {skill.chance:.2f}"
            for skill in progress.skills
        )
        how = f"half-life {FIRST_DAYS:g} days at first, × {GROWS:g} when it goes well, × {SHRINKS:g} when not"
        sections.append(("Skills", (how, *fades)))
    return ("Exercise", tuple(sections)) if sections else None


def _cost(step: CourseStep) -> str:
    """Minutes of a step, and money where it took some."""
    money = f", parts {step.money:.0f}" if step.money else ""
    return f"{step.minutes:.1f} min{money}"


RULE = (
    "A chance p that was right gives 1 − (1 − p)², one that was wrong −p²: nobody gains by saying more or less than is believed "
    "(Brier).",
    "Bits of a test: how much likelier it made what is true, log₂ of after over before.",
)


BENCH, REPLAY, PROGRESS = range(3)
NEWS_BITS = 0.05  # from which a test brought the truth nearer, or took it further
THINKING_S = 60.0


@dataclass(frozen=True)
class SkillCurve:
    """Bits over minutes of one who worked the device: a player by his key, or with none the trainee."""

    name: str
    minutes: tuple[float, ...]
    bits: tuple[float, ...]
    found: bool
    player: str = ""

    @property
    def is_own(self) -> bool:
        return not self.player


@dataclass(frozen=True)
class StepShown:
    """One step of the replay; ``place`` how many tests and repairs were made with it."""

    words: str
    minutes: str
    bits: str
    best: str
    why: str
    place: int
    is_tested: bool


@dataclass(frozen=True)
class ReplayShown:
    """The replay: headline, the sum of the points, curves, steps, which step the job stands at (-1: the end)."""

    headline: str
    reason: str
    curves: tuple[SkillCurve, ...] = ()
    steps: tuple[StepShown, ...] = ()
    at: int = -1


def state(job: Job) -> StationState:
    """For the line of stations."""
    practising = job.practising
    return "open" if not practising.is_one else "begun" if practising.is_open else "done"


def finding(job: Job) -> str:
    """For the card."""
    practising = job.practising
    if not practising.is_one or practising.is_open:
        return ""
    points = f", {practising.outcome.points:.0f} points" if practising.outcome else ""
    return f"{practising.ended}{points}"


def words(job: Job) -> tuple[str, ...]:
    """For search: only what the person said."""
    return (job.practising.kind, job.practising.set_name) if job.practising.is_one else ()


def next_of(job: Job, result: object) -> NextAct | None:
    """What an exercise wants done; nothing in a job that is none."""
    practising = job.practising
    if not practising.is_one:
        return None
    if practising.is_replayed:
        reason = f"Replay: after step {practising.step}. The stations show what was known then."
        return _act("Look at it at Trace, then go on", reason, "Leave the replay", "replay", act=end_replay)
    if not practising.is_open:
        reason = "Each step stands beside the test that was best there."
        return _act("Look back over it", reason, "To the replay", "done", page=REPLAY)
    if practising.coaching == "everything":
        return None
    title = "Your turn: measure, or say what you suspect"
    return _act(title, _thinking(practising.coaching), "To the bench", "exercise")


def _thinking(coaching: str) -> str:
    return {
        "silent": "Nothing is said until you are done.",
        "a nod": "After each test you hear whether it brought you nearer.",
        "next after a minute": "Think for a minute: then the page says what Next would ask.",
    }.get(coaching, "")


def _act(title: str, reason: str, button: str, kind: str, page: int = BENCH, act: object = None) -> NextAct:
    return NextAct(PRACTISE, title, reason, "", button, kind, "your turn" if kind == "exercise" else "a look back",
                   Urgency.EXERCISE, page, act)  # type: ignore[arg-type]  # fmt: skip


# the bench


def bench_shown(job: Job, coached: Coached | None) -> RowsShown:
    """The exercise at work."""
    practising = job.practising
    if not practising.is_one:
        return RowsShown("No exercise", "Ctrl+Shift+P at the jobs screen goes to the practice workshop; Ctrl+N there begins one.")
    try:
        course, circuit = course_of(job), circuit_from(secret_of(practising.sealed).circuit_text)
    except VioletDialError as error:
        return RowsShown("This exercise cannot be opened", str(error))
    nods = _nods(job, coached)
    opens = any(step.opens for step in course.steps)
    heads = ("", "done", "min", *(("opened",) if opens else ()), *(("nearer by",) if nods else ()), "shows")
    rows = tuple(_row(course, n, nods, opens) for n in range(len(course.steps)))
    last = course.steps[-1].move.slip if course.steps else None
    under = last.words if last is not None and not last.is_work else ""
    return RowsShown(_headline(job, course), _reason(job, circuit, course, coached), heads if rows else (), rows,
                      tuple(_mark(step, practising.is_open) for step in course.steps), under)  # fmt: skip


def _headline(job: Job, course: Course) -> str:
    practising = job.practising
    spent = f"{course.minutes:.0f} min"
    if practising.is_open:
        limit = secret_of(practising.sealed).exercise.minutes
        money = f", parts {course.money:.0f}" if course.money else ""
        return f"Level {practising.level} · {practising.kind} · {spent} of {limit:.0f}{money}"
    points = f" · {practising.outcome.points:.0f} points" if practising.outcome else " · being worked out…"
    return f"{practising.ended[:1].upper()}{practising.ended[1:]} · {spent}{points}"


def _reason(job: Job, circuit: Circuit, course: Course, coached: Coached | None) -> str:
    practising = job.practising
    if not practising.is_open:
        hidden = "; ".join(_fault_words(circuit, fault) for fault in practising.faults)
        habit = practising.outcome.habit if practising.outcome else ""
        mapped = map_of(job)
        return " ".join(one for one in (f"It was {hidden}.", habit, mapped.words if mapped else "") if one)
    stands = "" if course.form else f" Stands now: {job.tracing.setting.words or 'as usual'}."
    complaint = job.intake.headline_fault
    said = [f"{complaint[:1].upper()}{complaint[1:]}.{stands}"]
    if not secret_of(practising.sealed).exercise.papers:
        said.append("There are no papers: Trace has the spots, what joins them is yours to find.")
    if job.intake.tried_already:
        said.append(job.intake.tried_already)
    if practising.coaching in ("a nod", "next after a minute") and course.steps:
        said.append(_nod(job, coached))
    return " ".join(said)


def _fault_words(circuit: Circuit, fault: object) -> str:
    name, figure = fault.name, fault.words.partition(",")[2]  # type: ignore[attr-defined]
    return f"{spoken(circuit, name)}{',' + figure if figure else ''}"


def _nods(job: Job, coached: Coached | None) -> tuple[str, ...]:
    """Bits of each step in words, where the coach says them; nothing where he is silent."""
    practising = job.practising
    if practising.is_open and practising.coaching == "silent":
        return ()
    moves = moves_of(job)
    if practising.outcome is not None:
        steps = practising.outcome.steps
        return tuple(f"{format_signed(step.bits, 1)} bit" if step.best else "" for step in steps)
    bits = coached.bits if coached is not None and coached.job_id == job.job_id else ()
    return tuple(
        "" if move.kind != "test" else f"{format_signed(bits[n], 1)} bit" if n < len(bits) and coached is not None
        and coached.moves[n] == move else "…" for n, move in enumerate(moves)
    )  # fmt: skip


def _nod(job: Job, coached: Coached | None) -> str:
    """Whether the last test brought it nearer."""
    moves = moves_of(job)
    if not moves or moves[-1].kind != "test":
        return ""
    if coached is None or coached.moves != moves:
        return "…"
    bits = coached.bits[-1]
    if abs(bits) < NEWS_BITS:
        return "No news."
    return f"{'Warmer' if bits > 0 else 'Colder'}: {format_signed(bits, 1)} bit."


def _row(course: Course, n: int, nods: tuple[str, ...], opens: bool) -> tuple[str, ...]:
    """A step: number, what was done, minutes, covers where any came off, the nod where there is one, what it showed."""
    step = course.steps[n]
    done, shows = _done(course, step)
    minutes = f"{step.minutes:.1f}" if step.minutes else ""
    opened = (", ".join(step.opens),) if opens else ()
    nod = (nods[n] if n < len(nods) else "",) if nods else ()
    return (str(n + 1), done, minutes, *opened, *nod, shows)


def _done(course: Course, step: CourseStep) -> tuple[str, str]:
    """What was done, and what came."""
    move, circuit = step.move, course.circuit
    if move.reading is not None and course.form is not None:
        return move.reading.test, shown(course.form, move.reading)
    if move.evidence is not None:
        words = evidence_words(move.evidence)
        return test_words(circuit, move.evidence), words.removeprefix(move.evidence.where).strip()
    if move.slip is not None:
        return "done" if move.slip.is_work else "slip", move.slip.kind
    if move.fault is None:
        return "given up", ""
    name = spoken(circuit, move.fault.name)
    if move.kind == "said":
        return f"said {name}", f"{move.chance:.0%}"
    return f"mended {name}", "it was broken" if step.is_right else "still not as it should be"


def _mark(step: CourseStep, is_open: bool) -> MarkState:
    kind = step.move.kind
    if kind == "slip":
        return "inside" if step.move.slip is not None and step.move.slip.is_work else "high"
    if kind == "mended":
        return "inside" if step.is_right else "high"
    if kind == "said":
        return "undecided" if is_open else "inside" if step.is_right else "high"
    return "empty"


# the replay


def replay_shown(job: Job) -> ReplayShown:
    """The replay of an exercise that has ended."""
    practising, outcome = job.practising, job.practising.outcome
    if not practising.is_one or practising.is_open:
        return ReplayShown("No replay yet", "It shows when the exercise has ended: found, given up, or ended by a slip.")
    if outcome is None:
        return ReplayShown(
            "The replay is being worked out…", "The same device is worked by what Next says, and by half-splitting."
        )
    places = _places(job)
    steps = tuple(
        StepShown(
            step.words, f"{step.minutes:.1f} min" if step.minutes else "",
            f"{format_signed(step.bits, 1)} bit" if step.best else "",
            _best_words(step.best, step.best_bits, step.best_minutes), step.why, places[n], bool(step.best),
        )
        for n, step in enumerate(outcome.steps)
    )  # fmt: skip
    return ReplayShown(_points(outcome, practising.ended), _beside(outcome), _curves(outcome), steps, _at(job, places))


def _places(job: Job) -> tuple[int, ...]:
    """How many tests and repairs were made with each step."""
    return tuple(int(one) for one in np.cumsum([move.kind in ("test", "mended") for move in moves_of(job)]))


def _at(job: Job, places: tuple[int, ...]) -> int:
    if not job.practising.is_replayed:
        return -1
    return next((n for n, place in enumerate(places) if place >= job.practising.step), -1)


def _best_words(best: str, bits: float, minutes: float) -> str:
    return f"{best}: {bits:.1f} bit for {minutes:.1f} min" if best else ""


def _points(outcome: Outcome, how: str) -> str:
    tested = [step for step in outcome.steps if step.best]
    minutes = sum(one.minutes for one in tested)
    rate = f", {sum(one.bits for one in tested) / minutes:.2f} bit a minute" if minutes else ""
    return f"{outcome.points:.0f} points · {how} in {outcome.minutes:.0f} min, {outcome.tests} tests{rate}"


def _beside(outcome: Outcome) -> str:
    said = [
        f"by {PLAYERS_SAID.get(path.player, path.player)} {path.minutes:.0f} min, {path.tests} tests, {_rate(path)}"
        f"{'' if path.found else ', not found'}"
        for path in outcome.paths
    ]
    needless = f" Replaced though sound: {', '.join(outcome.needless)}." if outcome.needless else ""
    return f"The same device {'; '.join(said)}.{needless} {outcome.habit}".strip()


def _rate(path: Path) -> str:
    """Bits a minute up to the last test that brought any."""
    news = [n for n, bits in enumerate(path.bits) if bits != (path.bits[n - 1] if n else 0.0)]
    return f"{path.bits[-1] / max(path.at_minutes[news[-1]], 0.1):.2f} bit a minute" if news else "no bits"


def _curves(outcome: Outcome) -> tuple[SkillCurve, ...]:
    own_minutes = np.cumsum([0.0, *(step.minutes for step in outcome.steps)])
    own_bits = np.cumsum([0.0, *(step.bits for step in outcome.steps)])
    own = SkillCurve("you", tuple(own_minutes.tolist()), tuple(own_bits.tolist()), outcome.time > 0)
    return (own, *(_curve(path) for path in outcome.paths))


def _curve(path: Path) -> SkillCurve:
    return SkillCurve(
        PLAYERS_SAID.get(path.player, path.player), (0.0, *path.at_minutes), (0.0, *path.bits), path.found, path.player
    )
