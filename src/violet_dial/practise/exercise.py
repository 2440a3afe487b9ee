"""Exercises as jobs: made with a sealed device, answered by the bench of their secret, followed move by move."""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

from pydantic import ValidationError

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.explain import evidence_said
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.costs import DISCHARGED, SLIPS, Slip
from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.exercise import Exercise, sealed, unsealed
from violet_dial.core.practice.form import Form, FormReading
from violet_dial.core.records.circuit import Evidence, Fault, Setting
from violet_dial.core.task import Task
from violet_dial.instruments.simulated.device import ExerciseUnderTest
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.practising import MOST_READ, Ended, SaidFault, Slipped, TestRead
from violet_dial.job.records import validator
from violet_dial.job.tracing import TakenEvidence, TakenRepair
from violet_dial.practise.forms import at_stations, found_at_stations, is_same, lacking, shown, told
from violet_dial.services.circuits import circuit_from, circuit_of, templates

PRACTISE = "Practise"
OWN = "own"  # kind of device of an exercise made from a job


@dataclass(frozen=True)
class Secret:
    """What is sealed: the exercise and the circuit of its device."""

    exercise: Exercise
    circuit_text: str


def sealed_of(secret: Secret) -> str:
    """A secret, closed."""
    text = validator(Secret).dump_json(secret).decode("utf-8")
    return sealed(text, f"{secret.exercise.seed} {secret.exercise.level}")


@lru_cache(maxsize=8)
def secret_of(text: str) -> Secret:
    """A secret from its sealed text. Raises InvalidInput: changed, or of another make."""
    try:
        found: Secret = validator(Secret).validate_json(unsealed(text))
    except ValidationError as error:
        raise InvalidInput("Sealed", "an exercise of another make", "one that this application wrote") from error
    return found


@lru_cache(maxsize=4)
def bench_of(text: str) -> Bench:
    """The bench of a sealed exercise."""
    secret = secret_of(text)
    return Bench(secret.exercise, circuit_from(secret.circuit_text))


def under_test(job: Job) -> tuple[str, Callable[[], ExerciseUnderTest]] | None:
    """How the simulated device of an exercise stands, and what makes it; None where its seal is broken."""
    practising = job.practising
    try:
        mended = course_of(job).mended
    except InvalidInput:
        return None
    return f"{mended}\n{practising.sealed}", lambda: ExerciseUnderTest(bench_of(practising.sealed), mended)


def hides(job: Job, form: str) -> str | None:
    """What an exercise of a form still hides, as the simulated instruments are told; None where it is of another."""
    exercise = secret_of(job.practising.sealed).exercise
    if exercise.stem != form:
        return None
    return "" if course_of(job).works else told(exercise)


def prepared(job: Job, task: Task) -> Bench | None:
    """A bench of the exercise that has solved its settings, for a worker; None where there is nothing to solve.

    Raises InvalidInput, TaskCancelled.
    """
    bench = bench_of(job.practising.sealed)
    return None if bench.form is not None else bench.prepared(course_of(job).mended, task)


def learn(job: Job, other: Bench) -> None:
    """The job's bench with what another of the same exercise has solved."""
    bench = bench_of(job.practising.sealed)
    if bench.exercise == other.exercise:
        bench.learn(other)


# what was done


def moves_of(job: Job) -> tuple[Move, ...]:
    """What was done in an exercise, in order: tests and repairs as they stand in the job, what was said and slips among them."""
    tracing, practising = job.practising.whole or job.tracing, job.practising
    plain: list[Move] = []
    for place, epoch in enumerate(tracing.epochs):
        plain += [Move("test", one.evidence) for one in epoch if not one.evidence.sister]
        plain += [
            Move("test", reading=FormReading(reading.test, reading.value))
            for reading in practising.readings
            if reading.repairs == place
        ]
        if place < len(tracing.repairs):
            plain.append(Move("mended", fault=tracing.repairs[place].fault))
    between = [(one.after, Move("said", fault=one.fault, chance=one.chance)) for one in practising.said]
    between += [(slip.after, Move("slip", slip=SLIPS[slip.kind])) for slip in practising.slips if slip.kind in SLIPS]
    found: list[Move] = []
    for place in range(len(plain) + 1):
        found += [move for after, move in between if after == place or (place == len(plain) and after > place)]
        found += plain[place : place + 1]
    if practising.ended == "given up":
        found.append(Move("given up"))
    return tuple(found)


