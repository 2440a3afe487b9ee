"""Operating points a second beside ngspice on the same netlist, and the Trace station's waiting times on 60 parts."""

import resource
import statistics
import subprocess
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

from bench.measure import median_s, row
from violet_dial.core.circuit.batch import Base, Variants, no_change, solve_variants
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.system import build_system
from violet_dial.core.circuit.trade import tolerance_of, usual_setting
from violet_dial.core.diagnosis.allowed import Reach
from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.hypotheses import Priors, singles_of
from violet_dial.core.diagnosis.next_test import rank_tests
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.records.circuit import Evidence

SIZES = (3, 6, 12, 24)  # stages: 32, 62, 122 and 242 parts
OPERATIONS, SAMPLES = 2000, 64
PAIRS = 5  # timed in turn, so that a busy machine slows both


def stages(count: int) -> str:
    """Transistor stages with leads, trimmers and diodes between: about ten parts a stage."""
    lines = ["Stages", "V1 vcc 0 6", "*: V1 kind=battery", "Rclip vcc rail 0.1", "*: Rclip kind=clip"]
    feed = "rail"
    for n in range(count):
        lines += [
            f"Rw{n} {feed} s{n} 0.05", f"*: Rw{n} kind=wire colour=red", f"Ra{n} s{n} b{n} 100k", f"Rb{n} b{n} 0 {20 + n}k",
            f"Q{n} c{n} b{n} e{n} qn", f"Rc{n} s{n} c{n} 4.7k", f"Re{n} e{n} 0 1k", f"D{n} c{n} d{n} dd", f"Rd{n} d{n} j{n} 0.1",
            f"*: Rd{n} kind=joint", f"Rl{n} j{n} 0 10k", f"Rt{n} j{n} 0 47k", f"*: Rt{n} kind=trimmer",
        ]  # fmt: skip
        feed = f"s{n}"
    return "\n".join([*lines, ".model qn NPN(IS=1e-15 BF=150 VAF=80)", ".model dd D(IS=1e-14 N=1.1)", ".end\n"])


def ours_per_second(circuit: Circuit) -> float:
    """Variants of one resistor solved in one batch, begun from the healthy point."""
    system = build_system(circuit)
    base = Base(system)
    part = circuit.part("Rl0")
    values = part.value * np.linspace(0.5, 2.0, OPERATIONS)
    variants = Variants(
        np.full((OPERATIONS, 1), system.row(part.nodes[0])), np.full((OPERATIONS, 1), -1), (1 / values - 1 / part.value)[:, None]
    )
    start = solve_variants(base, no_change()).w[0]
    return OPERATIONS / median_s(lambda: solve_variants(base, variants, start), 5)


def ngspice_per_second(text: str, folder: Path) -> float:
    """`alter` and `op` looped inside one ngspice process, its start taken off."""
    times = []
    for count in (50, 550):
        path = folder / "loop.cir"
        control = "".join(f"alter rl0={5000 + 7 * place}\nop\ndestroy\n" for place in range(count))
        body = text.replace(".end\n", "")
        path.write_text(f"{body}.control\n{control}quit\n.endc\n.end\n", encoding="utf-8")
        began = time.perf_counter()
        subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=False)
        times.append(time.perf_counter() - began)
    return 500 / (times[1] - times[0])


def report_operating() -> None:
    for count in (3, 5):
        text = stages(count)
        circuit = read_spice(text)
        with tempfile.TemporaryDirectory() as name:
            pairs = [(ours_per_second(circuit), ngspice_per_second(text, Path(name))) for _ in range(PAIRS)]
        ours, theirs = (statistics.median(each) for each in zip(*pairs, strict=True))
        ratio = statistics.median(one / other for one, other in pairs)
        row(f"operating points of {len(circuit.parts)} parts, a second", f"{ours:.0f}, ngspice {theirs:.0f}")
        row("ratio to ngspice looping alter and op", f"{ratio:.1f}", "goal: 10, better 20")


def _waiting(count: int) -> tuple[int, int, float, float, float, float]:
    """Parts, hypotheses; seconds to the first answer, to the whole one, and to the next after one more reading; peak MB."""
    circuit = read_spice(stages(count))
    keeper, now = Diagnostician(), usual_setting(circuit)
    evidence = (Evidence("volt", 5.9, "vcc", "0"), Evidence("volt", 0.9, "b1", "0"), Evidence("volt", 3.2, "c2", "0"))
    times = [time.perf_counter()]
    found = keeper.first(Case(circuit, (evidence,)))
    times.append(time.perf_counter())
    rank_tests(keeper.diagnose(Case(circuit, (evidence,))), now, Reach())
    times.append(time.perf_counter())
    more = (*evidence, Evidence("volt", 1.1, "s2", "0"))
    rank_tests(keeper.diagnose(Case(circuit, (more,))), now, Reach(taken=more))
    times.append(time.perf_counter())
    first, whole, later = np.diff(times)
    peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return len(circuit.parts), len(found.hypotheses), float(first), float(first + whole), float(later), peak_mb


def report_waiting() -> None:
    """Each size in a process of its own; the cost beside the square of the parts."""
    measured = []
    for count in SIZES:
        with ProcessPoolExecutor(1) as pool:
            measured.append(pool.submit(_waiting, count).result())
    for parts, hypotheses, first, whole, later, peak_mb in measured:
        goal = "goal at 120: 1 s, 4 s, 1 s, 400 MB" if 100 < parts < 140 else ""
        row(
            f"{parts} parts, {hypotheses} hypotheses: first, whole, one reading more",
            f"{first:.2f} s, {whole:.2f} s, {later:.2f} s; {peak_mb:.0f} MB", goal,
        )  # fmt: skip
    grows = np.polyfit(np.log([one[0] for one in measured]), np.log([one[3] for one in measured]), 1)[0]
    row("the whole answer grows with parts to the power of", f"{grows:.2f}", "goal: 2 or less")
    report_tolerance(read_spice(stages(5)))


def report_tolerance(circuit: Circuit) -> None:
    """Linearised spread beside sampling every part's value, over all points, healthy and with one fault."""
    rng = np.random.default_rng(2)
    singles = singles_of(circuit, Priors())
    chosen = (singles[0], next(one for one in singles if one.name == "Rc1 too high"))
    now = usual_setting(circuit)
    linear = Predictor(circuit, chosen)
    kept = [part.letter in "RV" for part in circuit.parts if tolerance_of(circuit, part) > 0 and part.letter not in "CL"] + [
        False,
        False,
    ]
    loads = np.stack([linear.volts(node, "0", now).load[:, kept] for node in circuit.nodes])
    spread = np.sqrt(np.square(loads).sum(axis=2))
    sampled = []
    for _ in range(SAMPLES):
        parts = tuple(
            replace(part, value=part.value * np.exp(tolerance_of(circuit, part) * rng.standard_normal()))
            if part.letter in "RV"
            else part
            for part in circuit.parts
        )
        one = Predictor(circuit.with_parts(parts), chosen, draws=0)
        sampled.append(np.stack([one.volts(node, "0", now).mean for node in circuit.nodes]))
    ratio = spread / np.maximum(np.std(np.stack(sampled), axis=0), 1e-4)
    row(
        f"linearised tolerance, ratio to {SAMPLES} samples",
        f"median {np.median(ratio):.2f}, from {ratio.min():.2f} to {ratio.max():.2f}",
    )


def report() -> None:
    report_operating()
    report_waiting()
