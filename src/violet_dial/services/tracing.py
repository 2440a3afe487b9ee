"""Acts at Trace: circuit, evidence, repairs; and the case they make."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import check_notes, kind_of, set_circuit, usual_setting
from violet_dial.core.diagnosis.evidence import OVERLOAD_OHM, Evidence, Prefer, evidence_words, understand_evidence
from violet_dial.core.diagnosis.explain import Reasons, evidence_said, reasons_for
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.diagnosis.hypotheses import Belief
from violet_dial.core.diagnosis.next_test import Ranking, Reach, rank_tests
from violet_dial.core.diagnosis.posterior import Case, Diagnosis, Diagnostician, Repair
from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import names_of
from violet_dial.core.opening.tally import tally
from violet_dial.core.receiving.findings import MEANINGS
from violet_dial.core.steady.samples import Capture
from violet_dial.core.task import Task
from violet_dial.job.document import MOST_EVIDENCE, Job, Spot, TakenEvidence, TakenRepair, Tracing
from violet_dial.services.acts import Done
from violet_dial.services.opening import ways_in
from violet_dial.services.receiving import place_of

MOST_EXPLAINED = 8
CIRCUITS = Path(__file__).parent.parent / "assets" / "circuits"


@dataclass(frozen=True)
class Template:
    """A circuit to start from: the stem of its file, its title, its text."""

    stem: str
    title: str
    text: str


@lru_cache(maxsize=1)
def templates() -> tuple[Template, ...]:
    """The circuits that ship with the application."""
    found = []
    for path in sorted(CIRCUITS.glob("*.cir")):
        text = path.read_text(encoding="utf-8")
        found.append(Template(path.stem, text.split("\n", 1)[0].lstrip("* "), text))
    return tuple(found)


@lru_cache(maxsize=32)
def circuit_from(text: str) -> Circuit:
    """A circuit from its text, its notes checked.

    Raises
    ------
    InvalidInput
        A line or note that is not understood, by its number.
    """
    circuit = read_spice(text)
    if not circuit.parts:
        raise InvalidInput("Circuit", circuit.title, "at least one part under the title line")
    check_notes(circuit)
    set_circuit(circuit, usual_setting(circuit))
    return circuit


def circuit_of(job: Job) -> Circuit:
    """The job's circuit.

    Raises
    ------
    InvalidInput
        None was chosen yet, or its text is not understood.
    """
    if not job.tracing.circuit_text:
        raise InvalidInput("Circuit", "nothing", "a circuit: choose a template or open a .cir file")
    return circuit_from(job.tracing.circuit_text)


def _with(job: Job, tracing: Tracing) -> Job:
    return replace(job, tracing=tracing)


def choose_circuit(job: Job, name: str, text: str, at: str) -> Done:
    """Begin from a circuit, or edit the one there is; evidence stays."""
    circuit = circuit_from(text)
    for epoch in job.tracing.epochs:
        for taken in epoch:
            _check_fits(circuit, taken.evidence)
    begun = bool(job.tracing.circuit_text)
    setting = job.tracing.setting if begun else usual_setting(circuit)
    tracing = replace(job.tracing, circuit_name=name[:300], circuit_text=text, setting=setting)
    reason = f"Circuit {'edited' if begun and name == job.tracing.circuit_name else 'chosen'}: {name}, {len(circuit.parts)} parts"
    return Done(_with(job, tracing), "Trace", reason[:300])


def _check_fits(circuit: Circuit, evidence: Evidence) -> None:
    nodes = {*circuit.nodes, "0"}
    for node in (evidence.plus, evidence.minus):
        if node and node not in nodes:
            raise InvalidInput(
                "Circuit", f"no point {node}", f"the points of the evidence taken: {evidence_words(evidence)}"
            )
    if evidence.part:
        circuit.part(evidence.part)


def type_evidence(job: Job, text: str, at: str) -> Done:
    """Evidence or a change of how the device stands, as typed."""
    typed = understand_evidence(circuit_of(job), text, job.tracing.setting)
    if typed.evidence is None:
        return Done(
            _with(job, replace(job.tracing, setting=typed.setting)),
            "Trace",
            f"Stands now: {typed.setting.words or 'as usual'}"[:300],
        )
    return _taken(job, TakenEvidence(typed.evidence, text.strip()[:300], at))


def captured_evidence(ask: Evidence, capture: Capture) -> Evidence:
    """The answer to a test from an instrument: beyond the range on ohms is an open circuit."""
    beyond = ask.test == "ohm" and capture.value >= OVERLOAD_OHM
    value = OVERLOAD_OHM if beyond else capture.value
    return replace(ask, value=value if ask.test == "volt" else abs(value), u=0.0 if beyond else capture.u)


def take_evidence(job: Job, evidence: Evidence, at: str, capture: Capture | None = None) -> Done:
    """Evidence of the test that Next asked for; the device stands as the test wanted."""
    if capture is not None and capture.value == math.inf:
        capture = replace(capture, value=OVERLOAD_OHM)
    taken = _taken(job, TakenEvidence(evidence, "", at, capture))
    stands = evidence.setting if evidence.test not in ("ohm", "continuity") else replace(evidence.setting, supply="off")
    return Done(_with(taken.job, replace(taken.job.tracing, setting=stands)), "Trace", taken.reason)


def _taken(job: Job, taken: TakenEvidence) -> Done:
    circuit = circuit_of(job)
    _check_fits(circuit, taken.evidence)
    set_circuit(circuit, taken.evidence.setting)
    now = (*job.tracing.now, taken)
    if len(now) > MOST_EVIDENCE:
        raise InvalidInput("Evidence", len(now), f"at most {MOST_EVIDENCE} between repairs")
    tracing = replace(job.tracing, epochs=(*job.tracing.epochs[:-1], now))
    return Done(_with(job, tracing), "Trace", evidence_said(circuit, taken.evidence)[:300])


def add_evidence(job: Job, evidence: tuple[Evidence, ...], source: str, at: str) -> Done:
    """Evidence from a file, taken whole or not at all."""
    done = Done(job, "Trace", "")
    for one in evidence:
        done = _taken(done.job, TakenEvidence(one, f"from {source}"[:300], at))
    return Done(done.job, "Trace", f"{len(evidence)} pieces of evidence from {source}"[:300])


def strike_evidence(job: Job, index: int, at: str) -> Done:
    """One piece of evidence left out; the log and undo still have it."""
    now = job.tracing.now
    if not 0 <= index < len(now):
        raise InvalidInput("Evidence", index + 1, f"1 to {len(now)}")
    tracing = replace(job.tracing, epochs=(*job.tracing.epochs[:-1], now[:index] + now[index + 1 :]))
    return Done(_with(job, tracing), "Trace", f"Struck out: {evidence_words(now[index].evidence)}"[:300])


def record_fix(job: Job, fault: Fault, words: str, at: str) -> Done:
    """A fault put right: what was measured so far was with it; other suspects live on."""
    circuit_of(job).part(fault.part)
    repair = TakenRepair(fault, words[:300], at)
    tracing = replace(job.tracing, repairs=(*job.tracing.repairs, repair), epochs=(*job.tracing.epochs, ()))
    return Done(_with(job, tracing), "Trace", f"Put right: {words}"[:300])


def pin_spot(job: Job, spot: Spot, at: str) -> Done:
    """A point of the circuit pinned on the map."""
    rest = tuple(one for one in job.tracing.pinned if one.node != spot.node)
    return Done(_with(job, replace(job.tracing, pinned=(*rest, spot))), "Trace", f"{spot.node} pinned on the map")


def set_weight(job: Job, kind: str, weight: float, at: str) -> Done:
    """How often parts of a kind are at fault, as this bench sees it."""
    if not 0 < weight <= 0.5:
        raise InvalidInput("Weight", weight, "more than 0 and up to 0.5")
    rest = tuple(pair for pair in job.tracing.weights if pair[0] != kind)
    return Done(
        _with(job, replace(job.tracing, weights=(*rest, (kind, weight)))),
        "Trace",
        f"Chance of {kind} set to {weight:g}",
    )


def turn_preference(job: Job, at: str) -> Done:
    """Rank tests by what they tell in a minute, or by what they tell alone."""
    prefer: Prefer = "fewest tests" if job.tracing.prefer == "least minutes" else "least minutes"
    return Done(_with(job, replace(job.tracing, prefer=prefer)), "Trace", f"Next test chosen for {prefer}")


def case_of(job: Job) -> Case:
    """All that is known, as the diagnosis takes it."""
    circuit = circuit_of(job)
    epochs = tuple(tuple(taken.evidence for taken in epoch) for epoch in job.tracing.epochs) or ((),)
    repairs = tuple(Repair(taken.fault) for taken in job.tracing.repairs)
    return Case(circuit, epochs, repairs, Belief(raised_by_findings(job, circuit), job.tracing.weights))


def raised_by_findings(job: Job, circuit: Circuit) -> tuple[tuple[str, float], ...]:
    """Factors on chances beforehand from what was found at Receive: parts at that place, and leads that go on from it.

    Corrosion creeps along wires: a lead that shares a point with a raised part gets the square root of its factor.
    """
    raised: dict[str, float] = {}
    for finding in job.receiving.findings:
        meaning, place = MEANINGS[finding.kind], place_of(job, finding).lower()
        for part in circuit.parts:
            at_place = circuit.note(part.name).get("place", "").lower() == place
            if at_place and (
                kind_of(circuit, part) in meaning.suspects
                or ("wire" in meaning.suspects and kind_of(circuit, part) == "track")
            ):
                raised[part.name.lower()] = max(raised.get(part.name.lower(), 1.0), meaning.weight)
    crept = dict(raised)
    for part in circuit.parts:
        touched = [
            raised[other.name.lower()] ** 0.5
            for other in circuit.parts
            if other.name.lower() in raised and set(other.nodes) & set(part.nodes) - {"0"}
        ]
        if touched and kind_of(circuit, part) in ("wire", "track", "joint", "connector"):
            crept[part.name.lower()] = max(crept.get(part.name.lower(), 1.0), *touched)
    return tuple(sorted(crept.items()))


def reach_of(job: Job) -> Reach:
    """What is open at Open, and minutes to what is not."""
    off = [step for step in job.opening.steps if not step.planned and tally(step).state == "open"]
    opened = frozenset(name for step in off for name in names_of(step))
    minutes: dict[str, float] = {}
    for note in circuit_of(job).notes.values():
        behind = note.get("behind", "").lower()
        if behind and behind not in minutes:
            try:
                minutes[behind] = ways_in(job, note["behind"])[0].minutes
            except InvalidInput:
                continue  # nothing is known of the way there: the note's own minutes stand
    return Reach(opened, minutes, tuple(taken.evidence for taken in job.tracing.now), job.tracing.prefer)


@dataclass(frozen=True)
class TraceResult:
    """What the Trace station shows: the posterior, the tests, and reasons for each leading suspect."""

    case: Case
    diagnosis: Diagnosis
    ranking: Ranking
    reasons: tuple[Reasons, ...]


def work_out(job: Job, keeper: Diagnostician, task: Task) -> TraceResult:
    """The diagnosis of a job: posterior, next tests, reasons.

    Raises
    ------
    InvalidInput, CannotSolve
        The circuit or its evidence cannot be used; the sentence says why.
    """
    case = case_of(job)
    task.report(0.1, "suspects")
    diagnosis = keeper.diagnose(case, task)
    task.report(0.3, "next test")
    ranking = rank_tests(diagnosis, job.tracing.setting, reach_of(job), task)
    reasons = []
    for one in diagnosis.suspects[:MOST_EXPLAINED]:
        task.check()
        reasons.append(reasons_for(case, diagnosis, one))
    return TraceResult(case, diagnosis, ranking, tuple(reasons))


def before_and_after(job: Job) -> tuple[tuple[str, str, str], ...]:
    """The same question before the last repair and after it: (where, before, after)."""
    if len(job.tracing.epochs) < 2:
        return ()
    found = []
    earlier = [taken.evidence for epoch in job.tracing.epochs[:-1] for taken in epoch]
    for taken in job.tracing.now:
        now = taken.evidence
        same = [
            one
            for one in earlier
            if (one.test, one.plus, one.minus, one.part) == (now.test, now.plus, now.minus, now.part)
        ]
        if same:
            found.append((now.where, evidence_words(same[-1]), evidence_words(now)))
    return tuple(found)
