"""Hidden faults found: how often the true one is first, in how many tests, beside half-splitting and random choice.

Devices are drawn over the circuits that ship: values off by their tolerances, a fault drawn by its chance beforehand
(those that no allowed test can see are drawn again), readings with meter noise. The ranker sees the circuit as drawn,
not the device. Half-splitting counts tests, so the choice of fewest tests is what it is compared with; the choice of least
minutes, which the application begins with, stands beside it.
"""

import statistics
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

import violet_dial
from bench.measure import row
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import Setting, kind_of, tolerance_of, usual_setting
from violet_dial.core.diagnosis.evidence import Evidence, Prefer
from violet_dial.core.diagnosis.hypotheses import Belief, Hypothesis, singles_of
from violet_dial.core.diagnosis.likelihood import prediction_of, widened
from violet_dial.core.diagnosis.next_test import Reach, candidates, is_safe, rank_tests, useful_settings
from violet_dial.core.diagnosis.posterior import Case, Diagnostician
from violet_dial.core.diagnosis.predict import Predictor

CIRCUITS = Path(violet_dial.__file__).parent / "assets" / "circuits"
CASES, MOST_TESTS = 500, 25
SURE = 0.9  # a group of suspects this likely is worked on: putting it right is the next test
SEED = 11


@dataclass(frozen=True)
class Plan:
    """One kind of trial: how many faults are hidden, how often a reading is wrong, how the next test is chosen."""

    faults: int = 1
    wrong: float = 0.0
    choose: Prefer | Literal["half-splitting", "random"] = "fewest tests"


@dataclass(frozen=True)
class Outcome:
    """One trial: tests made, whether the true fault came first, whether it is in the first's group. Of two faults,
    either counts: the other is looked for once the first is put right."""

    tests: int
    first: bool
    grouped: bool


class Device:
    """A device with hidden faults and values off by their tolerances."""

    def __init__(self, circuit: Circuit, hidden: Hypothesis, rng: np.random.Generator) -> None:
        parts = []
        for part in circuit.parts:
            share = 0.0 if part.letter in "DQB" else tolerance_of(circuit, part)
            parts.append(replace(part, value=part.value * max(1.0 + share * rng.standard_normal(), 0.3)))
        self.circuit = circuit.with_parts(tuple(parts))
        self.predictor = Predictor(self.circuit, (hidden,))
        self.rng = rng

    def read(self, ask: Evidence, wrong: float) -> Evidence:
        """What the meter or the eye says; now and then it is wrong."""
        true = float(prediction_of(self.predictor, ask).mean[0])
        if self.rng.random() < wrong:
            value = {
                "volt": self.rng.uniform(0, 6),
                "ohm": 10 ** self.rng.uniform(0, 7),
                "seen": float(self.rng.choice([0.0, 0.5, 1.0])),
            }
            return replace(ask, value=float(value[ask.test]))
        if ask.test == "volt":
            return replace(ask, value=true + self.rng.normal(0, 0.005 * abs(true) + 0.002))
        if ask.test == "ohm":
            return replace(ask, value=min(10 ** (true + self.rng.normal(0, 0.008)), 5e7))
        if kind_of(self.circuit, self.circuit.part(ask.part)) == "movement":
            return replace(ask, value=float(np.clip(round((true + self.rng.normal(0, 0.02)) * 50) / 50, 0, 1)))
        return replace(ask, value=0.0 if true < 0.15 else 1.0 if true > 0.7 else 0.5)


def _all_asks(circuit: Circuit, predictor: Predictor, now: Setting) -> list[Evidence]:
    asks = [
        ask for place, one in enumerate(useful_settings(circuit, now)) for ask in candidates(circuit, one, place == 0)
    ]
    return [ask for ask in asks if is_safe(predictor, ask)]


def _draw(
    circuit: Circuit, singles: tuple[Hypothesis, ...], asks: list[Evidence], plan: Plan, rng: np.random.Generator
) -> Hypothesis:
    """Faults that some allowed test can see."""
    weight = np.array([np.exp(one.log_prior) if one.faults else 0.0 for one in singles])
    weight /= weight.sum()
    predictor = Predictor(circuit, (singles[0],))
    while True:
        chosen = [singles[int(n)] for n in rng.choice(len(singles), plan.faults, replace=False, p=weight)]
        faults = tuple(fault for one in chosen for fault in one.faults)
        if len({fault.part for fault in faults}) < plan.faults:
            continue
        hidden = Hypothesis(faults, 0.0)
        trial = Predictor(circuit, (hidden,))
        for ask in asks:
            healthy, faulty = prediction_of(predictor, ask), prediction_of(trial, ask)
            if abs(healthy.mean[0] - faulty.mean[0]) > 4 * widened(ask, healthy)[0]:
                return hidden