def count_of(job: Job) -> int:
    """Tests and repairs so far: after which something else is noted."""
    tests = sum(not one.evidence.sister for epoch in job.tracing.epochs for one in epoch)
    return tests + len(job.tracing.repairs) + len(job.practising.readings)


def circuit_in(job: Job) -> Circuit:
    """The circuit of the job's device: an exercise's own, also where there are no papers of it.

    Raises InvalidInput: none, or a broken seal.
    """
    if job.practising.is_one:
        return circuit_from(secret_of(job.practising.sealed).circuit_text)
    return circuit_of(job)


def course_of(job: Job) -> Course:
    """The exercise so far. Raises InvalidInput: the job is no exercise, or its seal is broken."""
    if not job.practising.is_one:
        raise InvalidInput("Practise", f"job {job.label}", "an exercise: Ctrl+Shift+P at the jobs screen")
    secret = secret_of(job.practising.sealed)
    return begin(circuit_from(secret.circuit_text), secret.exercise.faults, moves_of(job), secret.exercise.form)


@dataclass(frozen=True)
class Answer:
    """What the bench gave: a reading, or a slip."""

    evidence: Evidence | None
    slip: Slip | None


def answered(job: Job, ask: Evidence) -> Answer:
    """What the bench says to a test, the device standing as the job says.

    Raises InvalidInput: no exercise, or a point the circuit has not; CannotSolve: the device comes to no rest there.
    """
    course, bench = course_of(job), bench_of(job.practising.sealed)
    is_fed = job.tracing.setting.supply != "off"
    slip = bench.slip(ask, is_fed, course.was_dead or course.has_burnt, course.mended, course.is_discharged)
    if slip is not None:
        return Answer(None, slip)
    return Answer(bench.answer(ask, course.asked_before(ask), course.mended), None)


def measure(job: Job, ask: Evidence, typed: str, at: str) -> ActResult:
    """A test made: its reading as evidence, or the slip it was.

    Raises InvalidInput: the exercise is over, or as `answered`; CannotSolve.
    """
    _still_open(job)
    found = answered(job, ask)
    if found.evidence is not None:
        return _taken(job, TakenEvidence(found.evidence, typed, at))
    slip = found.slip
    if slip is None:
        raise InvalidInput("Test", typed, "another one")
    slips = (*job.practising.slips, Slipped(slip.kind, count_of(job), at))
    after = replace(job, practising=replace(job.practising, slips=slips))
    if slip.ends:
        after = ended(after, "ended by a slip", at)
    return ActResult(after, PRACTISE, f"Slip: {slip.words}"[:300])


def discharge(job: Job, at: str) -> ActResult:
    """The flash capacitor emptied, the usual way."""
    _still_open(job)
    slips = (*job.practising.slips, Slipped(DISCHARGED.kind, count_of(job), at))
    return ActResult(replace(job, practising=replace(job.practising, slips=slips)), PRACTISE, DISCHARGED.words)


def _taken(job: Job, taken: TakenEvidence) -> ActResult:
    """The job with one more test; the circuit it is of is the device's, whether there are papers or not."""
    now = (*job.tracing.now, taken)
    tracing = replace(job.tracing, epochs=(*job.tracing.epochs[:-1], now))
    return ActResult(replace(job, tracing=tracing), PRACTISE, evidence_said(circuit_in(job), taken.evidence))


def stand(job: Job, setting: Setting, at: str) -> ActResult:
    """How the device stands from now on."""
    _still_open(job)
    tracing = replace(job.tracing, setting=setting)
    return ActResult(replace(job, tracing=tracing), PRACTISE, f"Stands now: {setting.words or 'as usual'}")


def read(job: Job, test: str, at: str) -> ActResult:
    """A reading of a device that is judged by readings alone. Raises InvalidInput: the exercise is over, or no such test."""
    _still_open(job)
    course, bench = course_of(job), bench_of(job.practising.sealed)
    found = bench.reads(test, course.asked_before(test), course.mended)
    taken = TestRead(found.test, found.value, len(job.tracing.repairs), at)
    after = replace(job, practising=replace(job.practising, readings=(*job.practising.readings, taken)))
    words = f"{test}: {shown(bench.form, found)}" if bench.form else test
    return ActResult(mirrored(after, at), PRACTISE, words)


