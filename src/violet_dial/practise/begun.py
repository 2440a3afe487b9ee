"""An exercise begun: drawn by its seed or given by somebody, and a job made of it: what came in, what is seen, its circuit."""

from collections.abc import Mapping
from dataclasses import replace

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of, place_of, usual_setting
from violet_dial.core.diagnosis.evidence import SEEN_KINDS
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.practice.bench import Bench
from violet_dial.core.practice.exercise import Exercise, ExerciseWish, exercise_of
from violet_dial.core.receiving.findings import FindingKind
from violet_dial.core.receiving.places import DeviceKind, spot_named
from violet_dial.core.records.circuit import Evidence
from violet_dial.job.act import ActResult
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.practising import Coaching, Practising
from violet_dial.job.receiving import Finding
from violet_dial.practise.exercise import PRACTISE, Secret, bench_of, name_of, sealed_of
from violet_dial.practise.forms import TEXT, complaint_of
from violet_dial.services.circuits import circuit_from, templates

LIGHTS = {1000.0: "", 10_000.0: " in bright light", 100.0: " in dim light"}  # lx
KINDS: dict[str, DeviceKind] = {
    "cds-series": "reflex", "cds-bridge": "reflex", "cds-two-range": "hand meter", "selenium-movement": "hand meter",
    "selenium-booster": "hand meter", "selenium-amplifier": "hand meter", "silicon-lamps": "rangefinder compact",
    "silicon-shutter": "instant camera", "motor-transfer": "rangefinder compact", "regulator-clock": "instant camera",
    "needle": "hand meter", "speeds": "rangefinder compact",
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


def shipped() -> Mapping[str, Circuit]:
    """The circuits exercises are drawn over, by stem."""
    return {template.stem: circuit_from(template.text) for template in templates()}


def drawn(wish: ExerciseWish) -> Secret:
    """The exercise of a seed with its circuit. Raises InvalidInput: none can be given."""
    exercise = exercise_of(wish, shipped())
    return Secret(exercise, next((template.text for template in templates() if template.stem == exercise.stem), TEXT))


def given(job: Job, secret: Secret, coaching: Coaching, at: str, title: str = "") -> ActResult:
    """The job as an exercise: what came in, what is seen of it, its circuit, the sealed device."""
    exercise = secret.exercise
    bench = bench_of(sealed_of(secret))
    name = title or f"Practice {exercise.seed}, level {exercise.level}"
    kind = KINDS.get(exercise.stem, "board")
    form = exercise.form
    tracing = replace(job.tracing, setting=usual_setting(bench.circuit))
    if exercise.papers:
        tracing = replace(tracing, circuit_name=name_of(exercise), circuit_text=secret.circuit_text)
    elif form is None:  # only what is seen of the board: its spots
        tracing = replace(tracing, board=Board(spots=board_from_spice(secret.circuit_text).spots))
    job = replace(
        job,
        device=Device(name, kind=kind, family=exercise.device),
        intake=Intake(complaint_of(exercise) if form else complaint(bench), tried_already=_tried(exercise)),
        receiving=replace(job.receiving, findings=_findings(exercise, bench.circuit, kind)),
        tracing=job.tracing if form else tracing,
        practising=Practising(sealed_of(secret), exercise.level, exercise.device, coaching),
    )
    return ActResult(job, PRACTISE, f"Exercise begun: level {exercise.level}, {exercise.device}")


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
