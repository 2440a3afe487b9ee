"""What came of an exercise: each step beside the best test there, the paths of players, points, and the habit that would have
saved most. Made once, when it has ended; long work, for a worker.

While an exercise is at work a coach keeps from step to step whether each test brought what is true nearer, and what Next would
ask.
"""

from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.explain import evidence_said, short_words, spoken
from violet_dial.core.diagnosis.predict import identity
from violet_dial.core.practice.course import Course, CourseStep, Move, begin
from violet_dial.core.practice.memory import PastCase as Exercised
from violet_dial.core.practice.mind import Ask, Asked, Mind
from violet_dial.core.practice.players import SEARCHES, play
from violet_dial.core.practice.score import score_of
from violet_dial.core.practice.traced import Traced, traced
from violet_dial.core.records.circuit import Evidence, TestKind
from violet_dial.core.task import SilentTask, Task
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.practising import Outcome, Path, Replayed
from violet_dial.practise.exercise import PRACTISE, course_of, moves_of, secret_of
from violet_dial.practise.forms import shown
from violet_dial.services.circuits import circuit_from

LITTLE = 0.1  # bits from which a test told something
# What a test is called, without its figure.
ASKED: dict[TestKind, str] = {
    "volt": "volts", "ohm": "ohms", "amp": "current", "seen": "look at", "continuity": "beep", "capacitance": "capacitance",
    "ripple": "swing", "dip": "dip", "clock": "clock", "time": "time held open", "wakes": "whether it wakes by itself",
}  # fmt: skip
WHOLE = ("time", "wakes")  # tests of the whole device
DEAR = 5.0  # minutes more than the best test took, from which a test was dear


def outcome_of(job: Job, task: Task | None = None) -> Outcome:
    """What came of an exercise that has ended. Raises InvalidInput: it is none, or its seal is broken; TaskCancelled."""
    task = task or SilentTask()
    course = course_of(job)
    exercise = secret_of(job.practising.sealed).exercise
    circuit = circuit_from(secret_of(job.practising.sealed).circuit_text)
    mind = Mind()
    steps = replayed(course, mind, task)
    paths = []
    for place, player in enumerate(SEARCHES):
        task.report(0.5 + 0.5 * place / len(SEARCHES), "the same device by " + PLAYERS_SAID[player])
        paths.append(path_of(player, play(exercise, circuit, player, task, mind), mind, task))
    coached = job.practising.coached
    score = score_of(course, best_of(tuple(paths)).minutes, coached)
    needless = tuple(one.mode if course.form else short_words(circuit, one.part) for one in course.needless)
    return Outcome(
        round(score.points, 2), round(score.said, 2), round(score.time, 2), round(course.minutes, 2), round(course.money, 2),
        course.tests, steps, tuple(paths), needless, habit_of(course, steps), coached,
    )  # fmt: skip


def best_of(paths: tuple[Path, ...]) -> Path:
    """The best path: that by Next where no other search of its kind was kept beside it."""
    found = [path for path in paths if path.found] if any(path.player == "few" for path in paths) else []
    return min(found, key=lambda path: path.minutes, default=paths[0])


PLAYERS_SAID = {"next": "what Next says", "few": "Next to save tests", "halves": "half-splitting", "random": "chance"}


def map_of(job: Job) -> Traced | None:
    """What was traced of a device without papers, once the exercise is over; None where there were papers, or it goes on.

    Raises InvalidInput: its seal is broken.
    """
    practising = job.practising
    if practising.is_open or not practising.is_one:
        return None
    secret = secret_of(practising.sealed)
    if secret.exercise.papers or secret.exercise.form is not None:
        return None
    return traced(job.tracing.board, secret.circuit_text)


