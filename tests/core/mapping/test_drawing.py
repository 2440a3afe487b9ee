"""A circuit as a drawing: every part once, spots apart, rails straight, pins kept; of what ships and of any netlist at all."""

import itertools
import unittest
from collections import Counter
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

import violet_dial
from tests.reference.random_netlists import random_netlist
from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.mapping.drawing import BoardDrawing, drawn
from violet_dial.core.mapping.layered import layered

CIRCUITS = {path.stem: path for path in sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir"))}


def circuit_of(stem: str) -> Circuit:
    return read_spice(CIRCUITS[stem].read_text(encoding="utf-8"))


class Drawings(unittest.TestCase):
    def check(self, circuit: Circuit) -> BoardDrawing:
        found = drawn(circuit)
        self.assertEqual([one.node for one in found.places], list(circuit.nodes))
        at = Counter((one.x, one.y) for one in found.places)
        self.assertEqual([spot for spot, count in at.items() if count > 1], [])  # no two spots on one another
        live = [part.name for part in circuit.parts if any(node != GROUND for node in part.nodes)]
        self.assertEqual(sorted(one.part for one in found.wires), sorted(live))
        where = {one.node: (one.x, one.y) for one in found.places}
        level = {rail.node: rail.y for rail in found.rails}
        for wire in found.wires:
            for end, point in ((wire.start, wire.points[0]), (wire.end or GROUND, wire.points[-1])):
                if end in level and point[1] == level[end]:  # anywhere on its rail, which is straight
                    rail = next(one for one in found.rails if one.node == end)
                    self.assertTrue(rail.first - 1e-9 <= point[0] <= rail.last + 1e-9, (wire, rail))
                else:
                    self.assertEqual(point, where[end])
            for one, other_point in itertools.pairwise(wire.points):
                self.assertTrue(one[0] == other_point[0] or one[1] == other_point[1], "lines run along rows and columns")
            self.assertTrue(any(_is_on(wire.mark, *pair) for pair in itertools.pairwise(wire.points)))
        self.assertEqual(found, drawn(circuit))  # the same every time
        return found

    def test_circuits_that_ship(self) -> None:
        for stem in CIRCUITS:
            with self.subTest(stem):
                found = self.check(circuit_of(stem))
                marks = [wire.mark for wire in found.wires]
                near = min(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in itertools.combinations(marks, 2))
                self.assertGreater(near, 0.2, "marks stand apart")

    @settings(max_examples=150, deadline=None)
    @given(st.integers(0, 10**6))
    def test_any_netlist(self, seed: int) -> None:
        self.check(read_spice(random_netlist(seed)))

    def test_rails(self) -> None:
        found = drawn(circuit_of("cds-two-range"))
        supply, chassis = found.rails
        self.assertEqual((supply.node, supply.y, chassis.node), ("common", 0.0, GROUND))
        self.assertEqual(chassis.y, found.tall)
        self.assertTrue(all(wire.points[-1][1] == chassis.y for wire in found.wires if wire.end is None))

    def test_a_pinned_spot_stays_and_the_others_do_not_mind(self) -> None:
        circuit = circuit_of("cds-series")
        plain = {one.node: (one.x, one.y) for one in drawn(circuit).places}
        node = circuit.nodes[3]
        pinned = {one.node: (one.x, one.y) for one in drawn(circuit, {node: (2.5, 7.0)}).places}
        self.assertEqual(pinned.pop(node), (2.5, 7.0))
        del plain[node]
        self.assertEqual(pinned, plain)

    def test_places_in_the_device_head_the_columns_in_order(self) -> None:
        headings = drawn(circuit_of("cds-series")).headings
        self.assertEqual([name for name, _, _ in headings][:2], ["battery cover", "meter switch"])
        self.assertTrue(all(first < last for _, first, last in headings))

    def test_lines_cross_no_more_than_they_must(self) -> None:
        """A ladder whose columns are listed the wrong way round is drawn without a crossing."""
        nodes = [f"{side}{n}" for n in range(5) for side in ("b" if n % 2 else "a", "a" if n % 2 else "b")]
        lines = [(f"{side}{n}", f"{side}{n + 1}") for n in range(4) for side in "ab"]
        found = layered(nodes, lines, ["a0", "b0"])
        above = [found.row[f"a{n}"] < found.row[f"b{n}"] for n in range(5)]
        self.assertEqual(len(set(above)), 1)


def _is_on(at: tuple[float, float], one: tuple[float, float], other: tuple[float, float]) -> bool:
    return all(min(a, b) - 1e-9 <= x <= max(a, b) + 1e-9 for x, a, b in zip(at, one, other, strict=True))


if __name__ == "__main__":
    unittest.main()
