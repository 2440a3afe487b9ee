"""Circuits with two states: both are found, and are where ngspice stands when it is told to begin there."""

import re
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np

from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.states import is_stable, lasting, states_word
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.records.circuit import Evidence
from violet_dial.services.circuits import templates

MODELS = ".model qn NPN(IS=1e-14 BF=120)\n.model qp PNP(IS=1e-14 BF=60)\n"
TWO = {
    "flip-flop": "V1 vcc 0 5\nR1 vcc c1 1k\nR2 vcc c2 1k\nR3 c1 b2 10k\nR4 c2 b1 10k\nQ1 c1 b1 0 qn\nQ2 c2 b2 0 qn\n",
    "latch": "V1 vcc 0 6\nR1 vcc a 470\nQ1 b1 b2 a qp\nQ2 b2 b1 0 qn\nR2 b1 0 10k\nR3 a b2 10k\n",
    "trigger": "V1 vcc 0 5\nV2 in 0 1.9\nR1 vcc c1 4.7k\nR2 vcc c2 1k\nR3 c1 b2 10k\nR4 b2 0 22k\nR5 e 0 470\nQ1 c1 in e qn\n"
               "Q2 c2 b2 e qn\n",
}  # fmt: skip


def some_flip_flop(seed: int) -> str:
    """A lopsided one, perhaps with emitter resistors, its figures drawn."""
    rng = np.random.default_rng(seed)
    one, other = 10 ** rng.uniform(2.6, 3.4, 2)
    across, volts = 10 ** rng.uniform(3.7, 4.4, 2), rng.uniform(3, 9)
    legs = ("0", "0") if rng.random() < 0.5 else ("e1", "e2")
    tail = "" if legs[0] == "0" else "R5 e1 0 22\nR6 e2 0 33\n"
    return (
        f"V1 vcc 0 {volts:.4g}\nR1 vcc c1 {one:.4g}\nR2 vcc c2 {other:.4g}\nR3 c1 b2 {across[0]:.4g}\nR4 c2 b1 {across[1]:.4g}\n"
        f"Q1 c1 b1 {legs[0]} qn\nQ2 c2 b2 {legs[1]} qn\n{tail}"
    )


TWO |= {f"flip-flop {seed}": some_flip_flop(seed) for seed in range(5)}
ONE = {
    "trigger far above": TWO["trigger"].replace("in 0 1.9", "in 0 3.5"),
    "amplifier": "V1 vcc 0 5\nR1 vcc c1 1k\nR2 vcc b1 470k\nQ1 c1 b1 0 qn\nR3 vcc c2 1k\nR4 c1 b2 10k\nQ2 c2 b2 0 qn\n",
    "divider": "V1 a 0 1.5\nR1 a b 10k\nR2 b 0 5k\n",
}


def deck(lines: str) -> str:
    return f"some states\n{lines}{MODELS}.end\n"


def by_ngspice(lines: str, near: dict[str, float]) -> dict[str, float]:
    """Where ngspice comes to rest after some time, begun near a state."""
    begun = " ".join(f"v({node})={volts:.6g}" for node, volts in near.items())
    nodes = [f"v({node})" for node in near]
    loads = "".join(f"C{n}x {node} 0 1n\n" for n, node in enumerate(near))
    last = " ".join(f"{one}[length({one})-1]" for one in nodes)
    control = f".ic {begun}\n.control\ntran 1u 5m uic\nprint {last}\n.endc\n"
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "deck.cir"
        path.write_text(f"some states\n{lines}{loads}{MODELS}{control}.end\n", encoding="utf-8")
        printed = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, check=False, timeout=60).stdout
    return {name: float(value) for name, value in re.findall(r"v\((\w+)\)\[.*?\] = (\S+)", printed)}


class States(unittest.TestCase):
    def test_both_are_found_and_ngspice_stays_in_each(self) -> None:
        for name, lines in TWO.items():
            circuit = checked_circuit(deck(lines))
            states = lasting(circuit)
            self.assertEqual(len(states), 2, name)
            for state in states:
                with self.subTest(name):
                    theirs = by_ngspice(lines, state.voltages)
                    self.assertEqual(set(theirs), set(state.voltages))
                    for node, volts in theirs.items():
                        self.assertAlmostEqual(volts, state.voltages[node], delta=0.03)

    def test_a_point_that_the_least_push_leaves_is_no_state(self) -> None:
        circuit = checked_circuit(deck(TWO["flip-flop"]))
        between = operating_point(circuit).voltages
        self.assertFalse(is_stable(circuit))
        self.assertTrue(all(abs(state.voltages["c1"] - between["c1"]) > 0.5 for state in lasting(circuit)))
        self.assertIn("2 states", states_word(circuit, usual_setting(circuit)))

    def test_a_diagnosis_stands_in_a_state_that_lasts(self) -> None:
        for name in ("flip-flop", "flip-flop 2"):
            with self.subTest(name):
                circuit = checked_circuit(deck(TWO[name]))
                now = usual_setting(circuit)
                said = Predictor(circuit, (Hypothesis((), 0.0),)).volts("c1", "0", now).mean[0]
                self.assertLess(min(abs(said - state.voltages["c1"]) for state in lasting(circuit)), 0.01)
                self.assertGreater(abs(said - operating_point(circuit).voltages["c1"]), 0.5)
                first = lasting(circuit)[0].voltages
                taken = tuple(Evidence("volt", first[node], node, "0", setting=now) for node in ("c1", "c2", "b1"))
                found = Diagnostician().diagnose(Case(circuit, (taken,)))
                self.assertGreater(found.healthy, found.suspects[0].probability / 3)
                self.assertIn("in one of them", found.states)

    def test_one_state_is_one(self) -> None:
        for name, lines in ONE.items():
            with self.subTest(name):
                circuit = checked_circuit(deck(lines))
                self.assertEqual(len(lasting(circuit)), 1)
                self.assertEqual(states_word(circuit, usual_setting(circuit)), "")
        for template in templates():
            with self.subTest(template.stem):
                circuit = checked_circuit(template.text)
                self.assertEqual(states_word(circuit, usual_setting(circuit)), "")


if __name__ == "__main__":
    unittest.main()
