"""A working unit beside the sick one: ranked, halved, and doubted where it must be."""

import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

import violet_dial
from tests.core.mapping.boards import said
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import node_of
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.mapping.sister import SisterPair, compare, differing_of
from violet_dial.core.practice.bench import FaultyDevice
from violet_dial.core.records.circuit import Evidence

ASSETS = Path(violet_dial.__file__).parent / "assets" / "circuits"
CHAIN = "\n".join(["battery 6 s0 to chassis", *(f"track s{n} to s{n + 1}" for n in range(12)), "R1 1k s12 to chassis"])


class Sister(unittest.TestCase):
    def test_the_place_where_they_part_is_named(self) -> None:
        found = compare(said(), [SisterPair("clip+", 5.9, 5.88), SisterPair("rail0", 5.85, 5.8), SisterPair("rail", 2.6, 0.1)])
        self.assertEqual(found.between, ("rail0", "rail"))
        self.assertEqual(found.ranking[0].spot, "rail")
        self.assertIn("regulator", found.words)

    def test_the_next_spot_halves_what_is_left(self) -> None:
        for broken in range(1, 13):
            board, pairs, asked = said(CHAIN), [SisterPair("s0", 6.0, 6.0)], 0
            found = compare(board, pairs)
            while found.next is not None:
                number = int(found.next[1:])
                pairs.append(SisterPair(found.next, 6.0, 6.0 if number < broken else 0.0))
                found, asked = compare(board, pairs), asked + 1
            self.assertEqual(found.between, (f"s{broken - 1}", f"s{broken}"))
            self.assertLessEqual(asked, 5)

    def test_spots_alone_are_a_line(self) -> None:
        board = said("spot a\nspot b\nspot c\nspot d\nspot e")
        found = compare(board, [SisterPair("a", 3.0, 3.02), SisterPair("d", 2.9, 0.4)])
        self.assertEqual((found.between, found.next), (("a", "d"), "b"))

    def test_spots_alone_are_placed_by_their_volts_and_the_touch_that_tells_is_said(self) -> None:
        """A selenium cell behind a broken lead rises, and all behind the break is dead: what is apart first is not at fault."""
        board = said("spot cell\nspot lead\nspot coil+\nspot clip")
        pairs = [SisterPair("cell", 0.20, 0.42), SisterPair("lead", 0.20, 0.42), SisterPair("coil+", 0.20, 0.0)]
        found = compare(board, pairs)
        self.assertEqual((found.suspects, found.next), ((), "clip"), "all are compared before the touch is said")
        found = compare(board, [*pairs, SisterPair("clip", 0.005, 0.0)])
        self.assertEqual(found.suspects[0], "between lead and coil+")
        self.assertIn("touch lead to coil+ on the sick unit and the good one; more ohms on the sick one is a break", found.words)
        alike = compare(board, [replace(pair, sick_v=1.01 * pair.good_v) for pair in pairs])
        self.assertEqual((alike.suspects, alike.between), ((), None))

    def test_good_units_may_differ(self) -> None:
        found = compare(said(), [SisterPair("rail", 2.6, 2.35), SisterPair("rail0", 5.9, 5.6)])
        self.assertIsNone(found.between)
        self.assertIn("alike", found.words)

    def test_where_no_spot_is_apart_no_chance_is_said_of_a_fault(self) -> None:
        """Two sound units of a draw in which all spots together lean one way by 83 %."""
        text = (ASSETS / "silicon-shutter.cir").read_text(encoding="utf-8")
        circuit, board, rng = read_spice(text), board_from_spice(text), np.random.default_rng(376)
        good, other = (FaultyDevice(circuit, (), rng) for _unit in range(2))
        now, pairs = usual_setting(circuit), []
        for node in (node_of(spot.name) for spot in board.spots if node_of(spot.name) in circuit.nodes):
            ask = Evidence("volt", 0.0, node, "0", setting=now)
            pairs.append(SisterPair(node, good.read(ask).value, other.read(ask).value, now))
        found = compare(board, pairs, differing_of(board), now)
        self.assertIsNone(found.between)
        self.assertGreater(found.chances[0], 0.5)
        self.assertRegex(found.words, r"^alike at all \d+ spots.*no spot is apart by itself.*compare once more first$")

    def test_a_sister_that_disagrees_with_physics_is_doubted(self) -> None:
        found = compare(said(), [SisterPair("clip+", 5.9, 5.9), SisterPair("S1", 4.1, 5.9)])
        self.assertIn("faulty itself", found.doubts[0])

    def test_bad_input(self) -> None:
        self.assertRaises(InvalidInput, compare, said(), [SisterPair("nowhere", 1.0, 1.0)])
        self.assertRaises(InvalidInput, compare, said(), [SisterPair("rail", float("nan"), 1.0)])


if __name__ == "__main__":
    unittest.main()
