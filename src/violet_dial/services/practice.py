"""Exercises as jobs: made with a sealed device, answered by the bench of their secret, followed move by move."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from pydantic import ValidationError

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of, place_of, usual_setting
from violet_dial.core.diagnosis.evidence import SEEN_KINDS, Evidence
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.costs import SLIPS, Slip
from violet_dial.core.practice.course import Course, Move, begin
from violet_dial.core.practice.exercise import Exercise, Wish, exercise_of
from violet_dial.core.practice.seal import sealed, unsealed
from violet_dial.core.receiving.findings import FindingKind
from violet_dial.core.receiving.places import DeviceKind, spot_named
from violet_dial.job.act import Done
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.practising import Coaching, Ended, Practising, SaidFault, Slipped
from violet_dial.job.receiving import Finding
from violet_dial.job.records import door
from violet_dial.job.tracing import TakenEvidence, TakenRepair
from violet_dial.services.circuits import circuit_from, templates
from violet_dial.services.evidence import with_evidence

PRACTISE = "Practise"
LIGHTS = {1000.0: "", 10_000.0: " in bright light", 100.0: " in dim light"}  # lx
OWN = "own"  # kind of device of an exercise made from a job
KINDS: dict[str, DeviceKind] = {
    "cds-series": "reflex", "cds-bridge": "reflex", "cds-two-range": "hand meter", "selenium-movement": "hand meter",
    "selenium-booster": "hand meter", "selenium-amplifier": "hand meter", "silicon-lamps": "rangefinder compact",
    "silicon-shutter": "instant camera", "motor-transfer": "rangefinder compact", "regulator-clock": "instant camera",
}  # fmt: skip
SEEN: dict[str, FindingKind] = {
    "open": "green crust", "corroded": "white crust", "battery": "liquid", "chassis": "loose part", "bridge": "crystals",
    "switch": "wear", "in a state": "crack",
}  # fmt: skip
TRIED = (
    "New cells, says the owner, and the contacts were rubbed.",
    "Another workshop soldered the leads anew.",
    "The meter was swapped for one from another body; it did the same.",
)


@dataclass(frozen=True)
class Secret:
    """What is sealed: the exercise and the circuit of its device."""

    exercise: Exercise
    circuit_text: str


def sealed_of(secret: Secret) -> str:
    """A secret, closed."""
    text = door(Secret).dump_json(secret).decode("utf-8")
    return sealed(text, f"{secret.exercise.seed} {secret.exercise.level}")


@lru_cache(maxsize=8)
def secret_of(text: str) -> Secret:
    """A secret from its sealed text.

    Raises
    ------
    InvalidInput
        Changed, or of another make.
    """
    try:
        found: Secret = door(Secret).validate_json(unsealed(text))
    except ValidationError as error:
        raise InvalidInput("Sealed", "an exercise of another make", "one that this application wrote") from error
    return found


@lru_cache(maxsize=4)
def bench_of(text: str) -> Bench:
    """The bench of a sealed exercise."""
    secret = secret_of(text)
    return Bench(secret.exercise, circuit_from(secret.circuit_text))


def shipped() -> Mapping[str, Circuit]:
    """The circuits exercises are drawn over, by stem."""
    return {one.stem: circuit_from(one.text) for one in templates()}


def drawn(wish: Wish) -> Secret:
    """The exercise of a seed with its circuit.

    Raises
    ------
    InvalidInput
        None can be given.
    """
    exercise = exercise_of(wish, shipped())
    return Secret(exercise, next(one.text for one in templates() if one.stem == exercise.stem))


# a job made of an exercise


def given(job: Job, secret: Secret, coaching: Coaching, at: str, title: str = "") -> Done:
    """The job as an exercise: what came in, what is seen of it, its circuit, the sealed device."""
    exercise = secret.exercise
    bench = bench_of(sealed_of(secret))
    name = title or f"Practice {exercise.seed}, level {exercise.level}"
    circuit_name = next((one.title for one in templates() if one.stem == exercise.stem), "circuit of the exercise")
    kind = KINDS.get(exercise.stem, "board")
    job = replace(
        job,
        device=Device(name, kind=kind, family=exercise.device),
        intake=Intake(complaint(bench), tried_already=_tried(exercise)),
        receiving=replace(job.receiving, findings=_findings(exercise, bench.circuit, kind)),
        tracing=replace(
            job.tracing,
            circuit_name=circuit_name,
            circuit_text=secret.circuit_text,
            setting=usual_setting(bench.circuit),
        ),
        practising=Practising(sealed_of(secret), exercise.level, exercise.device, coaching),
    )
    return Done(job, PRACTISE, f"Exercise begun: level {exercise.level}, {exercise.device}")


def complaint(bench: Bench) -> str:
    """What the owner would say: what is seen of the device as it came, beside a sound one, in the light where it shows."""
    said = []
    for part in bench.circuit.parts:
        kind = kind_of(bench.circuit, part)
        if kind in SEEN_KINDS and part.letter in "RDL":
            words = next((one for light in LIGHTS if (one := _seen_off(bench, part.name, kind, light))), "")
            if words:
                said.append(words)
    return "; ".join(said)[:280] or "Works on the table, says the owner, and not always"


def _seen_off(bench: Bench, name: str, kind: str, light_lx: float) -> str:
    """What is seen of a part in a light, where it is not what a sound device shows."""
    usual = usual_setting(bench.circuit)
    ask = Evidence("seen", 0.0, part=name, setting=replace(usual, light_lx=light_lx))
    try:
        now, sound = bench.answer(ask).value, bench.answer(ask, mended=bench.exercise.faults).value
    except CannotSolve:
        return ""
    words = _differs(kind, now, sound)
    where = LIGHTS[light_lx] if light_lx != usual.light_lx else ""
    return f"{short_words(bench.circuit, name)} {words}{where}" if words else ""


def _differs(kind: str, now: float, sound: float) -> str:
    """How what is seen differs, in an owner's words; nothing where it does not."""
    if kind == "movement":
        if abs(now - sound) < 0.08:
            return ""
        return "does not move" if now < 0.05 else "stands too low" if now < sound else "stands too high"
    if abs(now - sound) < 0.4:
        return ""
    verbs = {
        "motor": ("does not run", "runs on"),
        "solenoid": ("does not pull", "holds on"),
        "coil": ("does not pull", "holds on"),
    }
    return verbs.get(kind, ("stays dark", "is lit when it should not be"))[now > sound]


