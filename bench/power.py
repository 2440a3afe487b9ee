"""Operating points a second of choices of battery beside ngspice, the time of the drawer, and whether stated chances are true."""

import statistics
import subprocess
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.measure import median_s, row
from violet_dial.core.power.design import InDrawer, design
from violet_dial.core.power.device import Port, device_of
from violet_dial.core.power.feeds import DIODES, BatteryChoice, Diode, read_choice
from violet_dial.core.power.fitting import PRIOR, FitReadout, Verdict, check_fitting, expected_v
from violet_dial.core.power.lanes import Judge, usual_choices
from violet_dial.core.power.meter_error import AskedLights
from violet_dial.services.circuits import circuit_from, templates

SEED = 11
STATES, TEMPERATURES_C = 40, (-10.0, 5.0, 20.0, 30.0, 40.0)
CHOICES = 8
PAIRS = 3
FITTINGS = 1500
CIRCUITS = (
    ("cds-series", 1.35, "rcds"),
    ("cds-bridge", 1.35, "rcds"),
    ("silicon-lamps", 6.0, "iph"),
    ("silicon-shutter", 6.0, "iph"),
)


def asked_for(design_v: float) -> AskedLights:
    """Some 60 lights, 40 states of charge, 5 temperatures."""
    return AskedLights(design_v, 0.0, 11.0, TEMPERATURES_C, left=tuple(np.linspace(1.0, 0.1, STATES)))


def ours_s(stem: str, design_v: float) -> tuple[float, int]:
    """Seconds for every choice over all of it, the device solved anew; and how many operating points that is."""
    device = device_of(circuit_from(text_of(stem)))
    choices = usual_choices(design_v)
    choices = (choices * CHOICES)[:CHOICES]
    began = time.perf_counter()
    judge = Judge(device, asked_for(design_v), choices)
    judge.judge(choices)
    took = time.perf_counter() - began
    return took, CHOICES * len(judge.readers[0].grid) * STATES * len(TEMPERATURES_C)


def text_of(stem: str) -> str:
    """The text of a circuit that ships."""
    return next(one.text for one in templates() if one.stem == stem)


def ngspice_per_second(stem: str, lit: str, folder: Path) -> float:
    """`alter` and `op` looped inside one ngspice process, its start taken off."""
    times = []
    for count in (50, 1050):
        values = [f"{8e3 + 20 * place}" if lit.startswith("r") else f"{1e-6 + 1e-9 * place}" for place in range(count)]
        control = "".join(f"alter {lit}={value}\nop\ndestroy\n" for value in values)
        path = folder / "loop.cir"
        path.write_text(f"{text_of(stem).replace('.end', '')}.control\n{control}quit\n.endc\n.end\n", encoding="utf-8")
        began = time.perf_counter()
        subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=False)
        times.append(time.perf_counter() - began)
    return 1000 / (times[1] - times[0])


def report_points() -> None:
    """Points a second, as a ratio in the same run."""
    for stem, design_v, lit in CIRCUITS:
        ratios, took, points = [], [], 0
        for _ in range(PAIRS):
            seconds, points = ours_s(stem, design_v)
            with tempfile.TemporaryDirectory() as name:
                theirs = ngspice_per_second(stem, lit, Path(name))
            took.append(seconds)
            ratios.append(points / seconds / theirs)
        row(f"{stem}: {points} operating points", f"{statistics.median(took):.2f} s", "goal: 1 s for 96000")
        row("ratio to ngspice looping alter and op", f"{statistics.median(ratios):.0f}", "goal: 20")


def report_design() -> None:
    """The best of 40 parts, alone and in pairs."""
    rng = np.random.default_rng(SEED)
    drawer = [InDrawer(f"d{n}", Diode(f"d{n}", 10 ** rng.uniform(-10, -6), rng.uniform(1, 2))) for n in range(20)]
    drawer += [InDrawer(f"r{n}", ohm=10 ** rng.uniform(1, 5)) for n in range(20)]
    choice = read_choice("SR44")
    judge = Judge(device_of(circuit_from(text_of("cds-series"))), AskedLights(1.35, 0.0, 8.0), [choice])
    row(
        "a drawer of 40 parts and all its pairs",
        f"{median_s(lambda: design(judge.readers, choice, drawer), 3):.2f} s",
        "goal: 1 s",
    )


def fitted_truth(count: int = FITTINGS) -> tuple[float, float, float]:
    """Of drawn fittings: the mean chance said of the verdict where one was given, how often it was right, and how often one was
    given. Noise as of a usual meter, diodes that differ, and fittings that are none of those on the list."""
    rng = np.random.default_rng(SEED)
    choice = read_choice("SR44 + schottky")
    asked = AskedLights(1.35, 0.0, 8.0, most_v=1.8)
    port = Judge(device_of(circuit_from(text_of("cds-series"))), asked, [choice]).readers[0].port
    said, right, given = [], [], 0
    ways: list[Verdict] = list(PRIOR)
    for way in rng.choice(np.array(ways), size=count, p=list(PRIOR.values())):
        reads = _drawn(rng, str(way), port, asked, choice)
        found = check_fitting(port, asked, choice, reads)
        if found.verdict is not None:
            given += 1
            said.append(found.chances[0][1])
            right.append(found.verdict == way)
    return float(np.mean(said)), float(np.mean(right)), given / count


def _drawn(rng: np.random.Generator, way: str, port: Port, asked: AskedLights, choice: BatteryChoice) -> list[FitReadout]:
    """What would be read at a diode fitted so: one figure or two."""
    before = 1.56
    ev100 = float(rng.uniform(2.0, 7.0))
    meter = before * 0.005 * rng.standard_normal() + 0.002 * rng.standard_normal()
    there = choice
    if way == "another diode":
        others = [one for one in DIODES.values() if one not in choice.diodes]
        there = read_choice(f"SR44 + {others[rng.integers(len(others))].name.split()[0].lower()}")
    volts = expected_v(port, asked, there, FitReadout("behind", 1.0, before, ev100), 20.0) + 0.02 * rng.standard_normal() + meter
    if way in ("wrong way round", "open"):
        volts = abs(0.03 * rng.standard_normal())
    if way == "shorted":
        volts = before + meter
    if way == "none of these":
        volts = rng.uniform(0.0, 2.0)
    return [FitReadout("behind", max(float(volts), 0.0), before, ev100)]


def report() -> None:
    """All of it."""
    report_points()
    report_design()
    said, right, given = fitted_truth()
    row(f"{FITTINGS} fitted diodes: a verdict said {said:.3f}", f"right {right:.3f}", f"given in {given:.2f}")


if __name__ == "__main__":
    report()
