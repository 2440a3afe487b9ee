"""Bench lines: what each says, how far one was understood that is not, and what changes a board."""

import unittest

from tests.core.mapping.boards import DRIVE, said
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.change import asks_first, join, kept, part, rename, say, take_out
from violet_dial.core.mapping.lines import understand_line
from violet_dial.core.mapping.text import board_from_text

SAID = {
    "red wire clip+ to S1": "red wire clip+ to S1",
    "R4 2k2 from S1 common to Q1 base": "resistor R4 S1 common to Q1 base: 2.2 kΩ",
    "C7 226 rail to chassis": "capacitor C7 rail to chassis: 226 (22 µF)",
    "R9 472 a to b": "resistor R9 a to b: 472 (4.7 kΩ)",
    "D2 schottky lead to rail, band to rail": "schottky diode D2 lead to rail, band at rail",
    "cell selenium + in - chassis": "selenium in to chassis: 100 nA per lx (usual)",
    "movement coil+ to chassis 120 uA full": "movement coil+ to chassis: 120 µA full scale, 1.5 kΩ (usual)",
    "lamp slow from nslow to rail": "lamp slow lamp nslow to rail: 150 Ω (usual), 15 mA when on (usual)",
    "battery 1.35 clip+ to chassis": "battery clip+ to chassis: 1.35 V",
    "regulator in rail0 out rail gnd sw- 2.6 V": "regulator: 2.6 V from rail0 to rail, against sw-",
    "flex f1 to S3, under rigid at S3": "flex f1 to S3; under rigid at S3",
    "flex under rigid at S3": "spot S3, flex under rigid",
    "track a to b, guessed": "track a to b, guessed",
    "clip+ to S1 beep": "clip+ to S1: a beep",
    "spot clip+, battery cover, behind base plate": "spot clip+, battery cover, behind base plate",
}
REFUSED = {
    "motor": "understood motor; then two spots",
    "R9 5 V a to b": "a figure of a resistor",
    "gibberish here": "what it is",
    "Q1 npn e chassis b x": "c is missing",
    "S1 off/on: common to a": "one spot for each of its 2 positions",
    "red wire a to a": "two different spots",
    "IC3 pin 7 drives": "a box of this board",
    "D1 a to b, band to c": "one of its two spots",
    "": "something of the board",
}


class Lines(unittest.TestCase):
    def test_what_each_says(self) -> None:
        for line, words in SAID.items():
            with self.subTest(line):
                self.assertEqual(understand_line(Board(), line).words, words)

    def test_what_was_understood_up_to_where(self) -> None:
        for line, words in REFUSED.items():
            with self.subTest(line), self.assertRaises(InvalidInput) as caught:
                understand_line(Board(), line)
            self.assertIn(words, str(caught.exception))

    def test_a_leg_is_the_spot_it_is_at(self) -> None:
        board = said("R4 2k2 from in to Q1 base\nQ1 npn e chassis b R4 right c out")
        self.assertEqual(board.found_item("Q1").at("b"), "Q1 base")
        board, _ = say(board, "R4 left to R4 right 1.1k")
        self.assertEqual((board.touches[0].a, board.touches[0].b), ("in", "Q1 base"))

    def test_a_leg_said_before_its_part_is_joined_to_where_the_part_was_said_to_be(self) -> None:
        board = said("track S1 common to R4 left\nR4 2k2 from S1 common to b")
        self.assertEqual(board.found_item("R4").at("a"), "R4 left")
        board = said("track x to R4 left\nR4 2k2 from y to b")
        self.assertEqual([(one.kind, one.how) for one in board.items if one.name.endswith("joint")], [("joint", "guessed")])

    def test_figures_left_out_are_the_usual_ones_and_marked(self) -> None:
        item = said("R4 from a to b").found_item("R4")
        self.assertTrue(item.figures[0].guessed)
        board, words = say(said("R4 from a to b"), "a to b 2k2")
        self.assertIn("R4 is 2200", words)
        self.assertFalse(board.found_item("R4").figures[0].guessed)

    def test_a_beep_joins_and_an_open_parts_a_guess(self) -> None:
        board, words = say(said("spot a\nspot b"), "a to b beep")
        self.assertIn("joined on the map", words)
        self.assertEqual([one.how for one in board.items], ["measured"])
        board, words = say(said("track a to b, guessed"), "a to b open")
        self.assertIn("parted", words)
        self.assertEqual(board.items, ())
        board, words = say(said("track a to b"), "a to b open")
        self.assertIn("suspect", words)
        self.assertEqual(len(board.items), 1, "what was seen stays: it may be broken")


class Changes(unittest.TestCase):
    def test_renamed_joined_parted_taken_out(self) -> None:
        board, _ = rename(said(DRIVE), "rail0", "switched rail")
        self.assertEqual(board.found_item("magnet").at("a"), "switched rail")
        self.assertIsNone(board.spot("rail0"))
        board, _ = join(said("track a to b\nR1 1k b to c\nspot d"), "c", "d")
        self.assertIsNone(board.spot("d"))
        board, _ = part(said("track a to b\nR1 1k b to c"), "b", "R1", "", "b2")
        self.assertEqual(board.found_item("R1").at("a"), "b2")
        board = take_out(said("track a to b"), "track")
        self.assertEqual((board.items, len(board.spots)), ((), 2))

    def test_what_cannot_be_is_refused_and_nothing_changes(self) -> None:
        board = said(DRIVE)
        for act in (
            lambda: rename(board, "rail", "rail0"), lambda: rename(board, "nowhere", "x"), lambda: rename(board, "rail", " "),
            lambda: join(board, "ctl", "Q1 base"), lambda: take_out(board, "rail"), lambda: part(board, "rail", "R4", "", "x"),
            lambda: say(board, "track Q1_base to x"), lambda: rename(board, "rail", "Q1 base"),
            lambda: say(board, "R4 lamp a to b"), lambda: say(board, "IC3 pin 5 drives"),
        ):  # fmt: skip
            self.assertRaises(InvalidInput, act)

    def test_renaming_in_a_ring_ends_where_it_began(self) -> None:
        board = said("track a to b\ntrack b to c")
        for old, new in (("a", "x"), ("b", "a"), ("x", "b"), ("a", "y"), ("b", "a"), ("y", "b")):
            board, _ = rename(board, old, new)
        self.assertEqual(board, said("track a to b\ntrack b to c"))

    def test_a_short_of_the_supply_is_asked_about_once(self) -> None:
        board = said(DRIVE)
        self.assertIn("dead short", asks_first(board, understand_line(board, "track S1 to chassis")))
        self.assertEqual(asks_first(board, understand_line(board, "track ctl to chassis")), "")
        kept(board, understand_line(board, "track S1 to chassis"))

    def test_a_file_is_refused_by_its_line(self) -> None:
        with self.assertRaises(InvalidInput) as caught:
            board_from_text("# a board\nred wire a to b\n\nmotor\n")
        self.assertIn("Line 4", str(caught.exception))
        self.assertRaises(InvalidInput, board_from_text, "spot x\n" * 10_001)
        self.assertRaises(InvalidInput, board_from_text, "\n".join(f"track a{n} to b{n}" for n in range(700)))


if __name__ == "__main__":
    unittest.main()