def _tried(exercise: Exercise) -> str:
    return TRIED[exercise.seed % len(TRIED)] if exercise.misleads else ""


def _findings(exercise: Exercise, circuit: Circuit, kind: DeviceKind) -> tuple[Finding, ...]:
    """What is seen: where the fault is, or at another place where the exercise misleads."""
    found = []
    places = sorted({place for part in circuit.parts if (place := place_of(circuit, part.name))})
    for number, (fault, name) in enumerate(zip(exercise.faults, exercise.kinds, strict=True)):
        place = place_of(circuit, fault.part) if circuit.has(fault.part) else ""
        if name not in SEEN or not place:
            continue
        if exercise.misleads:
            others = [one for one in places if one != place]
            place = others[(exercise.seed + number) % len(others)] if others else place
        try:
            view, spot = spot_named(kind, place)
        except InvalidInput:
            continue  # the outline has no such place
        found.append(Finding(f"seen-{number}", SEEN[name], view, spot.x, spot.y))
    return tuple(found)


# what was done


def moves_of(job: Job) -> tuple[Move, ...]:
    """What was done in an exercise, in order: tests and repairs as they stand in the job, what was said and slips among them."""
    tracing, practising = job.practising.whole or job.tracing, job.practising
    plain: list[Move] = []
    for place, epoch in enumerate(tracing.epochs):
        plain += [Move("test", one.evidence) for one in epoch if not one.evidence.sister]
        if place < len(tracing.repairs):
            plain.append(Move("mended", fault=tracing.repairs[place].fault))
    between = [(one.after, Move("said", fault=one.fault, chance=one.chance)) for one in practising.said]
    between += [(one.after, Move("slip", slip=SLIPS[one.kind])) for one in practising.slips if one.kind in SLIPS]
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
    return tests + len(job.tracing.repairs)


def course_of(job: Job) -> Course:
    """The exercise so far.

    Raises
    ------
    InvalidInput
        The job is no exercise, or its seal is broken.
    """
    if not job.practising.is_one:
        raise InvalidInput("Practise", f"job {job.label}", "an exercise: Ctrl+Shift+P at the jobs screen")
    secret = secret_of(job.practising.sealed)
    return begin(circuit_from(secret.circuit_text), secret.exercise.faults, moves_of(job))


@dataclass(frozen=True)
class Answer:
    """What the bench gave: a reading, or a slip."""

    evidence: Evidence | None
    slip: Slip | None


def answered(job: Job, ask: Evidence) -> Answer:
    """What the bench says to a test, the device standing as the job says.

    Raises
    ------
    InvalidInput
        No exercise, or a point the circuit has not.
    CannotSolve
        The device comes to no rest there.
    """
    course, bench = course_of(job), bench_of(job.practising.sealed)
    is_fed = job.tracing.setting.supply != "off"
    burnt = any(one.kind == "power before the short was found" for one in course.slips)
    slip = bench.slip(ask, is_fed, course.was_dead or burnt, course.mended)
    if slip is not None:
        return Answer(None, slip)
    return Answer(bench.answer(ask, course.asked_before(ask), course.mended), None)