def form_for(job: Job) -> Form | None:
    """The form of the job's exercise; None where its device is a circuit, or its seal is broken (the page says so)."""
    try:
        return secret_of(job.practising.sealed).exercise.form if job.practising.is_one else None
    except InvalidInput:
        return None


def counted(before: Job, done: ActResult, at: str) -> ActResult:
    """An act in an exercise, with what was just read at Light, or fired at Expose, among its tests; what was taken away there is
    none any more. As it is where it was done at Practise itself, or the exercise is of something else."""
    after, form = done.job, form_for(before)
    is_own = done.station == PRACTISE
    if is_own or form is None or (after.light == before.light and after.exposing == before.exposing):
        return done
    was, now = found_at_stations(before, form), found_at_stations(after, form)
    readings = list(after.practising.readings)
    for gone in lacking(was, now):
        last = next((reading for reading in reversed(readings) if is_same(bare(reading), gone)), None)
        readings = [reading for reading in readings if reading is not last]
    repairs = len(after.tracing.repairs)
    new = tuple(TestRead(one.test, one.value, repairs, at) for one in lacking(now, was))
    kept = replace(after.practising, readings=(*readings, *new)[:MOST_READ])
    return replace(done, job=replace(after, practising=kept))


def bare(one: TestRead) -> FormReading:
    """A reading as the core takes it."""
    return FormReading(one.test, one.value)


def mirrored(job: Job, at: str) -> Job:
    """The job with its readings at Light or Expose too."""
    form = secret_of(job.practising.sealed).exercise.form
    if form is None:
        return job
    return at_stations(job, form, tuple(bare(reading) for reading in job.practising.readings), at)


def say(job: Job, fault: Fault, chance: float, words: str, at: str) -> ActResult:
    """A fault said with a chance."""
    _still_open(job)
    said = (*job.practising.said, SaidFault(fault, chance, count_of(job), at))
    return ActResult(replace(job, practising=replace(job.practising, said=said)), PRACTISE, f"Said: {words}, {chance:.0%}")


def mend(job: Job, fault: Fault, words: str, at: str) -> ActResult:
    """A fault put right, or a part replaced, and the function looked at after it: found ends the exercise."""
    _still_open(job)
    tracing = replace(
        job.tracing, repairs=(*job.tracing.repairs, TakenRepair(fault, words, at)), epochs=(*job.tracing.epochs, ())
    )
    after = replace(job, tracing=tracing)
    works = course_of(after).works
    after = ended(after, "found", at) if works else after
    return ActResult(after, PRACTISE, f"Mended: {words}; {'it works now' if works else 'still not as it should be'}")


def give_up(job: Job, at: str) -> ActResult:
    """Given up: what was hidden is shown."""
    _still_open(job)
    return ActResult(ended(job, "given up", at), PRACTISE, "Given up")


def ended(job: Job, how: Ended, at: str) -> Job:
    """The exercise over, its secret plain."""
    secret = secret_of(job.practising.sealed)
    exercise, tracing = secret.exercise, job.tracing
    plain = replace(job.practising, ended=how, ended_at=at, faults=exercise.faults, kinds=exercise.kinds)
    if exercise.form is None and not exercise.papers:
        tracing = replace(tracing, circuit_text=secret.circuit_text, circuit_name=name_of(exercise))
    return mirrored(replace(job, practising=plain, tracing=tracing), at)


def name_of(exercise: Exercise) -> str:
    """What an exercise's circuit is called."""
    return next((template.title for template in templates() if template.stem == exercise.stem), "circuit of the exercise")


def _still_open(job: Job) -> None:
    if not job.practising.is_open:
        raise InvalidInput("Exercise", "it is over", "another exercise: Ctrl+N at the jobs screen of practice")


def chance_in(text: str) -> tuple[str, float]:
    """A line that ends in a chance, parted: ``red wire open 80 %``. Raises InvalidInput: no chance at its end."""
    met = re.fullmatch(r"(?P<what>.+?)\s+(?P<share>\d{1,3}(?:\.\d+)?)\s*%?", text.strip())
    if met is None:
        raise InvalidInput("Chance", text, "how sure you are at the end, for instance 80 %")
    return met["what"], float(met["share"]) / 100
