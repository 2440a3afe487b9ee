"""The fewest touches: what is believed becomes the truth, and nothing wrong is said to be proved."""

import unittest
from dataclasses import replace

import numpy as np

from bench.boards import Meter, drawn, partition, touched, traced
from tests.core.mapping.boards import said
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.diagnosis.evidence import points_named
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.around import Surroundings, turned_over
from violet_dial.core.mapping.board import Board, Pin, SolderPoint, Touch
from violet_dial.core.mapping.change import say
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.doubts import neighbours, rows_of
from violet_dial.core.mapping.possible import NextTouch
from violet_dial.core.mapping.rows import read_row
from violet_dial.core.mapping.taken import taken_in
from violet_dial.core.mapping.touching import Proof, proof_of
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


class ALeadDrawnAlong(unittest.TestCase):
    """One act for many: held at one spot, the other lead goes along a row."""

    ROW = "\n".join(f"track hub to p{n}" for n in range(1, 9))

    def test_members_of_a_net_are_measured_in_one_go(self) -> None:
        found = proof_of(said(f"{self.ROW}\nR1 1k hub to chassis"))
        board, acts = found.judged.said, 0
        while found.next is not None and not found.next.over:
            ask, acts = found.next, acts + 1
            board, _ = taken_in(board, Touch(ask.a, ask.b, 0.2 if ask.expects_beep else ask.ohm), asked=True)
            found = proof_of(board)
        assert found.next is not None
        self.assertEqual(found.next.expects, "a beep at each")
        self.assertLess(acts, 7)
        for touch in read_row(found.next, "beep"):
            board, _ = taken_in(board, touch, asked=True)
        self.assertEqual(proof_of(board).nets[0].alone + proof_of(board).nets[1].alone, ())

    def test_what_may_touch_anywhere_is_swept(self) -> None:
        lines = "\n".join(f"track a{n} to b{n}\nspot a{n}" for n in range(8))
        ask = proof_of(said(lines)).next
        made = 0
        board = said(lines)
        while ask is not None and not ask.over and made < 12:
            board, _ = taken_in(board, Touch(ask.a, ask.b, 0.2 if ask.expects_beep else 5e7), asked=True)
            ask, made = proof_of(board).next, made + 1
        assert ask is not None
        self.assertEqual(ask.expects, "no beep at any of them")
        self.assertGreater(len(ask.along), 2)
        self.assertEqual(len({*ask.along, ask.a}), 1 + len(ask.along))

    def test_what_is_heard_along_a_row(self) -> None:
        ask = NextTouch("hub", "p1", Setting(), "a beep at each", 0.1, 0.0, 0.2, ("proof",), ("p2", "p3"))
        for line, beeps in (
            ("beep", "111"), ("no beep", "000"), ("p2", "101"), ("p2, p3 no beep", "100"), ("beep at P1", "100"),
        ):  # fmt: skip
            self.assertEqual("".join(str(int(bool(one.beep))) for one in read_row(ask, line)), beeps, line)
        for line in ("p9", "", "2k2", "p1,", "p1 p2"):
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, "p1, p2, p3"):
                read_row(ask, line)

        twin = replace(ask, over=("b", "p3"))
        self.assertEqual([one.beep for one in read_row(twin, "b no beep")], [True, False, True])
        self.assertRaisesRegex(InvalidInput, "spot of that name", read_row, twin, "b")

    def test_a_line_says_a_row(self) -> None:
        board = said("spot a\nspot b\nspot c")
        found, words = say(board, "chassis to a, b, c no beep")
        self.assertEqual([(one.a, one.b, one.beep) for one in found.touches], [("chassis", name, False) for name in "abc"])
        self.assertIn("a, b, c: no beep", words)
        for line in ("chassis to a, b 2k2", "chassis to a, a beep", "a to b, a beep"):
            self.assertRaises(InvalidInput, say, board, line)


