"""The diagnosis of a job: the case it makes, what findings and the strip-down add to it, and its working out."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.case import Case, Diagnosis, Repair
from violet_dial.core.diagnosis.evidence import THIRD, evidence_words
from violet_dial.core.diagnosis.explain import Difference, Explainer, Reasons, differences
from violet_dial.core.diagnosis.hypotheses import Priors
from violet_dial.core.diagnosis.next_test import Ranking, rank_tests
from violet_dial.core.diagnosis.posterior import LARGE, Diagnostician
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board, node_of
from violet_dial.core.opening.steps import names_of
from violet_dial.core.opening.tally import tally
from violet_dial.core.receiving.findings import MEANINGS
from violet_dial.core.receiving.places import DeviceKind
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.job.opening import Opening
from violet_dial.job.receiving import Finding
from violet_dial.job.tracing import Tracing
from violet_dial.services.circuits import circuit_of, circuit_text_of
from violet_dial.services.gate import place_of
from violet_dial.services.repairs import touches_since
from violet_dial.services.way_in import ways_in

MOST_EXPLAINED = 8
NO_BOARD = Board()
MOST_TOUCHES = 60  # of the map, the latest, that the suspects are judged by


def case_of(job: Job) -> Case:
    """All that is known, as the diagnosis takes it."""
    circuit = circuit_of(job)
    every = (tuple(taken.evidence for taken in epoch) for epoch in job.tracing.epochs)
    epochs = tuple(tuple(one for one in epoch if one.note != THIRD) for epoch in every) or ((),)
    epochs = (*epochs[:-1], (*touched(job), *epochs[-1]))
    repairs = tuple(Repair(taken.fault) for taken in job.tracing.repairs)
    return Case(circuit, epochs, repairs, Priors(raised_by_findings(job, circuit), job.tracing.weights))


def touched(job: Job) -> tuple[Evidence, ...]:
    """The touches of the map since the last repair, as evidence: ohms and beeps between two points, the supply out."""
    found = []
    for touch in touches_since(job)[-MOST_TOUCHES:]:
        setting = replace(touch.setting, supply="off")
        points = (node_of(touch.a), node_of(touch.b))
        if touch.beep is None:
            is_open = touch.ohm >= OVERLOAD_OHM
            u = touch.capture.u if touch.capture is not None and not is_open else 0.0
            found.append(Evidence("ohm", min(touch.ohm, OVERLOAD_OHM), *points, setting=setting, u=u))
        else:
            found.append(Evidence("continuity", float(touch.beep), *points, setting=setting))
    return tuple(found)


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
                kind_of(circuit, part) in meaning.suspects or ("wire" in meaning.suspects and kind_of(circuit, part) == "track")
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


def opened_of(job: Job) -> frozenset[str]:
    """What is off at Open now, by its names."""
    off = [step for step in job.opening.steps if not step.planned and tally(step).state == "open"]
    return frozenset(name for step in off for name in names_of(step))


def within_reach(job: Job, board: Board) -> Board:
    """The map as it can be touched now: spots behind a cover that is off at Open lie open."""
    opened = opened_of(job)
    if not opened:
        return board
    spots = tuple(
        replace(spot, behind="", minutes=0.0) if spot.behind and spot.behind.lower() in opened else spot for spot in board.spots
    )
    return replace(board, spots=spots)


def reach_of(job: Job) -> Reach:
    """What is open at Open, and minutes to what is not."""
    opened = opened_of(job)
    minutes: dict[str, float] = {}
    for note in circuit_of(job).notes.values():
        behind = note.get("behind", "").lower()
        if behind and behind not in minutes:
            try:
                minutes[behind] = ways_in(job, note["behind"])[0].minutes
            except InvalidInput:
                continue  # nothing is known of the way there: the note's own minutes stand
    return Reach(opened, minutes, (*touched(job), *(taken.evidence for taken in job.tracing.now)), job.tracing.prefer)


@dataclass(frozen=True)
class TraceQuestion:
    """What a diagnosis is worked out from: it is an answer to this, and to nothing else."""

    job_id: str
    kind: DeviceKind
    tracing: Tracing  # without what was drawn of the map, which changes nothing: the circuit made of it counts
    findings: tuple[Finding, ...]
    opening: Opening


def question_of(job: Job) -> TraceQuestion:
    """What the diagnosis of a job is worked out from."""
    return TraceQuestion(
        job.job_id,
        job.device.kind,
        replace(
            job.tracing, pinned=(), circuit_text=circuit_text_of(job), board=replace(NO_BOARD, touches=job.tracing.board.touches)
        ),
        job.receiving.findings,
        job.opening,
    )


@dataclass(frozen=True)
class TraceResult:
    """The answer to a question: the posterior, the tests, and reasons for each leading suspect."""

    question: TraceQuestion
    case: Case
    diagnosis: Diagnosis
    ranking: Ranking
    reasons: tuple[Reasons, ...]
    sums: tuple[tuple[str, ...], ...] = ()  # of the same suspects: their arithmetic
    differences: tuple[Difference, ...] = ()
    is_whole: bool = True  # False: single faults alone, what follows is still being worked out


def work_out(job: Job, keeper: Diagnostician, task: Task, first: Callable[[TraceResult], None] | None = None) -> TraceResult:
    """The diagnosis of a job: posterior, next tests, reasons. ``first`` is told of single faults alone, at once, where the
    circuit is so large that the rest takes a while. Raises InvalidInput, CannotSolve: the circuit or its evidence cannot be
    used; the sentence says why.
    """
    case = case_of(job)
    task.report(0.1, "single faults")
    if first is not None and len(case.circuit.parts) >= LARGE:
        first(TraceResult(question_of(job), case, keeper.first(case, task), Ranking((), ()), (), is_whole=False))
    task.report(0.2, "two faults at once, and what is not on the list")
    diagnosis = keeper.diagnose(case, task)
    task.report(0.4, "next test")
    ranking = rank_tests(diagnosis, job.tracing.setting, reach_of(job), task)
    explained = diagnosis.suspects[:MOST_EXPLAINED]
    explainer = Explainer(diagnosis, explained)
    reasons, sums = [], []
    for one in explained:
        task.check()
        reasons.append(explainer.reasons(one))
        sums.append(explainer.arithmetic(one))
    return TraceResult(question_of(job), case, diagnosis, ranking, tuple(reasons), tuple(sums), differences(case))


def before_and_after(job: Job) -> tuple[tuple[str, str, str], ...]:
    """The same question before the last repair and after it: (where, before, after)."""
    if len(job.tracing.epochs) < 2:
        return ()
    found = []
    earlier = [taken.evidence for epoch in job.tracing.epochs[:-1] for taken in epoch]
    for taken in job.tracing.now:
        now = taken.evidence
        same = [one for one in earlier if (one.test, one.plus, one.minus, one.part) == (now.test, now.plus, now.minus, now.part)]
        if same:
            found.append((now.where, evidence_words(same[-1]), evidence_words(now)))
    return tuple(found)
