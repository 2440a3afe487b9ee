"""Operating points and transients against ngspice on the same text (ngspice: a Debian package; `./test` installs it)."""

import re
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np

from tests.reference.netlists import MODELS, OPERATING, TRANSIENT
from tests.reference.random_netlists import random_netlist
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.transient import run_transient
from violet_dial.core.errors import NoConvergence

RANDOM_SEEDS = range(400)
CIRCUITS = Path(__file__).parents[3] / "src" / "violet_dial" / "assets" / "circuits"


def ngspice(text: str, control: str, folder: Path) -> str:
    """What ngspice prints for a circuit with a control block."""
    path = folder / "one.cir"
    body = re.sub(r"\n\.end\s*$", "\n", text.rstrip() + "\n")
    path.write_text(f"{body}.control\n{control}\nquit\n.endc\n.end\n", encoding="utf-8")
    return subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, check=False, cwd=folder).stdout


class AgainstNgspice(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def check(self, text: str) -> None:
        printed = ngspice(text, "op\nset numdgt=9\nprint all", self.folder)
        theirs = {name.lower(): float(value) for name, value in re.findall(r"^(\S+) = (\S+)$", printed, re.MULTILINE)}
        if not theirs:  # no reference: a loop without an operating point; nothing may be given for one here either
            self.assertRaises(NoConvergence, operating_point, read_spice(text))
            return
        ours = operating_point(read_spice(text)).voltages
        for node, volts in ours.items():
            reference = theirs[node if node in theirs else node.lower()]
            self.assertLessEqual(abs(volts - reference), max(1e-3 * abs(reference), 1e-3), f"{node}: {volts} against {reference}")

    def test_every_netlist(self) -> None:
        self.assertGreaterEqual(len(OPERATING), 25)
        for name, body in OPERATING.items():
            with self.subTest(name):
                self.check(f"{name}\n{body}{MODELS}.end\n")

    def test_a_default_that_hangs_on_a_given_one(self) -> None:
        block = ".subckt s a b r=1k q={2*r}\nR1 a m {r}\nR2 m b {q}\n.ends\n"
        for given in ("", " r=5k", " q=7k", " r=5k q=7k"):
            with self.subTest(given):
                self.check(f"t\nV1 in 0 6\nX1 in mid s{given}\nR9 mid 0 10k\n{block}.end\n")

    def test_netlists_drawn_at_random(self) -> None:
        for seed in RANDOM_SEEDS:
            with self.subTest(seed=seed):
                self.check(random_netlist(seed))

    def test_every_circuit_that_ships(self) -> None:
        paths = sorted(CIRCUITS.glob("*.cir"))
        self.assertGreaterEqual(len(paths), 8)
        for path in paths:
            with self.subTest(path.stem):
                self.check(path.read_text(encoding="utf-8"))

    def test_a_starved_regulator_stands_still_somewhere(self) -> None:
        """A corroded connector before a regulator: steep loop, found in pseudo time."""
        text = (CIRCUITS / "regulator-clock.cir").read_text(encoding="utf-8")
        for ohm in ("3k", "10k", "47k", "220k", "1meg", "4.7meg"):
            with self.subTest(ohm):
                starved = text.replace("Rconn vin vraw 0.05", f"Rconn vin vraw {ohm}")
                self.assertNotEqual(starved, text)
                self.check(starved)

    def test_transients_within_one_percent(self) -> None:
        for name, (body, stop_s, step_s) in TRANSIENT.items():
            with self.subTest(name):
                text = f"{name}\n{body}{MODELS}.end\n"
                run = run_transient(read_spice(text), stop_s, step_s)
                nodes = list(run.voltages)
                probes = " ".join(f"v({node})" for node in nodes)
                fine_s = min(step_s / 2, stop_s / 6000)
                ngspice(text, f"tran {fine_s:g} {stop_s:g} 0 {fine_s:g}\nwrdata out.txt {probes}", self.folder)
                data = np.loadtxt(self.folder / "out.txt")
                for place, node in enumerate(nodes):
                    reference = np.interp(run.time_s, data[:, 0], data[:, 2 * place + 1])
                    span = max(float(np.ptp(reference)), 1e-3)
                    # A jump lasts one or two of our steps: there the time is compared, not the value.
                    wrong = np.abs(reference - run.voltages[node]) > 0.01 * span
                    self.assertLessEqual(int(wrong.sum()), max(1, 0.01 * len(wrong)), f"{name} {node}")


if __name__ == "__main__":
    unittest.main()
