"""The solver against itself, Kirchhoff's sums, hand-worked circuits, and the single-diode solvers of pvlib."""

import unittest
from dataclasses import replace

import numpy as np
import pvlib
from scipy import constants

from tests.reference.netlists import MODELS, OPERATING
from violet_dial.core.circuit.batch import Base, Variants, no_change, solve_variants
from violet_dial.core.circuit.devices import THERMAL_V
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.response import Ends, responses
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.system import build_system
from violet_dial.core.circuit.trade import set_circuit, switches_of, usual_setting
from violet_dial.core.errors import InvalidInput, SingularCircuit
from violet_dial.core.records.circuit import Setting


def circuit(body: str) -> Circuit:
    return read_spice(f"test\n{body}{MODELS}.end\n")


class Worked(unittest.TestCase):
    def test_control_pin_through_two_kilohm(self) -> None:
        """V through 2 kohm to a base with 8 kohm to ground: 0.8 V a volt unloaded, clamped near 0.65 V by the junction."""
        self.assertAlmostEqual(operating_point(circuit("V1 a 0 1\nR1 a b 2k\nR2 b 0 8k\n")).voltages["b"], 0.8, places=6)
        clamped = operating_point(circuit(OPERATING["base clamp"])).voltages["b"]
        self.assertAlmostEqual(clamped, 0.65, delta=0.12)  # the junction's own saturation current moves it

    def test_a_twenty_kilohm_per_volt_meter_halves_a_fifty_kilohm_source(self) -> None:
        body = "V1 a 0 2\nR1 a b 50k\n"
        self.assertAlmostEqual(operating_point(circuit(body + "R2 b 0 50k\n")).voltages["b"], 1.0, places=4)
        self.assertAlmostEqual(operating_point(circuit(body + "R2 b 0 10meg\n")).voltages["b"], 1.99, places=2)

    def test_currents_sum_to_nothing_at_every_node(self) -> None:
        for name, body in OPERATING.items():
            one = circuit(body)
            if any(part.letter == "Q" for part in one.parts):  # a transistor has a third current
                continue
            found = operating_point(one)
            for node in one.nodes:
                total = size = 0.0
                for part in one.parts:
                    for place, sign in enumerate((1.0, -1.0)):
                        if part.nodes[place] == node:
                            total += sign * found.currents[part.name]
                            size += abs(found.currents[part.name])
                self.assertLessEqual(abs(total), 1e-6 * size + 1e-11, f"{name} {node}")


class Faulty(unittest.TestCase):
    def test_hanging_node_is_named(self) -> None:
        with self.assertRaises(SingularCircuit) as caught:
            operating_point(circuit("V1 a 0 1\nR1 a 0 1k\nC1 a float 1u\nR2 float other 1k\n"))
        self.assertLessEqual(set(caught.exception.nodes), {"float", "other"})
        self.assertIn("hangs in the air", str(caught.exception))

    def test_sources_against_each_other_are_named(self) -> None:
        with self.assertRaises(SingularCircuit) as caught:
            operating_point(circuit("V1 a 0 1\nV2 a 0 2\nR1 a 0 1k\n"))
        self.assertEqual(set(caught.exception.parts), {"v1", "v2"})


