"""Netlists drawn at random: Kirchhoff's sums, variants and slopes against circuits built and solved one by one."""

import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from tests.reference.random_netlists import random_netlist
from violet_dial.core.circuit.batch import Base, Variants, no_change, pinned_nodes, solve_variants
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.operating import OperatingPoint, operating_point
from violet_dial.core.circuit.response import Ends, responses
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.system import PRE_S, System, build_system
from violet_dial.core.circuit.transient import run_transient
from violet_dial.core.errors import NoConvergence

SEEDS = st.integers(0, 10**7)


def drawn(seed: int) -> Circuit:
    return read_spice(random_netlist(seed))


def found(circuit: Circuit) -> OperatingPoint:
    try:
        return operating_point(circuit)
    except NoConvergence:
        assume(False)
        raise


def into_nodes(circuit: Circuit, system: System, x: np.ndarray) -> dict[str, tuple[float, float]]:
    """Sum and size of the currents out of each node, part by part, by each part's own law."""
    point = operating_point(circuit)
    bent, _ = system.bend(system.watch @ x)
    sums = dict.fromkeys(circuit.nodes, (0.0, 1e-12))

    def add(node: str, amperes: float) -> None:
        if node in sums:
            total, size = sums[node]
            sums[node] = (total + amperes, size + abs(amperes))

    for part in circuit.parts:
        current = point.currents[part.name]
        if part.letter == "Q":
            element = next(one for one in system.elements if one.part is part)
            vbe, vbc = (float(system.watch[place] @ x) for place in element.watches)
            base = float(bent[element.outputs[1]]) + PRE_S * (vbe + vbc)
            add(part.nodes[0], current)
            add(part.nodes[1], base)
            add(part.nodes[2], -current - base)
        else:
            add(part.nodes[0], current)
            add(part.nodes[1], -current)
    return sums


class Kirchhoff(unittest.TestCase):
    @settings(max_examples=120, deadline=None)
    @given(SEEDS)
    def test_what_flows_in_flows_out(self, seed: int) -> None:
        circuit = drawn(seed)
        point = found(circuit)
        system = build_system(circuit)
        x = np.array([point.voltages.get(name, point.currents.get(name[1:], 0.0)) for name in system.index])
        branches = {f"@{part.name.lower()}": point.currents[part.name] for part in circuit.parts}
        inner = {f"{part.name.lower()}#": part for part in circuit.parts if part.letter == "D"}
        for name, row in system.index.items():
            if name in branches:
                x[row] = branches[name]
            elif name in inner:  # behind a diode's own resistance
                part = inner[name]
                drop = point.currents[part.name] * circuit.models[part.model].figures["rs"] / part.area
                x[row] = point.voltages.get(part.nodes[0], 0.0) - drop
        for node, (total, size) in into_nodes(circuit, system, x).items():
            self.assertLessEqual(abs(total), 2e-5 * size + 1e-9, f"{node} of {seed}")