def path_of(player: str, course: Course, mind: Mind, task: Task) -> Path:
    """A player's work as a path: bits and minutes after each step."""
    bits = mind.bits(course, task)
    minutes = np.cumsum([step.minutes for step in course.steps]) if course.steps else np.zeros(0)
    return Path(
        player, round(course.minutes, 2), course.tests, course.works, tuple(round(float(one), 4) for one in np.cumsum(bits)),
        tuple(round(float(minute), 3) for minute in minutes),
    )  # fmt: skip


def replayed(course: Course, mind: Mind, task: Task) -> tuple[Replayed, ...]:
    """Every step with the bits it brought and, at tests, the best test that could have been made there."""
    best: list[Asked | None] = []
    at = begin(course.circuit, course.hidden, form=course.form)
    for number, step in enumerate(course.steps):
        task.report(0.5 * number / len(course.steps), "each step beside the best")
        best.append(mind.know(at, task).best if step.move.kind == "test" else None)
        at = at.after(step.move)
    bits = mind.bits(course, task)
    return tuple(_step(course, *one) for one in zip(course.steps, bits, best, strict=True))


def why_best(circuit: Circuit, best: Asked) -> str:
    """Why a test is worth most, in one line: what it may show and what each would leave, or what it parts."""
    if best.test is None:
        return f"it parts {', '.join(f'{name} ({chance:.0%})' for name, chance in best.likely[:3])}"[:290]
    said = []
    for outcome in best.test.outcomes[:2]:
        leaves = spoken(circuit, outcome.leaves[0][0]) if outcome.leaves else "nothing known"
        said.append(f"{outcome.words} ({outcome.probability:.0%}) leaves {leaves} first")
    return "; ".join(said)[:290]


def _step(course: Course, step: CourseStep, bits: float, best: Asked | None) -> Replayed:
    circuit = course.circuit
    plain = Replayed(step_words(course, step)[:300], round(step.minutes, 2), round(bits, 4))
    if best is None:
        return plain
    return replace(
        plain, best=ask_words(circuit, best.ask)[:300], best_bits=round(best.bits, 4), best_minutes=round(best.minutes, 2),
        why=why_best(circuit, best), ask=best.ask if isinstance(best.ask, Evidence) else None,
    )  # fmt: skip


def ask_words(circuit: Circuit, ask: Ask) -> str:
    """A test without its figure: ``volts, clip+ to gnd (S1 on)``; of a device judged by readings its name."""
    if isinstance(ask, str):
        return ask
    held = ask.setting.words if ask.test not in ("ohm", "continuity") else ""
    return test_words(circuit, ask) + (f" ({held})" if held else "")


def test_words(circuit: Circuit, ask: Evidence) -> str:
    """What was tested where: ``volts clip+ to gnd``."""
    where = "" if ask.test in WHOLE else short_words(circuit, ask.part) if ask.part else ask.where
    return f"{ASKED[ask.test]} {where}".strip()


def step_words(course: Course, step: CourseStep) -> str:
    """A step in words."""
    move, circuit = step.move, course.circuit
    if move.reading is not None and course.form is not None:
        return f"{move.reading.test}: {shown(course.form, move.reading)}"
    if move.evidence is not None:
        return evidence_said(circuit, move.evidence)
    if move.slip is not None:
        return move.slip.kind if move.slip.is_work else f"slip: {move.slip.kind}"
    if move.fault is None:
        return "given up"
    part = spoken(circuit, move.fault.name)
    if move.kind == "said":
        return f"said {part}, {move.chance:.0%}: {'right' if step.is_right else 'wrong'}"
    return f"mended {part}: {'it was broken' if step.is_right else 'it was sound'}"