class Batch(unittest.TestCase):
    def test_changes_are_the_same_as_another_circuit(self) -> None:
        for name in ("common emitter", "diodes in series", "selenium cell", "behavioural", "complementary pair"):
            one = circuit(OPERATING[name])
            system = build_system(one)
            base = Base(system)
            resistors = [part for part in one.parts if part.letter == "R"]
            factors = (0.1, 3.0, 1000.0)
            rows = [(part, factor) for part in resistors for factor in factors]
            variants = Variants(
                np.array([[system.row(part.nodes[0])] for part, _ in rows]),
                np.array([[system.row(part.nodes[1])] for part, _ in rows]),
                np.array([[1 / (part.value * factor) - 1 / part.value] for part, factor in rows]),
            )
            start = solve_variants(base, no_change()).w[0]
            solved = solve_variants(base, variants, start)
            self.assertTrue(solved.solved.all(), name)
            for place, (part, factor) in enumerate(rows):
                parts = tuple(replace(p, value=p.value * factor) if p is part else p for p in one.parts)
                expected = operating_point(one.with_parts(parts)).voltages
                for node, volts in expected.items():
                    self.assertAlmostEqual(float(solved.x[place, system.index[node]]), volts, delta=2e-5 + 1e-5 * abs(volts))

    def test_linearised_is_the_slope(self) -> None:
        one = circuit(OPERATING["common emitter"])
        system = build_system(one)
        base = Base(system)
        rows = Ends(np.arange(system.size)[None], np.full((1, system.size), -1))
        inverse = responses(base, no_change(), solve_variants(base, no_change()).w, rows, np.zeros((system.size + 1, 0)), rows)[
            1
        ][0]
        step = 1e-8
        for node in one.nodes:
            pushed = np.tile(system.source, (1, 1))
            pushed[0, system.index[node]] += step
            moved = solve_variants(base, replace(no_change(), source=pushed)).x[0] - solve_variants(base, no_change()).x[0]
            np.testing.assert_allclose(moved / step, inverse[:, system.index[node]], rtol=2e-3, atol=1.0)


class Cells(unittest.TestCase):
    def test_single_diode_cells_against_pvlib(self) -> None:
        """A cell with leak and contact resistance into a load, over two decades of light (pvlib single-diode, Lambert W)."""
        self.assertAlmostEqual(THERMAL_V, constants.k * 300.15 / constants.e)
        for saturation, n, series, shunt in ((4e-7, 2.2, 40.0, 25e3), (4e-7, 2.2, 400.0, 2e3), (1e-11, 1.0, 10.0, 1e7)):
            for photo in (5e-6, 5e-5, 5e-4):
                body = f"I1 0 c {photo}\nD1 c 0 cell\nR1 c 0 {shunt}\nR2 c m {series}\nR3 m 0 1k\n"
                one = read_spice(f"cell\n{body}.model cell D(IS={saturation} N={n})\n.end\n")
                found = operating_point(one)
                volts, current = found.voltages["m"], found.currents["R3"]
                expected = pvlib.pvsystem.i_from_v(volts, photo, saturation, series, shunt, n * THERMAL_V, method="lambertw")
                self.assertAlmostEqual(current, float(expected), delta=1e-6 * photo)


class Settings(unittest.TestCase):
    TEXT = """settings
V1 a 0 3
*: V1 kind=battery
R1 a lo 0.05
*: R1 kind=switch switch=S1 closed=low|both positions=off|low|high|both
R2 a hi 1g
*: R2 kind=switch switch=S1 closed=high|both
R3 lo 0 1k
R4 hi c 1k
R5 c 0 10k
*: R5 kind=cds r10=100k gamma=0.5
.end
"""

    def test_switches_light_and_supply(self) -> None:
        one = read_spice(self.TEXT)
        self.assertEqual(switches_of(one)["s1"].positions, ("off", "low", "high", "both"))
        self.assertEqual(usual_setting(one).switches, (("s1", "low"),))
        high = set_circuit(one, Setting().with_switch("s1", "high"))
        self.assertGreater(high.part("R1").value, 1e6)
        self.assertLess(high.part("R2").value, 1.0)
        dim = set_circuit(one, Setting(light_lx=1000.0, switches=(("s1", "both"),))).part("R5").value
        self.assertAlmostEqual(dim, 1e4)  # R = R10 (E/10)^-gamma
        self.assertEqual(set_circuit(one, Setting(supply="off")).part("V1").letter, "R")
        self.assertFalse(set_circuit(one, Setting(disconnected=("R3",))).has("R3"))
        with self.assertRaisesRegex(InvalidInput, "off.low.high.both"):
            set_circuit(one, Setting().with_switch("s1", "middle"))


if __name__ == "__main__":
    unittest.main()
