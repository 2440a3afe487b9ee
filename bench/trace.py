"""Hidden faults found, and whether what is said of them is true: in every band of stated chance, how often it is right.

Devices are drawn over the circuits that ship and four more: values off by their tolerances, a fault of a kind drawn evenly
(its figure at random, also such as are on no list), readings with a meter's noise by `bench.device`. Faults that no
allowed test can see are drawn again. The ranker sees the circuit as drawn, never the device.
"""

import statistics
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

import violet_dial
from bench.device import Device
from bench.measure import row
from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import LEADS, Setting, kind_of, usual_setting
from violet_dial.core.diagnosis.allowed import Reach, candidates, is_safe, useful_settings
from violet_dial.core.diagnosis.evidence import Evidence, Prefer
from violet_dial.core.diagnosis.extended import STATES, neighbours
from violet_dial.core.diagnosis.faults import TOUCH_OHM, Fault, changes_of, faults_of, shows
from violet_dial.core.diagnosis.hypotheses import Belief, Hypothesis, singles_of
from violet_dial.core.diagnosis.likelihood import scale_value, widened
from violet_dial.core.diagnosis.next_test import Ranking, rank_tests
from violet_dial.core.diagnosis.posterior import Case, Diagnosis, Diagnostician, Repair
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.errors import VioletDialError

SHIPPED = Path(violet_dial.__file__).parent / "assets" / "circuits"
MORE = Path(__file__).parent / "circuits"
CASES, MOST_TESTS = 2000, 14
SURE = 0.9  # a group of suspects this likely is worked on: putting it right is the next test
SEED = 11_000
BANDS = ((0.5, 0.7), (0.7, 0.9), (0.9, 0.99), (0.99, 1.01))
SEEN = 4.0  # standard deviations by which some allowed test must differ from a healthy device
KINDS = ("open", "corroded", "switch", "wrong value", "decade", "trimmer", "capacitor", "junction", "cell", "battery",
         "load", "chassis", "bridge", "in a state")  # fmt: skip


@dataclass(frozen=True)
class Plan:
    """One kind of trial: how many faults are hidden, how often a reading is wrong, how the next test is chosen."""

    faults: int = 1
    wrong: float = 0.0
    choose: Prefer | Literal["half-splitting"] = "fewest tests"


@dataclass(frozen=True)
class Outcome:
    """One trial: tests made; the chance stated for the leader and whether it is the truth; the same of its group; whether
    the leader was marked as a bad fit; for two faults whether both are named, at once or one put right after the other."""

    kind: str
    circuit: str
    tests: int
    stated: float
    first: bool
    stated_group: float
    grouped: bool
    marked: bool
    both: bool = False
    said: str = ""
    true: str = ""
    named: tuple[Fault, ...] = ()


def circuits() -> dict[str, Path]:
    return {path.stem: path for path in (*sorted(SHIPPED.glob("*.cir")), *sorted(MORE.glob("*.cir")))}


def _figure(rng: np.random.Generator, low: float, high: float) -> float:
    return float(np.exp(rng.uniform(np.log(low), np.log(high))))


def _of_kind(circuit: Circuit, kinds: tuple[str, ...], rng: np.random.Generator) -> str | None:
    found = [
        part.name
        for part in circuit.parts
        if kind_of(circuit, part) in kinds and not circuit.note(part.name).get("healthy_always")
    ]
    return str(rng.choice(found)) if found else None