def trial(task: tuple[str, int, Plan]) -> Outcome:
    """One hidden fault, found or not."""
    stem, seed, plan = task
    rng = np.random.default_rng(seed)
    circuit = read_spice((CIRCUITS / f"{stem}.cir").read_text(encoding="utf-8"))
    now = usual_setting(circuit)
    keeper = _KEEPERS.setdefault(stem, Diagnostician())
    singles = singles_of(circuit, Belief())
    asks = _all_asks(circuit, Predictor(circuit, (singles[0],)), now)
    hidden = _draw(circuit, singles, asks, plan, rng)
    device = Device(circuit, hidden, rng)
    if plan.choose == "half-splitting":
        return _half_splitting(circuit, singles, asks, device, hidden)
    evidence: tuple[Evidence, ...] = ()
    stands = now
    for made in range(MOST_TESTS + 1):
        found = keeper.diagnose(Case(circuit, (evidence,)))
        prefer: Prefer = "least minutes" if plan.choose == "least minutes" else "fewest tests"
        ranking = rank_tests(found, stands, Reach(taken=evidence, prefer=prefer))
        top = found.suspects[0].name
        group = next((set(one) for one in ranking.groups if top in one), {top})
        held = sum(one.probability for one in found.suspects if one.name in group)
        if held >= SURE or not ranking.tests or made == MOST_TESTS or ranking.tests[0].bits < 0.01:
            true = {hidden.name, *(fault.name for fault in hidden.faults)}
            return Outcome(made, top in true, bool(true & group))
        ask = ranking.tests[0].ask
        if plan.choose == "random":
            left = [one for one in asks if one not in [replace(e, value=0.0) for e in evidence]]
            ask = left[int(rng.integers(len(left)))]
        stands = ask.setting
        evidence = (*evidence, device.read(ask, plan.wrong))
    raise AssertionError("unreachable")


_KEEPERS: dict[str, Diagnostician] = {}


def _half_splitting(
    circuit: Circuit, singles: tuple[Hypothesis, ...], asks: list[Evidence], device: Device, hidden: Hypothesis
) -> Outcome:
    """Good or bad at the point that parts the remaining suspects most evenly; those left are then checked one by one."""
    predictor = Predictor(circuit, singles)
    bad = {}
    for ask in asks:
        prediction = prediction_of(predictor, ask)
        bad[ask] = np.abs(prediction.mean - prediction.mean[0]) > 4 * widened(ask, prediction)[0]
    left = np.array([bool(one.faults) for one in singles])
    made, unused = 0, list(asks)
    while made < MOST_TESTS and unused:
        shares = [abs(bad[ask][left].mean() - 0.5) for ask in unused]
        best = int(np.argmin(shares))
        if shares[best] >= 0.5 - 1e-9:
            break
        ask = unused.pop(best)
        read = device.read(ask, 0.0)
        prediction = prediction_of(predictor, ask)
        value = np.log10(read.value) if ask.test == "ohm" else read.value
        is_bad = abs(value - prediction.mean[0]) > 4 * widened(ask, prediction)[0]
        kept = left & (bad[ask] == is_bad)
        made += 1
        left = kept if kept.any() else left
    parts = {singles[n].faults[0].part for n in np.flatnonzero(left)}
    names = {singles[n].name for n in np.flatnonzero(left)}
    return Outcome(made + (len(parts) - 1 + 1) // 2, hidden.name in names and len(names) == 1, hidden.name in names)


def run(plan: Plan, cases: int, pool: ProcessPoolExecutor) -> list[Outcome]:
    """Trials spread evenly over the circuits."""
    stems = sorted(path.stem for path in CIRCUITS.glob("*.cir"))
    tasks = [(stems[n % len(stems)], SEED + n, plan) for n in range(cases)]
    tasks.sort(key=lambda task: task[0])  # a worker keeps what it solved for one circuit
    return list(pool.map(trial, tasks, chunksize=max(cases // 16, 1)))


def report(cases: int = CASES) -> None:
    """All plans, the same devices for each."""
    plans = (
        ("fewest tests", Plan(), cases),
        ("least minutes", Plan(choose="least minutes"), cases),
        ("half-splitting", Plan(choose="half-splitting"), cases),
        ("random choice, same posterior", Plan(choose="random"), cases // 5),
        ("fewest tests, one reading in ten wrong", Plan(wrong=0.1), cases // 5),
        ("fewest tests, two faults", Plan(faults=2), cases // 5),
    )
    medians = {}
    with ProcessPoolExecutor() as pool:
        for name, plan, count in plans:
            found = run(plan, count, pool)
            medians[name] = statistics.median(one.tests for one in found)
            mean = statistics.mean(one.tests for one in found)
            first, grouped = (
                100 * sum(flags) / len(found) for flags in ([o.first for o in found], [o.grouped for o in found])
            )
            row(
                f"{name}, {len(found)} devices",
                f"median {medians[name]:.0f}, mean {mean:.1f} tests",
                f"first {first:.1f} %, in its group {grouped:.1f} %",
            )
    for name in list(medians)[:2]:
        ratio = medians[name] / medians["half-splitting"]
        row(f"{name}, ratio to half-splitting", f"{ratio:.2f}", "goal: at most 0.60; first 90 %, in its group 98 %")


if __name__ == "__main__":
    import sys

    report(int(sys.argv[1]) if len(sys.argv) > 1 else CASES)
