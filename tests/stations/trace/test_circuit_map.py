"""The map of a circuit: every part once, spots apart, pins kept; on the circuits that ship and on any netlist at all."""

import unittest
from collections import Counter
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

import violet_dial
from tests.reference.random_netlists import random_netlist
from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.stations.trace.circuit_map import map_circuit

CIRCUITS = sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir"))


class Maps(unittest.TestCase):
    def check(self, circuit: Circuit, columns: int) -> None:
        found = map_circuit(circuit, {}, columns)
        self.assertEqual([one.node for one in found.places], list(circuit.nodes))
        at = Counter((one.column, one.row) for one in found.places)
        self.assertEqual([spot for spot, count in at.items() if count > 1], [])  # no two spots on one another
        self.assertTrue(all(0 <= one.column < columns and one.row >= 0 for one in found.places))
        drawn = Counter(one.part for one in found.runs)
        live = [part.name for part in circuit.parts if any(node != GROUND for node in part.nodes)]
        self.assertEqual(sorted(drawn.elements()), sorted(live))
        nodes = set(circuit.nodes)
        lanes: dict[tuple[str, ...], list[int]] = {}
        for run in found.runs:
            self.assertLessEqual({run.start, run.end} - {None}, nodes)
            self.assertNotEqual(run.start, run.end)
            lanes.setdefault(tuple(sorted((run.start, run.end or ""))), []).append(run.lane)
            self.assertLess(run.lane, run.of_lanes)
        self.assertTrue(all(sorted(several) == list(range(len(several))) for several in lanes.values()))
        self.assertEqual(found, map_circuit(circuit, {}, columns))  # the same every time

    def test_circuits_that_ship(self) -> None:
        for path in CIRCUITS:
            circuit = read_spice(path.read_text(encoding="utf-8"))
            for columns in (4, 6, 9, 14):
                with self.subTest(path.stem, columns=columns):
                    self.check(circuit, columns)

    @settings(max_examples=150, deadline=None)
    @given(st.integers(0, 10**6), st.integers(3, 12))
    def test_any_netlist(self, seed: int, columns: int) -> None:
        self.check(read_spice(random_netlist(seed)), columns)

    def test_a_pinned_spot_stays_and_the_others_do_not_mind(self) -> None:
        circuit = read_spice(CIRCUITS[1].read_text(encoding="utf-8"))
        plain = {one.node: (one.column, one.row) for one in map_circuit(circuit, {}).places}
        node = circuit.nodes[3]
        pinned = {one.node: (one.column, one.row) for one in map_circuit(circuit, {node: (2.5, 7.0)}).places}
        self.assertEqual(pinned.pop(node), (2.5, 7.0))
        del plain[node]
        self.assertEqual(pinned, plain)

    def test_places_in_the_device_head_the_columns_in_order(self) -> None:
        circuit = read_spice(next(path for path in CIRCUITS if path.stem == "cds-series").read_text(encoding="utf-8"))
        headings = map_circuit(circuit, {}, 9).headings
        self.assertEqual([name for name, _, _ in headings][:2], ["battery cover", "meter switch"])
        self.assertTrue(all(first < last for _, first, last in headings))
        self.assertEqual(map_circuit(circuit, {}, 3).headings, ())  # folded: columns no longer run into the device