def _drawn(circuit: Circuit, kind: str, rng: np.random.Generator) -> Fault | None:
    """A fault of a kind, its part and figure at random; None where the circuit has no such part."""
    if kind == "bridge":
        pairs = [pair for pair in neighbours(circuit) if GROUND not in pair]
        one, other = pairs[int(rng.integers(len(pairs)))]
        return Fault(one, f"bridged to {other}", TOUCH_OHM, to_node=other)
    if kind == "chassis":
        found = [fault for fault, _ in faults_of(circuit) if fault.mode.endswith("chassis")]
        fault = found[int(rng.integers(len(found)))] if found else None
        return (
            fault
            if fault is None or fault.mode != "leaks to chassis"
            else replace(fault, figure=_figure(rng, 50, 200e3))
        )
    parts, modes = {
        "open": (LEADS, (("open", 0, 0),)),
        "corroded": (LEADS, (("high resistance", 20, 1e6),)),
        "switch": (("switch",), (("stuck open", 0, 0), ("stuck closed", 0, 0), ("high resistance", 20, 1e6))),
        "wrong value": (("resistor",), (("too high", 1.6, 20), ("too low", 0.05, 0.6), ("open", 0, 0))),
        "decade": (("resistor",), (("too high", 10, 10), ("too low", 0.1, 0.1))),
        "trimmer": (("trimmer",), (("too high", 1.6, 20), ("too low", 0.05, 0.6), ("open", 0, 0))),
        "capacitor": (
            ("capacitor",), (("leaky", 100, 1e6), ("short", 0, 0), ("open", 0, 0), ("too high", 10, 10), ("too low", 0.1, 0.1))
        ),
        "junction": (
            ("diode", "led", "transistor"),
            (("open", 0, 0), ("short", 0, 0), ("leaky", 100, 1e6), ("collector to emitter short", 0, 0),
             ("collector to emitter leaky", 100, 1e6), ("base to emitter short", 0, 0), ("low gain", 2, 40)),
        ),
        "cell": (
            ("cds", "photocell", "leak"),
            (("open", 0, 0), ("insensitive", 2, 30), ("reads bright", 0.033, 0.5), ("tired", 0.05, 0.7), ("dead", 0.01, 0.01),
             ("leaky", 80, 5e3)),
        ),
        "battery": (
            ("battery",),
            (("weak", 0.4, 0.9), ("dead", 0.05, 0.05), ("reversed", 0, 0), ("high internal resistance", 10, 2000)),
        ),
        "load": (
            ("movement", "lamp", "solenoid", "motor"),
            (("open coil", 0, 0), ("open", 0, 0), ("stuck pointer", 0, 0), ("shorted turns", 0.05, 0.6), ("short", 0, 0)),
        ),
        "in a state": ((*LEADS, "switch", "trimmer"), tuple((mode, 0, 0) for mode, _ in STATES)),
    }[kind]  # fmt: skip
    name = _of_kind(circuit, parts, rng)
    if name is None:
        return None
    mode, low, high = modes[int(rng.integers(len(modes)))]
    listed = {fault.mode for fault, _ in faults_of(circuit) if fault.part == name} | {one for one, _ in STATES}
    if mode not in listed:
        return None
    return Fault(name, mode, _figure(rng, low, high) if high else 0.0, only=dict(STATES).get(mode, ""))


def _all_asks(circuit: Circuit, now: Setting) -> list[Evidence]:
    predictor = Predictor(circuit, (Hypothesis((), 0.0),), draws=0)
    asks = [
        ask for place, one in enumerate(useful_settings(circuit, now)) for ask in candidates(circuit, one, place == 0)
    ]
    return [ask for ask in asks if is_safe(predictor, ask)]


def draw(circuit: Circuit, count: int, rng: np.random.Generator) -> tuple[str, tuple[Fault, ...]]:
    """So many faults, each of which some allowed test can see."""
    now = usual_setting(circuit)
    asks = _all_asks(circuit, now)
    healthy = Predictor(circuit, (Hypothesis((), 0.0),), draws=0)
    plain = healthy.all_of(asks)
    found: list[Fault] = []
    kinds = []
    while len(found) < count:
        kind = KINDS[int(rng.integers(len(KINDS)))]
        fault = _drawn(circuit, kind, rng)
        if fault is None or fault.part in {one.part for one in found}:
            continue
        faulty = Predictor(circuit, (Hypothesis((fault,), 0.0),), draws=0).all_of(asks)
        if any(
            abs(a.mean[0] - b.mean[0]) > SEEN * widened(ask, a)[0]
            for ask, a, b in zip(asks, plain, faulty, strict=True)
        ):
            found.append(fault)
            kinds.append(kind)
    return " and ".join(kinds), tuple(found)


def same(circuit: Circuit, said: tuple[Fault, ...], true: Fault, tried: tuple[Setting, ...] = (Setting(),)) -> bool:
    """Whether one of the faults said is the true one: the same part in the same way, or the same two points joined.

    What is open in one state only is simply open as long as no other state was ``tried``.
    """
    for one in said:
        if one.name == true.name:
            return True
        if one.part == true.part and _is_open(one, tried) and _is_open(true, tried):
            return True
        if _joins(circuit, one) and _joins(circuit, one) == _joins(circuit, true) and one.only == true.only:
            return True
    return False


def _joins(circuit: Circuit, fault: Fault) -> frozenset[str]:
    """The two nets that a short or a leak joins; points joined by sound leads are one. Empty for other faults."""
    whole = fault.mode in ("short", "stuck closed")
    nodes = [one.nodes for one in changes_of(circuit, fault, Setting()) if one.siemens > 0 and (whole or not one.own)]
    net = {node: node for node in (*circuit.nodes, GROUND)}
    for part in circuit.parts:
        if part.letter == "R" and part.value < 1.0 and (part.name != fault.part or fault.to_node):
            one, other = (net[node] for node in part.nodes)
            net = {node: one if root == other else root for node, root in net.items()}
    kind = "short" if fault.figure < 1.0 else "leak"
    return frozenset({net[node] for node in nodes[0]} | {f"a {kind}"}) if len(nodes) == 1 else frozenset()