def habit_of(course: Course, steps: tuple[Replayed, ...]) -> str:
    """The one habit that would have saved most, by what each cost: minutes of slips, of needless parts, of covers taken off
    before they were wanted, of tests that told nothing, of tests done twice. Empty where none cost a minute."""
    asked: set[object] = set()
    twice = idle = covers = 0.0
    for step, one in zip(course.steps, steps, strict=True):
        evidence, reading = step.move.evidence, step.move.reading
        if evidence is None and reading is None:
            continue
        key = identity(evidence) if evidence is not None else reading.test if reading is not None else ""
        if key in asked:
            twice += step.minutes
        elif one.minutes > one.best_minutes + DEAR and step.opens:
            covers += one.minutes - one.best_minutes
        elif one.bits < LITTLE and one.best_bits > LITTLE:
            idle += step.minutes
        asked.add(key)
    costs = {
        "Mind the order at the bench: cells out for ohms, ohms before power, never an ohmmeter across a movement.": sum(
            slip.minutes for slip in course.slips
        ),
        "Measure before you replace: parts that were sound were replaced.": sum(
            step.minutes for step in course.steps if step.move.kind == "mended" and not step.is_right
        ),
        "Ask first what lies open: covers came off before they were wanted.": covers,
        "Choose a test that parts what is left: some told nothing that was not known.": idle,
        "Trust a reading, or ask another question: some tests were made twice.": twice,
    }
    words, minutes = max(costs.items(), key=lambda pair: pair[1])
    said = "a minute" if round(minutes) == 1 else f"{minutes:.0f} minutes"
    return f"{words} It would have saved {said}." if minutes >= 1.0 else ""


def keep_outcome(job: Job, outcome: Outcome) -> ActResult:
    """The outcome kept in the job."""
    kept = replace(job.practising, outcome=outcome)
    return ActResult(replace(job, practising=kept), PRACTISE, f"Exercise ended: {outcome.points:.0f} points")


def exercised(job: Job) -> Exercised | None:
    """A finished exercise as the memory of skills has it; None where it is none, or not worked out yet."""
    practising, outcome = job.practising, job.practising.outcome
    if outcome is None or not practising.ended_at:
        return None
    course = course_of(job)
    best = best_of(outcome.paths) if outcome.paths else None
    said = tuple((one.move.chance, one.is_right) for one in course.said)
    slips = tuple(slip.kind for slip in course.slips)
    return Exercised(
        day_of(practising.ended_at), practising.kinds, practising.kind, practising.level, outcome.points,
        practising.ended == "found", said, outcome.minutes, best.minutes if best else 0.0, outcome.tests,
        best.tests if best else 0, _rate(outcome.steps), (best.bits[-1] if best and best.bits else 0.0) / max(
            best.minutes if best else 1.0, 1e-9), slips, len(outcome.needless), outcome.habit,
    )  # fmt: skip


def _rate(steps: tuple[Replayed, ...]) -> float:
    """Bits a minute of one's own."""
    minutes = sum(step.minutes for step in steps)
    return sum(step.bits for step in steps) / minutes if minutes else 0.0


def day_of(stamp: str) -> float:
    """Days since 1970 in UTC, from ISO 8601; 0 where it cannot be read."""
    try:
        return datetime.fromisoformat(stamp).timestamp() / 86_400.0
    except ValueError:
        return 0.0


@dataclass(frozen=True)
class Coached:
    """What a coach knows of an exercise as it stands: ``bits`` that each step brought, what Next would ask, its bits and why.
    ``moves`` are those it belongs to."""

    job_id: str
    moves: tuple[Move, ...]
    bits: tuple[float, ...]
    next_words: str = ""
    next_bits: float = 0.0
    why: str = ""


class Coach:
    """Called from one worker at a time."""

    def __init__(self) -> None:
        self._mind = Mind()
        self._job_id = ""

    def look(self, job: Job, task: Task) -> Coached:
        """The exercise as it stands. Raises InvalidInput, TaskCancelled."""
        if job.job_id != self._job_id:
            self._mind, self._job_id = Mind(), job.job_id
        moves, at = moves_of(job), course_of(job)
        bits = self._mind.bits(at, task)
        best = None if at.is_over else self._mind.know(at, task).best
        if best is None:
            return Coached(job.job_id, moves, bits)
        return Coached(job.job_id, moves, bits, ask_words(at.circuit, best.ask), best.bits, why_best(at.circuit, best))
