"""The fewest touches: what is believed becomes the truth, and nothing wrong is said to be proved."""

import unittest
from dataclasses import replace

from bench.boards import drawn, partition, traced
from tests.core.mapping.boards import said
from violet_dial.core.mapping.around import Surroundings, turned_over
from violet_dial.core.mapping.board import Board, Pin, SolderPoint, Touch
from violet_dial.core.mapping.doubts import neighbours, rows_of
from violet_dial.core.mapping.touching import proof_of
from violet_dial.core.records.circuit import Setting


class FewestTouches(unittest.TestCase):
    def test_on_invented_boards(self) -> None:
        """An eye that misses a tenth and sees a twentieth too much; broken tracks; every neighbour pair would be 100."""
        for seed in (12_000, 12_003):
            found = traced(seed)
            self.assertTrue(found.right, seed)
            self.assertLess(found.until_true, 0.5 * found.neighbour_pairs, seed)

    def test_a_chain_is_settled_end_to_end_and_proved_member_by_member(self) -> None:
        board = said("track a to b\ntrack b to c\ntrack c to d")
        ask = proof_of(board).next
        assert ask is not None
        self.assertEqual({ask.a, ask.b}, {"a", "d"})
        one = proof_of(replace(board, touches=(Touch("a", "d", 0.25),)))
        self.assertFalse(one.is_proved)
        self.assertEqual(one.left, 2)
        every = tuple(Touch(one, other, 0.2) for one, other in ("ab", "bc", "cd"))
        self.assertTrue(proof_of(replace(board, touches=every)).is_proved)

    def test_a_broken_track_is_found_and_said(self) -> None:
        board = said("track a to b\ntrack b to c\nR1 1k c to chassis")
        found = proof_of(replace(board, touches=(Touch("a", "c", 5e7), Touch("b", "c", 0.2))))
        self.assertEqual([one.words for one in found.judged.believed], ["track is not there, or broken"])
        self.assertEqual(partition(found.judged.board), frozenset(map(frozenset, ({"a"}, {"b", "c"}, {"chassis"}))))

    def test_corrosion_is_some_ohms_and_not_a_break(self) -> None:
        board = said("track a to b\nR1 1k b to chassis")
        found = proof_of(replace(board, touches=(Touch("a", "b", 57.0), Touch("a", "chassis", 1057.0))))
        self.assertEqual([one.words for one in found.judged.believed], ["track has some ohms"])

    def test_a_touch_against_all_others_is_left_unexplained(self) -> None:
        board = said("track a to b")
        touches = (*(Touch("a", "b", 0.2) for _ in range(6)), Touch("a", "b", 5e7))
        found = proof_of(replace(board, touches=touches))
        self.assertEqual(found.judged.odd, (touches[-1],))
        self.assertFalse(found.is_proved)

    def test_what_a_broken_join_let_through_is_gone_to_the_last(self) -> None:
        """What is taken away is what lies there, whatever figures the circuit's text has room for."""
        for ohm in (0.0283456789, 0.00754878, 1.23456789):
            board = said("track a to b")
            item = replace(board.items[0], measured_ohm=ohm)
            around = Surroundings(replace(board, items=(item,)))
            missing = next(n for n, one in enumerate(around.doubts) if one.what == "missing")
            there = turned_over(around.base.at(Setting()), around.doubts, frozenset({missing}))
            self.assertEqual(float(there.ohm(*rows_of(there, [("a", "b")]))[0]), float("inf"))

    def test_neighbours_lie_beside_each_other_on_the_photo(self) -> None:
        places = {"a": (0.1, 0.1), "b": (0.2, 0.1), "c": (0.9, 0.9), "d": (0.8, 0.9), "e": (0.1, 0.2)}
        board = Board(spots=tuple(SolderPoint(name, pins=(Pin("p", *at),)) for name, at in places.items()))
        pairs = {frozenset(pair) for pair in neighbours(board)}
        self.assertIn(frozenset("ab"), pairs)
        self.assertNotIn(frozenset("ac"), pairs)
        for several in (("a", "b", "c"), tuple("abcdefgh")):  # on one line, and on one point
            for step in (0.1, 0.0):
                line = Board(spots=tuple(SolderPoint(name, pins=(Pin("p", step * n, 0.5),)) for n, name in enumerate(several)))
                self.assertTrue(neighbours(line))

    def test_the_eye_differs_from_the_truth(self) -> None:
        one = drawn(12_005)
        self.assertNotEqual(partition(one.seen), partition(one.true))


if __name__ == "__main__":
    unittest.main()