def _is_open(fault: Fault, tried: tuple[Setting, ...]) -> bool:
    if fault.mode == "high resistance":
        return fault.figure > 3e5
    return fault.mode in ("open", "stuck open", "open coil") or (
        fault.mode.startswith("open ") and all(shows(fault, setting) for setting in tried)
    )


def trial(task: tuple[str, int, Plan]) -> Outcome:
    """Hidden faults, found or not."""
    stem, seed, plan = task
    rng = np.random.default_rng(seed)
    circuit = _CIRCUITS.setdefault(stem, read_spice(circuits()[stem].read_text(encoding="utf-8")))
    keeper = _KEEPERS.setdefault(stem, Diagnostician())
    kind, hidden = draw(circuit, plan.faults, rng) if plan.faults else ("healthy", ())
    device = Device(circuit, hidden, rng)
    done, evidence = _traced(keeper, Case(circuit), device, (kind, stem), plan)
    mended = next((one for one in hidden if same(circuit, done.named, one)), None)
    if len(hidden) < 2 or done.both or mended is None or done.stated_group < SURE:
        return done
    # One of two is put right: its repair is kept, and the other is looked for.
    rest = tuple(one for one in hidden if one is not mended)
    device.faults = rest
    repaired = next(one for one in done.named if same(circuit, (one,), mended))
    case = Case(circuit, (evidence, ()), (Repair(repaired),))
    second, _ = _traced(keeper, case, device, (kind, stem), plan)
    return replace(done, tests=done.tests + second.tests, both=second.first and second.stated > 0.5)


def _traced(
    keeper: Diagnostician, case: Case, device: Device, what: tuple[str, str], plan: Plan
) -> tuple[Outcome, tuple[Evidence, ...]]:
    """Tests made until a group is likelier than `SURE`, or none is left."""
    circuit, evidence = case.circuit, case.now
    stands = usual_setting(circuit)
    for made in range(MOST_TESTS + 1):
        found = keeper.diagnose(replace(case, epochs=(*case.epochs[:-1], evidence)))
        prefer: Prefer = "least minutes" if plan.choose == "least minutes" else "fewest tests"
        ranking = rank_tests(found, stands, Reach(taken=evidence, prefer=prefer))
        tried = tuple(dict.fromkeys(one.setting for one in evidence)) or (Setting(),)
        done = _outcome(circuit, (*what, made), device.faults, found, ranking, tried)
        sure = done.stated_group >= SURE and len(evidence) > 0
        if sure or not ranking.tests or made == MOST_TESTS or ranking.tests[0].bits < 0.01:
            break
        ask = ranking.tests[0].ask
        stands = ask.setting
        try:
            evidence = (*evidence, device.read(ask, plan.wrong))
        except VioletDialError:  # the device itself has no operating point: another reading is none either
            break
    return done, evidence


def _outcome(
    circuit: Circuit, what: tuple[str, str, int], hidden: tuple[Fault, ...], found: Diagnosis, ranking: Ranking,
    tried: tuple[Setting, ...],
) -> Outcome:  # fmt: skip
    kind, stem, made = what
    chances = {one.name: (one.probability, one.faults) for one in found.suspects}
    chances["no fault"] = (found.healthy, ())
    top = max(chances, key=lambda name: chances[name][0])
    group = next((one for one in ranking.groups if top in one), (top,))
    stated_group = sum(chances[name][0] for name in group if name in chances)

    def is_true(name: str) -> bool:
        faults = chances[name][1] if name in chances else ()
        return not faults if not hidden else any(same(circuit, faults, one, tried) for one in hidden)

    both = len(hidden) > 1 and all(same(circuit, chances[top][1], one, tried) for one in hidden)
    marked = found.fitting.is_bad
    return Outcome(
        kind, stem, made, chances[top][0], is_true(top), stated_group, any(is_true(name) for name in group), marked, both,
        top, " and ".join(one.words for one in hidden), chances[top][1],
    )  # fmt: skip


_KEEPERS: dict[str, Diagnostician] = {}
_CIRCUITS: dict[str, Circuit] = {}