def measure(job: Job, ask: Evidence, typed: str, at: str) -> Done:
    """A test made: its reading as evidence, or the slip it was.

    Raises
    ------
    InvalidInput
        The exercise is over, or as `answered`.
    CannotSolve
    """
    _still_open(job)
    found = answered(job, ask)
    if found.evidence is not None:
        return replace(with_evidence(job, TakenEvidence(found.evidence, typed, at)), station=PRACTISE)
    slip = found.slip
    if slip is None:
        raise InvalidInput("Test", typed, "another one")
    slips = (*job.practising.slips, Slipped(slip.kind, count_of(job), at))
    after = replace(job, practising=replace(job.practising, slips=slips))
    if slip.ends:
        after = ended(after, "ended by a slip", at)
    return Done(after, PRACTISE, f"Slip: {slip.words}"[:300])


def say(job: Job, fault: Fault, chance: float, words: str, at: str) -> Done:
    """A fault said with a chance."""
    _still_open(job)
    said = (*job.practising.said, SaidFault(fault, chance, count_of(job), at))
    return Done(replace(job, practising=replace(job.practising, said=said)), PRACTISE, f"Said: {words}, {chance:.0%}")


def mend(job: Job, fault: Fault, words: str, at: str) -> Done:
    """A fault put right, or a part replaced, and the function looked at after it: found ends the exercise."""
    _still_open(job)
    tracing = replace(
        job.tracing, repairs=(*job.tracing.repairs, TakenRepair(fault, words, at)), epochs=(*job.tracing.epochs, ())
    )
    after = replace(job, tracing=tracing)
    works = course_of(after).works
    after = ended(after, "found", at) if works else after
    return Done(after, PRACTISE, f"Mended: {words}; {'it works now' if works else 'still not as it should be'}")


def give_up(job: Job, at: str) -> Done:
    """Given up: what was hidden is shown."""
    _still_open(job)
    return Done(ended(job, "given up", at), PRACTISE, "Given up")


def replay(job: Job, step: int, at: str) -> Done:
    """The job as it stood after so many tests and repairs, for the real stations; all of it is kept, and comes back at the end.

    Raises
    ------
    InvalidInput
        The exercise has not ended.
    """
    if job.practising.is_open or not job.practising.is_one:
        raise InvalidInput("Replay", "an exercise that goes on", "one that has ended")
    whole = job.practising.whole or job.tracing
    left, epochs, repairs = step, [], 0
    for place, epoch in enumerate(whole.epochs):
        epochs.append(epoch[:left])
        left -= len(epoch) + 1
        if left < 0 or place >= len(whole.repairs):
            break
        repairs += 1
    tracing = replace(whole, epochs=tuple(epochs) or ((),), repairs=whole.repairs[:repairs])
    stands = epochs[-1][-1].evidence.setting if epochs and epochs[-1] else whole.setting
    kept = replace(job.practising, whole=whole, step=step)
    return Done(
        replace(job, tracing=replace(tracing, setting=stands), practising=kept), PRACTISE, f"Replay: after step {step}"
    )


def end_replay(job: Job, at: str) -> Done:
    """The job whole again."""
    whole = job.practising.whole or job.tracing
    return Done(
        replace(job, tracing=whole, practising=replace(job.practising, whole=None, step=0)), PRACTISE, "Replay left"
    )


def ended(job: Job, how: Ended, at: str) -> Job:
    """The exercise over, its secret plain."""
    exercise = secret_of(job.practising.sealed).exercise
    shown = replace(job.practising, ended=how, ended_at=at, faults=exercise.faults, kinds=exercise.kinds)
    return replace(job, practising=shown)


def _still_open(job: Job) -> None:
    if not job.practising.is_open:
        raise InvalidInput("Exercise", "it is over", "another exercise: Ctrl+N at the jobs screen of practice")


def chance_in(text: str) -> tuple[str, float]:
    """A line that ends in a chance, parted: ``red wire open 80 %``.

    Raises
    ------
    InvalidInput
        No chance at its end.
    """
    met = re.fullmatch(r"(?P<what>.+?)\s+(?P<share>\d{1,3}(?:\.\d+)?)\s*%?", text.strip())
    if met is None:
        raise InvalidInput("Chance", text, "how sure you are at the end: red wire open 80 %")
    return met["what"], float(met["share"]) / 100
