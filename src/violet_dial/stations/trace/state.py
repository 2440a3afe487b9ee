"""Trace: what its page shows, what it wants done next, its state on the line, its words for the card and for search."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import sees_light
from violet_dial.core.diagnosis.case import Suspect
from violet_dial.core.diagnosis.evidence import evidence_words
from violet_dial.core.diagnosis.explain import evidence_said, short_words, spoken, suspect_words, warnings_of
from violet_dial.core.diagnosis.next_test import ONE_MORE_MIN, Test, TestOutcome
from violet_dial.core.errors import VioletDialError
from violet_dial.core.mapping.drawing import BoardDrawing
from violet_dial.core.receiving.findings import FindingKind
from violet_dial.core.records.circuit import Evidence, Prefer, Setting
from violet_dial.job.bundle import Member
from violet_dial.job.document import Job
from violet_dial.report.dial import MarkState
from violet_dial.services.circuits import circuit_of, circuit_text_of, has_circuit
from violet_dial.services.gate import place_of
from violet_dial.services.next import NextAct, Urgency, approach_of, described
from violet_dial.services.station import StationState
from violet_dial.stations.trace.map_acts import drawing_of
from violet_dial.stations.trace.said import ending, test_cost, test_title
from violet_dial.stations.trace.table import write_evidence
from violet_dial.stations.trace.work import TraceResult, before_and_after, question_of

MOST_BARS = 7
LEAST_BAR = 1e-3
MOST_OUTCOMES = 6
MOST_ALIKE = 4
WORKING = "Working it out…"
NO_CIRCUIT = "Choose a circuit first (F4)."
NOTHING_SAID = "Nothing speaks for or against it yet but how often it happens."
HINTS = {
    "volt": "1.52 V", "ohm": "38k, OL", "seen": "on, dim, off, 40 %", "amp": "150 uA", "capacitance": "2.2 uF",
    "continuity": "beeps, no beep", "ripple": "1.1 V", "time": "41 ms",
    "clock": "clock, no clock", "dip": "0.8 V", "wakes": "wakes, stays asleep",
}  # fmt: skip
Row = tuple[str, ...]


# the line, the card, search, the bundle


def state(job: Job) -> StationState:
    """Open without a circuit, done once something was put right and the meter was read since."""
    if not has_circuit(job):
        return "open"
    return "done" if job.tracing.repairs and job.light.current.readings else "begun"


def finding(job: Job) -> str:
    """How far tracing is; empty before anything was measured."""
    count, board = len(job.tracing.now), job.tracing.board
    if not count and not job.tracing.repairs and board.items:
        return f"{len(board.items)} parts on the map, {len(board.touches)} touches made"
    if job.tracing.repairs and not count:
        return f"{job.tracing.repairs[-1].words} put right; not tested since"
    return f"{count} piece{'s' if count > 1 else ''} of evidence taken" if count else ""


def words(job: Job) -> tuple[str, ...]:
    """What a person wrote at Trace."""
    tracing = job.tracing
    return (
        tracing.circuit_name,
        *(f"{one.typed} {one.evidence.note}" for epoch in tracing.epochs for one in epoch),
        *(repair.words for repair in tracing.repairs),
    )


def members(job: Job) -> tuple[Member, ...]:
    """The circuit as SPICE text, and the evidence between repairs as CSV."""
    tracing = job.tracing
    circuit = (("circuit.cir", circuit_text_of(job)),) if has_circuit(job) else ()
    epochs = enumerate(tracing.epochs, start=1)
    return (*circuit, *((f"evidence-{n}.csv", write_evidence(one.evidence for one in epoch)) for n, epoch in epochs if epoch))


# what is to be done next


def next_of(job: Job, result: object) -> NextAct | None:
    """A circuit, where the fault is to be traced; the next test; after a repair the same reading again."""
    if not described(job):
        return None
    tracing = job.tracing
    if not has_circuit(job):
        wanted = approach_of(job)
        return _choose(wanted.reason) if wanted.first == "trace" else None
    if not tracing.board.is_empty and tracing.is_only_compared and any(item.how == "guessed" for item in tracing.board.items):
        return _confirm(job)
    if tracing.repairs:
        return None if tracing.now or job.light.current.readings else _again(job)
    found = result if isinstance(result, TraceResult) and result.is_whole and result.question == question_of(job) else None
    return _test(job, found) if found is not None else _begin(job)


def _choose(reason: str) -> NextAct:
    return NextAct(
        "Trace", "Choose the circuit it has", reason, "2 min · nothing to open", "Choose a circuit", "choose circuit",
        "tracing", Urgency.FIRST,
    )  # fmt: skip


def _confirm(job: Job) -> NextAct:
    """A board that is being traced: joins that are only guessed are touched first."""
    guessed = sum(item.how == "guessed" for item in job.tracing.board.items)
    reason = f"{guessed} of its joins {'are' if guessed > 1 else 'is'} only guessed: the meter says, two spots at a time."
    return NextAct(
        "Trace", "Confirm the map with the meter", reason, "seconds a touch · supply out", "Next touch", "map", "tracing",
        Urgency.TRACE,
    )  # fmt: skip


def _again(job: Job) -> NextAct:
    """After a repair: same reading again, before and after side by side."""
    before = job.tracing.epochs[-2] if len(job.tracing.epochs) > 1 else ()
    where = f": {before[-1].evidence.where}" if before else ""
    reason = f"{job.tracing.repairs[-1].words} is put right; the same reading before and after shows whether it was that."
    return NextAct(
        "Trace", f"Take the same reading again{where}", reason, "1 min", "Take reading", "again", "tracing", Urgency.TRACE
    )


def _begin(job: Job) -> NextAct:
    """Before the suspects are worked out, or where they cannot be."""
    count = len(job.tracing.now)
    reason = f"{count} pieces of evidence so far; the station ranks the suspects and the tests."
    return NextAct("Trace", "Make the next test", reason, "a few minutes", "Next test", "test", "tracing", Urgency.TRACE)


def _test(job: Job, result: TraceResult) -> NextAct:
    circuit = result.case.circuit
    if not result.ranking.tests:
        title, reason = ending(result.diagnosis, result.ranking)
        return NextAct("Trace", title, reason, "some minutes", "Suspects", "suspects", "tracing", Urgency.TRACE)
    test, prefer = result.ranking.tests[0], job.tracing.prefer
    best = "most" if prefer == "fewest tests" else "best for its time"
    reason = f"It parts the suspects {best}: {test.bits:.2f} bit. A healthy one shows {test.healthy}."
    more = f"({test.minutes:.2f} + {ONE_MORE_MIN:.2f} min for one more test)"
    arithmetic = f"{test.bits:.2f} bit / {more} = {test.worth:.2f} bit a minute"
    return NextAct(
        "Trace", test_title(circuit, test), reason, test_cost(test), "Take reading", "test", "tracing", Urgency.TRACE,
        arithmetic=arithmetic,
    )  # fmt: skip


# what the page shows


@dataclass(frozen=True)
class Work:
    """What was worked out last, and why nothing could be for the job as it stands."""

    result: TraceResult | None = None
    failure: str = ""


@dataclass(frozen=True)
class SuspectBar:
    """One suspect: what is said of it and how likely it is."""

    words: str
    probability: float


@dataclass(frozen=True)
class TestShown:
    """The next test: ``test`` None where there is none, and ``nothing`` says why; what each outcome would leave."""

    test: Test | None
    nothing: str = ""
    hint: str = ""
    outcomes: tuple[tuple[str, str, str], ...] = ()
    groups: str = ""


@dataclass(frozen=True)
class MapState:
    """What lies over the map: suspicion by part, the two probe points, findings by part, parts lifted off."""

    suspicion: Mapping[str, float] = field(default_factory=dict)
    plus: str = ""
    minus: str = ""
    findings: Mapping[str, FindingKind] = field(default_factory=dict)
    lifted: frozenset[str] = frozenset()


@dataclass(frozen=True)
class SuspectsShown:
    """All that the page shows. ``whys`` opens each suspect; ``settled`` when the judgement belongs to this very job."""

    circuit: str
    stands: str
    rows: tuple[Row, ...]
    marks: tuple[MarkState, ...]
    prefer: Prefer
    bars: tuple[SuspectBar, ...]
    whys: tuple[str, ...]
    summary: str
    next: TestShown
    map: BoardDrawing
    over: MapState
    settled: bool


def shown(job: Job, work: Work) -> SuspectsShown:
    """What the page shows of a job, with what was worked out so far."""
    tracing = job.tracing
    if not has_circuit(job):
        return SuspectsShown(
            "Choose a circuit  F4", "No circuit yet: F4 offers eight to begin from, or type your own.", (), (),
            tracing.prefer, (), (), "", TestShown(None, f"No test to suggest. {NO_CIRCUIT}"), BoardDrawing(),
            MapState(), True,
        )  # fmt: skip
    question = question_of(job)
    settled = work.result is not None and work.result.question == question and work.result.is_whole
    circuit, trouble = _circuit(job)
    failure = work.failure
    result = None if failure else _usable(job, work.result)
    diagnosis = result.diagnosis if result else None
    test = _test_shown(result, failure or trouble)
    return SuspectsShown(
        f"{tracing.circuit_name}  F4", f"Stands now: {_stands(circuit, tracing.setting)}",
        tuple((str(n), said_plain(circuit, one.evidence), one.evidence.setting.words) for n, one in enumerate(tracing.now, 1)),
        tuple("high" if diagnosis and one.evidence in diagnosis.unexplained else "inside" for one in tracing.now),
        tracing.prefer, _bars(result), _whys(job, result),
        failure or trouble or (_summary(result) if settled and result else WORKING), test,
        drawing_of(job), _over(job, circuit, result, test.test), settled or bool(failure or trouble),
    )  # fmt: skip


def _stands(circuit: Circuit | None, setting: Setting) -> str:
    """How it stands; a light that counts and was not said, with how it is said."""
    dark = circuit is not None and sees_light(circuit) and not setting.is_light_said
    ask = ("light not said (say 300 lx, or 300 lx by the room)",) if dark else ()
    return ", ".join((setting.words or "as usual", *ask))


def _usable(job: Job, result: TraceResult | None) -> TraceResult | None:
    """The result as long as it is of this job and this circuit: shown until the newer one comes, and said to be older."""
    if result is None or result.question.job_id != job.job_id:
        return None
    return result if result.question.tracing.circuit_text == circuit_text_of(job) else None


def _circuit(job: Job) -> tuple[Circuit | None, str]:
    try:
        return circuit_of(job), ""
    except VioletDialError as error:
        return None, str(error)


def said_plain(circuit: Circuit | None, evidence: Evidence) -> str:
    """Evidence without how the device stood: that has a column of its own."""
    plain = replace(evidence, setting=Setting())
    try:
        return evidence_said(circuit, plain) if circuit is not None else evidence_words(plain)
    except VioletDialError:
        return evidence_words(plain)


def _bars(result: TraceResult | None) -> tuple[SuspectBar, ...]:
    if result is None:
        return ()
    suspects = [suspect for suspect in result.diagnosis.suspects[:MOST_BARS] if suspect.probability > LEAST_BAR]
    return tuple(SuspectBar(_bar_words(result.case.circuit, suspect), suspect.probability) for suspect in suspects)


def _bar_words(circuit: Circuit, suspect: Suspect) -> str:
    """A suspect on its bar; of two faults at once the parts are named, what they do opens below."""
    if len(suspect.faults) > 1:
        return " + ".join(short_words(circuit, fault.part) for fault in suspect.faults)
    return suspect_words(circuit, suspect)


def _whys(job: Job, result: TraceResult | None) -> tuple[str, ...]:
    if result is None:
        return ()
    compared = [f"before: {before} · now: {now}" for _, before, now in before_and_after(job)]
    found = []
    for suspect, reasons in zip(result.diagnosis.suspects, result.reasons, strict=False):
        lines = [f"+ {one}" for one in reasons.pro] + [f"− {one}" for one in reasons.con]
        words = suspect_words(result.case.circuit, suspect)
        found.append("\n".join([words, *(lines or [NOTHING_SAID]), *compared, "R: put right"]))
    return tuple(found)


def _summary(result: TraceResult) -> str:
    diagnosis = result.diagnosis
    chances = (
        f"No fault: {diagnosis.healthy:.0%}. Not on the list: {diagnosis.unlisted:.0%}. {diagnosis.entropy_bits:.1f} bit open; "
        f"{diagnosis.pairs_cut} pairs looked at."
    )
    return " ".join((chances, *warnings_of(diagnosis)))


def _test_shown(result: TraceResult | None, trouble: str) -> TestShown:
    if result is None:
        return TestShown(None, f"No test to suggest. {trouble or WORKING}")
    tests, circuit = result.ranking.tests, result.case.circuit
    if not tests:
        said = "One fault alone is left." if result.ranking.left else ending(result.diagnosis, result.ranking)[1]
        return TestShown(None, f"No test to suggest. {said}" if result.is_whole else WORKING)
    leader = result.diagnosis.suspects[0].name if result.diagnosis.suspects else ""
    alike = [_alike(circuit, group) for group in result.ranking.groups if leader in group]
    return TestShown(
        tests[0], "", f"shows: {HINTS.get(tests[0].ask.test, '')}",
        tuple(_outcome(circuit, outcome) for outcome in tests[0].outcomes[:MOST_OUTCOMES]),
        f"No allowed test parts: {'; '.join(alike)}" if alike else "",
    )  # fmt: skip


def _alike(circuit: Circuit, group: tuple[str, ...]) -> str:
    """Suspects said together; how many more there are, where they are many."""
    more = f" and {len(group) - MOST_ALIKE} more" if len(group) > MOST_ALIKE else ""
    return " or ".join(spoken(circuit, name) for name in group[:MOST_ALIKE]) + more


def _outcome(circuit: Circuit, one: TestOutcome) -> tuple[str, str, str]:
    left = ", ".join(f"{spoken(circuit, name)} {share:.0%}" for name, share in one.leaves[:1])
    return one.words, f"{one.probability:.0%}", left


def _over(job: Job, circuit: Circuit | None, result: TraceResult | None, test: Test | None) -> MapState:
    if circuit is None:
        return MapState()
    suspicion: dict[str, float] = {}
    for suspect in result.diagnosis.suspects if result else ():
        for fault in suspect.faults:
            suspicion[fault.part] = max(suspicion.get(fault.part, 0.0), suspect.probability)  # as the list has it
    places = {place_of(job, one).lower(): one.kind for one in job.receiving.findings}
    noted = {part.name: circuit.note(part.name).get("place", "").lower() for part in circuit.parts}
    findings = {name: places[place] for name, place in noted.items() if place in places}
    plus, minus = points_said(circuit, test) if test else ("", "")
    return MapState(suspicion, plus, minus, findings, frozenset(job.tracing.setting.disconnected))


def points_said(circuit: Circuit, test: Test) -> tuple[str, str]:
    """The two spots the probes go to; for something seen, the ends of its part."""
    return (circuit.part(test.ask.part).nodes[0], "") if test.ask.part else (test.ask.plus, test.ask.minus)