def run(
    plan: Plan, cases: int, pool: ProcessPoolExecutor, work: Callable[[tuple[str, int, Plan]], Outcome] = trial
) -> list[Outcome]:
    """Trials spread evenly over the circuits."""
    stems = list(circuits())
    tasks = [(stems[n % len(stems)], SEED + n, plan) for n in range(cases)]
    tasks.sort(key=lambda task: task[0])  # a worker keeps what it solved for one circuit
    return list(pool.map(work, tasks, chunksize=max(cases // 64, 1)))


def half_splitting(task: tuple[str, int, Plan]) -> Outcome:
    """Good or bad at the point that parts the remaining suspects most evenly; those left are then checked one by one."""
    stem, seed, _ = task
    rng = np.random.default_rng(seed)
    circuit = read_spice(circuits()[stem].read_text(encoding="utf-8"))
    kind, hidden = draw(circuit, 1, rng)
    device = Device(circuit, hidden, rng)
    singles = tuple(one for one in singles_of(circuit, Belief()) if one.law == "plain")
    asks = _all_asks(circuit, usual_setting(circuit))
    predictor = Predictor(circuit, singles, draws=0)
    predictions = dict(zip(asks, predictor.all_of(asks), strict=True))
    limit = {ask: 4 * widened(ask, one)[0] for ask, one in predictions.items()}
    bad = {ask: np.abs(one.mean - one.mean[0]) > limit[ask] for ask, one in predictions.items()}
    left = np.array([bool(one.faults) for one in singles])
    made, unused = 0, list(asks)
    while made < MOST_TESTS and unused:
        shares = [abs(bad[ask][left].mean() - 0.5) for ask in unused]
        best = int(np.argmin(shares))
        if shares[best] >= 0.5 - 1e-9:
            break
        ask = unused.pop(best)
        is_bad = abs(scale_value(device.read(ask)) - predictions[ask].mean[0]) > limit[ask]
        kept = left & (bad[ask] == is_bad)
        made += 1
        left = kept if kept.any() else left
    parts = {singles[n].faults[0].part for n in np.flatnonzero(left)}
    hit = any(same(circuit, singles[n].faults, hidden[0]) for n in np.flatnonzero(left))
    return Outcome(kind, stem, made + (len(parts) - 1 + 1) // 2, 0.0, hit and len(parts) == 1, 0.0, hit, False)


def bands(found: list[Outcome]) -> list[tuple[str, int, float, float]]:
    """In each band of what was stated of the leader's group: how many, what was said on average, how many were right."""
    lines = []
    for low, high in BANDS:
        inside = [one for one in found if low <= one.stated_group < high]
        if inside:
            said = statistics.mean(one.stated_group for one in inside)
            lines.append(
                (f"{low:.2f} to {min(high, 1):.2f}", len(inside), said, statistics.mean(one.grouped for one in inside))
            )
    return lines


def _share(flags: list[bool]) -> str:
    return f"{100 * sum(flags) / max(len(flags), 1):.1f} %"


def report_plan(name: str, found: list[Outcome]) -> None:
    """One plan's lines."""
    tests = [one.tests for one in found]
    row(
        f"{name}, {len(found)} devices", f"median {statistics.median(tests):.0f}, mean {statistics.mean(tests):.1f} tests",
        f"first {_share([one.first for one in found])}, in its group {_share([one.grouped for one in found])}",
    )  # fmt: skip
    for band, count, said, right in bands(found):
        row(f"   said {band}", f"{count} times, {100 * said:.1f} % on average", f"right {100 * right:.1f} %")
    sure = [one for one in found if one.stated_group >= SURE]
    wrong = [one for one in sure if not one.grouped]
    row("   of claims above 0.9 wrong", _share([not one.grouped for one in sure]), "goal: at most 3 %")
    row(
        "   and not marked as a bad fit",
        f"{100 * sum(not one.marked for one in wrong) / max(len(sure), 1):.1f} %",
        "goal: at most 1 %",
    )


def report(cases: int = CASES) -> None:
    """All plans."""
    with ProcessPoolExecutor() as pool:
        singles = run(Plan(), cases, pool)
        report_plan("fewest tests", singles)
        for kind in KINDS:
            some = [one for one in singles if one.kind == kind]
            row(
                f"   {kind}, {len(some)}",
                f"first {_share([one.first for one in some])}",
                f"group {_share([one.grouped for one in some])}",
            )
        report_plan("least minutes", run(Plan(choose="least minutes"), cases // 4, pool))
        report_plan("one reading in ten wrong", run(Plan(wrong=0.1), cases // 2, pool))
        pairs = run(Plan(faults=2), cases // 8, pool)
        report_plan("two faults (either counts)", pairs)
        row("   both named, one after the other", _share([one.both for one in pairs]), "goal: 50 %")
        healthy = run(Plan(faults=0), cases // 8, pool)
        report_plan("healthy devices", healthy)
        accused = [one.said != "no fault" and one.stated >= SURE for one in healthy]
        row("   accused at 0.9", _share(accused), "goal: at most 2 %")
        halves = run(Plan(), cases // 8, pool, half_splitting)
        ratio = statistics.median(one.tests for one in singles) / statistics.median(one.tests for one in halves)
        row("tests beside half-splitting", f"{ratio:.2f}", "goal: 0.50")


if __name__ == "__main__":
    import sys

    report(int(sys.argv[1]) if len(sys.argv) > 1 else CASES)