class Honest(unittest.TestCase):
    """What is not known is not said to be proved."""

    def test_without_places_any_two_nets_may_touch(self) -> None:
        board = said("battery 3 a to chassis\nR1 1k a to b\nR2 2k2 c to chassis\nspot d")
        found = proof_of(board)
        wanted = {net.spots[0]: set(net.beside) for net in found.nets}
        self.assertEqual(wanted["d"], {"a", "b", "c", "chassis"})
        self.assertFalse(any(net.is_proved for net in found.nets))
        truth = said("battery 3 a to chassis\nR1 1k a to b\nR2 2k2 c to chassis\ntrack b to d")
        found, board = _asked_to_the_end(board, truth)
        self.assertIn("b touches d", [one.words for one in found.judged.believed])
        self.assertTrue(found.is_proved)
        self.assertLess(len(board.touches), 10, "pairs of the five nets: one reading tells several apart")

    def test_a_net_with_a_touch_that_nothing_explains_is_not_proved(self) -> None:
        board = said("R3 4k7 a to b\nR4 10k b to chassis\na to b 50R\na to chassis open\nb to chassis 10k")
        found = proof_of(board)
        self.assertTrue(found.judged.odd)
        self.assertEqual([net.spots for net in found.nets if net.is_proved], [])

    def test_where_a_meter_beeps_is_learned(self) -> None:
        """Coils and resistors of 40 to 90 ohm beep on a meter that beeps up to 100: no join is there."""
        board = said("R1 47R a to b\nR2 68R b to c\nR3 82R c to d\nR4 150R d to e\nR5 1k e to chassis")
        lines = ("a to b beep", "b to c beep", "c to d beep", "d to e no beep", "e to chassis no beep")
        for line in lines:
            board, _ = say(board, line)
        found = proof_of(board)
        self.assertEqual(found.judged.beep_ohm, 100.0)
        self.assertEqual((found.judged.believed, found.judged.odd), ((), ()))
        self.assertFalse(any(item.is_lead for item in board.items))
        self.assertEqual(proof_of(said("R1 47R a to b\nR2 1k b to chassis")).judged.beep_ohm, 30.0)

    def test_a_light_cell_is_no_resistor_of_one_figure(self) -> None:
        for ohm in ("9k", "25k", "120k"):
            board = said(f"cell selenium + in - chassis\nred wire in to a\nmovement a to b\nspot x\nin to chassis {ohm}")
            found = proof_of(board)
            self.assertEqual(found.judged.odd, (), ohm)
        self.assertIn(
            "the light cell covered", _expected(said("cell selenium + in - chassis\nR1 1k in to a\nmovement a to chassis"))
        )

    def test_a_touch_says_how_a_switch_stood(self) -> None:
        board = said(
            "S1 off/on: common to -, rail\nred wire clip+ to S1\nclip+ to rail beep, S1 on\nclip+ to rail open with S1 off"
        )
        self.assertEqual([touch.setting.switches for touch in board.touches], [(("s1", "on"),), (("s1", "off"),)])
        self.assertEqual(proof_of(board).judged.odd, ())
        self.assertRaises(InvalidInput, say, board, "clip+ to rail beep, S1 half")

    def test_the_circuits_ground_may_be_another_spot_than_the_chassis(self) -> None:
        board = said("gnd is apart from chassis\nbattery 3 plus to gnd\nC1 10u gnd to chassis\ngnd to chassis open")
        self.assertEqual(board.found_item("battery").at("-"), "board-gnd")
        self.assertEqual((board.touches[0].a, board.touches[0].b), ("board-gnd", "chassis"))
        circuit = checked_circuit(compiled(board).text)
        self.assertEqual(points_named(circuit, "plus to board-gnd")[:2], ("plus", "board-gnd"))
        self.assertRaises(InvalidInput, points_named, circuit, "plus to gnd")
        self.assertEqual(said("battery 3 plus to gnd").found_item("battery").at("-"), "chassis")


def _asked_to_the_end(board: Board, truth: Board) -> tuple[Proof, Board]:
    """Touched as the map asks, on a board that is truly otherwise."""
    proof, meter = proof_of(board), Meter(truth, np.random.default_rng(4))
    while proof.next is not None and len(board.touches) < 60:
        ask = proof.next
        for touch in touched(meter, ask, 0.0):
            board, _ = taken_in(board, touch, asked=True)
        proof = proof_of(board, before=proof.judged)
    return proof, board


def _expected(board: Board) -> str:
    touch = proof_of(board).next
    return touch.expects if touch is not None else ""


if __name__ == "__main__":
    unittest.main()