class Variations(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(SEEDS, st.integers(0, 10**6))
    def test_a_resistor_put_in_as_a_change(self, seed: int, pick: int) -> None:
        circuit = drawn(seed)
        nodes = [*circuit.nodes, "0"]
        first, second = nodes[pick % len(nodes)], nodes[(pick // 97 + 1) % len(nodes)]
        assume(first != second and not {first, second} & {"cell"})
        ohm = 10.0 ** (1 + pick % 5)
        other = circuit.with_parts((*circuit.parts, Part("Rmore", "R", (first, second), ohm)))
        point = found(other)
        # Through amperes a microvolt at a junction is many at its neighbours: there the batch tells no voltages.
        assume(max(abs(amperes) for amperes in point.currents.values()) < 0.5)
        expected = point.voltages
        found(circuit)
        system = build_system(circuit)
        variants = Variants(np.array([[system.row(first)]]), np.array([[system.row(second)]]), np.array([[1.0 / ohm]]))
        solution = solve_variants(Base(system), variants)
        assume(bool(solution.solved[0]))
        got = {node: float(solution.x[0, system.index[node]]) for node in circuit.nodes}
        off = {
            node: (got[node], expected[node])
            for node in got
            if abs(got[node] - expected[node]) > 1e-3 + 1e-3 * abs(expected[node])
        }
        if off:  # another state of a circuit that has several: it must be one, then
            again = found(other.with_parts(tuple(other.parts)))
            self.assertEqual(again.voltages, expected)
            self.assertTrue(self.stands(other, got), f"{seed} {first} {second} {ohm}: {off}")

    def stands(self, circuit: Circuit, voltages: dict[str, float]) -> bool:
        """Whether voltages are an operating point: held there by weak springs, the circuit stays."""
        springs: list[Part] = []
        for node, volts in voltages.items():
            springs += [Part(f"Vs{node}", "V", (f"s{node}", "0"), volts), Part(f"Rs{node}", "R", (f"s{node}", node), 1e3)]
        held_there = operating_point(circuit.with_parts((*circuit.parts, *springs))).voltages
        return all(abs(held_there[node] - volts) < 5e-3 + 5e-3 * abs(volts) for node, volts in voltages.items())

    @settings(max_examples=40, deadline=None)
    @given(SEEDS)
    def test_slopes_are_small_differences(self, seed: int) -> None:
        circuit = drawn(seed)
        before = found(circuit).voltages
        system = build_system(circuit)
        base = Base(system)
        solution = solve_variants(base, no_change())
        assume(bool(solution.solved[0]))
        assume(all(abs(float(solution.x[0, system.index[node]]) - before[node]) < 1e-4 for node in circuit.nodes))
        node = circuit.nodes[seed % len(circuit.nodes)]
        row = Ends(np.array([[system.index[node]]]), np.array([[-1]]))
        ohm = responses(base, no_change(), solution.w, row, np.zeros((system.size + 1, 0)), row)[1][0, 0, 0]
        small_a = 1e-9
        driven = Part("Idrive", "I", ("0", node), small_a)
        after = found(circuit.with_parts((*circuit.parts, driven))).voltages
        slope = (after[node] - before[node]) / small_a
        assume(abs(slope * small_a) > 1e-8)  # digits left to compare
        self.assertAlmostEqual(float(ohm), slope, delta=0.05 * abs(slope) + 1.0)


class Held(unittest.TestCase):
    def test_between_ideal_sources_nothing_moves(self) -> None:
        text = "t\nV1 a 0 3\nV2 b a 1\nD1 b 0 d\nD2 c 0 d\nR1 b c 1k\nE1 e 0 c 0 2\nD3 e 0 d\n.model d D\n.end\n"
        system = build_system(read_spice(text))
        still, swallowed = pinned_nodes(system)
        self.assertEqual(still.tolist(), [True, False, False])  # D3 stands at what E1 makes of c: it moves with c
        self.assertEqual(swallowed.tolist(), [True, False, True])  # what D1 and D3 draw, their sources give

    def test_a_source_that_is_looked_at_is_not_deaf(self) -> None:
        text = "t\nV1 a 0 3\nD1 a 0 d\nF1 0 b V1 2\nR1 b 0 1k\nD2 b 0 d\n.model d D\n.end\n"
        _, swallowed = pinned_nodes(build_system(read_spice(text)))
        self.assertEqual(swallowed.tolist(), [False, False])

    def test_a_battery_with_a_resistance_of_its_own_is_not_ideal(self) -> None:
        system = build_system(read_spice("t\nV1 a 0 3\nD1 a 0 d\n.model d D\n.end\n"))
        system.matrix[system.index["@v1"], system.index["@v1"]] -= 2.0
        self.assertEqual([flags.tolist() for flags in pinned_nodes(system)], [[False], [False]])

    def test_a_diode_straight_across_a_battery_spoils_nothing_else(self) -> None:
        """By hand: b is a divider of the battery's 5.69 V, whatever the diode takes."""
        text = "t\nV1 a 0 5.69\nD1 a 0 d\nQ1 a a 0 n\nR1 a b 10k\nR2 b 0 30k\n.model d D(N=1.5)\n.model n NPN\n.end\n"
        voltages = operating_point(read_spice(text)).voltages
        self.assertAlmostEqual(voltages["b"], 5.69 * 0.75, places=9)


class Transients(unittest.TestCase):
    def test_a_capacitor_charged_through_a_diode(self) -> None:
        """Against SciPy's integrator on the one differential equation, the diode's law inverted step by step."""
        text = "t\nV1 a 0 PULSE(0 2 0 1u 1u 1 2)\nR1 a b 1k\nD1 b c d\nC1 c 0 1u\nR2 c 0 47k\n.model d D(IS=1e-12 N=1.4)\n.end\n"
        run = run_transient(read_spice(text), 5e-3, 5e-6)
        vt = 1.4 * 0.0258649

        def slope(at: float, v: np.ndarray) -> list[float]:
            drive = min(at / 1e-6, 1.0) * 2.0 - v[0]
            low, high = 0.0, max(drive, 0.0)
            for _ in range(60):  # the diode's share of the drive
                middle = (low + high) / 2
                low, high = (middle, high) if 1e-12 * np.expm1(middle / vt) < (drive - middle) / 1e3 else (low, middle)
            return [((drive - low) / 1e3 - v[0] / 47e3) / 1e-6]

        reference = solve_ivp(slope, (0.0, 5e-3), [0.0], t_eval=run.time_s[1:], rtol=1e-8, atol=1e-10, max_step=2e-5)
        away = np.abs(run.voltages["c"][1:] - reference.y[0])
        self.assertLess(float(away[20:].max()), 0.01 * float(reference.y[0].max()))

    def test_a_coil_and_a_resistance(self) -> None:
        """i = V/R (1 - exp(-t R/L)): any textbook of circuit theory."""
        text = "t\nV1 a 0 PULSE(0 1 0 1n 1n 1 2)\nR1 a b 100\nL1 b 0 10m\n.end\n"
        run = run_transient(read_spice(text), 5e-4, 1e-6)
        expected = np.exp(-run.time_s * 100 / 10e-3)
        self.assertLess(float(np.abs(run.voltages["b"][2:] - expected[2:]).max()), 0.01)

    def test_charge_is_kept(self) -> None:
        """Two equal capacitors behind a resistance share their charge: the sum of both voltages falls to the mean."""
        text = "t\nI1 0 a PULSE(0 1m 0 1u 1u 100u 1)\nC1 a 0 1u\nRp a 0 1g\nR1 a b 10k\nC2 b 0 1u\nRq b 0 1g\n.end\n"
        run = run_transient(read_spice(text), 60e-3, 20e-6)
        given_c = 1e-3 * 101e-6  # 100 us and half of either edge
        self.assertAlmostEqual(float(run.voltages["a"][-1]), given_c / 2e-6, delta=1e-3)
        self.assertAlmostEqual(float(run.voltages["b"][-1]), given_c / 2e-6, delta=1e-3)


if __name__ == "__main__":
    unittest.main()
