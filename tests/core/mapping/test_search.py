"""Several faults at once: joins that stand in for each other, nets joined through a third, ohms where nothing was seen, contacts
that beep in a join's place."""

import random
import unittest
from dataclasses import replace

import networkx
import numpy as np

from tests.core.mapping.boards import said
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.mapping.around import Join, cheapest_cut
from violet_dial.core.mapping.board import Board, Ground, Pin, Touch, node_of
from violet_dial.core.mapping.change import lay, pin
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.ohms import network
from violet_dial.core.mapping.search import judged
from violet_dial.core.mapping.touching import proof_of
from violet_dial.core.records.circuit import OVERLOAD_OHM, Setting

ROW = "abcdefgh"


def board(*lines: str) -> Board:
    """Spots in a row on a photo between two other rows, so that only neighbours may touch, with what was said of them."""
    rows = (ROW, [f"over {n}" for n in range(8)], [f"under {n}" for n in range(8)])
    found = said("\n".join([*(f"spot {name}" for row in rows for name in row), *lines]))
    found = lay(found, Ground("p", "front", aspect=2.5))
    for row, y in zip(rows, (0.5, 0.2, 0.8), strict=True):
        for n, name in enumerate(row):
            found = pin(found, name, Pin("p", 0.06 + 0.12 * n + 0.02 * y, y + 0.01 * (n % 2)), "p")
    return found


def touched(found: Board, *touches: tuple[str, str, float]) -> Board:
    return replace(found, touches=tuple(Touch(a, b, ohm) for a, b, ohm in touches))


class Cuts(unittest.TestCase):
    def test_the_cut_is_as_cheap_as_networkx_finds_it(self) -> None:
        draw = random.Random(5)
        for _ in range(60):
            joins = [Join(draw.randrange(8), draw.randrange(8), n, draw.choice([0.5, 1.0, 2.5])) for n in range(16)]
            joins = [one for one in joins if one.one != one.other]
            graph = networkx.Graph()
            graph.add_nodes_from(range(8))
            for join in joins:
                more = graph.get_edge_data(join.one, join.other, {"capacity": 0.0})["capacity"]
                graph.add_edge(join.one, join.other, capacity=more + join.cost)
            theirs = networkx.minimum_cut_value(graph, 0, 7)
            cut = cheapest_cut(joins, 0, 7, 100.0)
            assert cut is not None
            cost = {join.known: join.cost for join in joins}
            self.assertAlmostEqual(sum(cost[known] for known in cut), theirs)
            left = networkx.Graph((join.one, join.other) for join in joins if join.known not in cut)
            left.add_nodes_from((0, 7))
            self.assertFalse(networkx.has_path(left, 0, 7))

    def test_what_costs_too_much_is_not_cut(self) -> None:
        self.assertIsNone(cheapest_cut([Join(0, 1, 4, 3.0)], 0, 1, 2.0))
        self.assertEqual(cheapest_cut([Join(0, 1, 4, 3.0)], 0, 1, 3.0), [4])
        self.assertEqual(cheapest_cut([], 0, 1, 3.0), [])


class SeveralFaults(unittest.TestCase):
    def believed(self, found: Board) -> set[str]:
        result = judged(found)
        self.assertEqual(result.odd, ())
        return {one.words for one in result.believed}

    def test_two_joins_that_stand_in_for_each_other_are_both_gone(self) -> None:
        """Either alone would be made up for by the other."""
        found = board("track a to b", "red wire a to b", "track b to c")
        touches = (("a", "b", OVERLOAD_OHM), ("b", "c", 0.2), ("a", "c", OVERLOAD_OHM))
        gone = {"track is not there, or broken", "red wire is not there, or broken"}
        self.assertEqual(self.believed(touched(found, *touches)), gone)

    def test_nets_joined_through_a_spot_that_nothing_was_said_of(self) -> None:
        found = board("track a to b", "track d to e")
        touches = (("a", "e", 0.3), ("b", "d", 0.3), ("a", "b", 0.2), ("d", "e", 0.2))
        self.assertEqual(self.believed(touched(found, *touches)), {"b touches c", "c touches d"})

    def test_some_ohms_where_no_join_was_seen(self) -> None:
        found = board("track a to b", "track c to d")
        touches = (("a", "d", 136.0), ("b", "c", 135.7), ("a", "b", 0.2), ("c", "d", 0.2))
        self.assertEqual(self.believed(touched(found, *touches)), {"some ohms lie between b and c"})

    def test_a_beep_where_open_was_expected_is_judged_by_the_meters_own_error_there(self) -> None:
        """An open is read to a few per cent, a tenth of an ohm is not."""
        found = board("R1 47k a to b")
        for ohm in (0.11, 0.2, 0.35):
            with self.subTest(ohm):
                self.assertEqual(self.believed(touched(found, ("a", "b", ohm))), {"a touches b"})


class Proof(unittest.TestCase):
    LINES = ("battery 3 h to chassis", "track a to b", "S1 off/on: a to -, b")

    def test_a_closed_contact_proves_no_join(self) -> None:
        found = board(*self.LINES)
        shut, open_ = Setting(switches=(("s1", "on"),)), Setting(switches=(("s1", "off"),))
        for setting, is_alone in ((shut, True), (open_, False)):
            with self.subTest(setting.words):
                touch = Touch("a", "b", 0.2, setting=setting)
                proof = proof_of(replace(found, touches=(touch,)), setting)
                net = next(one for one in proof.nets if "a" in one.spots)
                self.assertEqual("b" in net.alone, is_alone)

    def test_broken_behind_a_closed_contact_is_found_with_it_open(self) -> None:
        found = board(*self.LINES)
        truth = board("battery 3 h to chassis", "S1 off/on: a to -, b")
        now, made = Setting(switches=(("s1", "on"),)), 0
        proof = proof_of(found, now)
        while proof.next is not None and made < 80:
            ask, made = proof.next, made + 1
            there = network(checked_circuit(compiled(truth).text), ask.setting, tuple(ROW))
            rows = [np.array([there.row(node_of(name))]) for name in (ask.a, ask.b)]
            ohm = min(float(there.ohm(rows[0], rows[1])[0]) + 0.1, OVERLOAD_OHM)
            found = replace(found, touches=(*found.touches, Touch(ask.a, ask.b, ohm, setting=ask.setting)))
            proof = proof_of(found, now, proof.judged)
        self.assertEqual({one.words for one in proof.judged.believed}, {"track is not there, or broken"})


if __name__ == "__main__":
    unittest.main()
