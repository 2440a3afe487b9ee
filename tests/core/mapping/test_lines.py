"""Bench lines: what each says, how far one was understood that is not, and what changes a board."""

import unittest

from tests.core.mapping.boards import DRIVE, said
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.asked import asks_first
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.change import join, kept, part, rename, say, take_out
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.lines import understand_line
from violet_dial.core.mapping.names import resolved
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
    "R5 10 k rail to slow": "resistor R5 rail to slow: 10 kΩ",
    "R5 10 k from rail to slow": "resistor R5 rail to slow: 10 kΩ",
    "resistor R5 2.2 Meg rail to slow": "resistor R5 rail to slow: 2.2 MΩ",
    "R5 4,7k rail to slow": "resistor R5 rail to slow: 4.7 kΩ",
    "R4 2k2 a to b 5%": "resistor R4 a to b: 2.2 kΩ, ±5 %",
    "C7 0.1 a to b": "capacitor C7 a to b: 100 nF",
    "C7 22 uF 16 V a to b": "capacitor C7 a to b: 22 µF, 16 V",
    "R3 yellow violet red gold a to b": "resistor R3 a to b: yellow violet red gold (4.7 kΩ), ±5 %",
    "R3 brown red black black brown a to b": "resistor R3 a to b: brown red black black brown (120 Ω), ±1 %",
    "2xAA clip+ to chassis": "battery clip+ to chassis: 2xAA (3 V)",
    "battery 2 x 1.35 V clip+ to chassis": "battery clip+ to chassis: 2 x 1.35 V (2.7 V)",
    "D1 1N4148 a to b": "diode D1 1N4148 a to b, band at b",
    "diode 1N5817 a to b": "schottky diode 1N5817 a to b, band at b",
    "Q1 2N3906 pnp e a b in c out": "pnp transistor Q1: e at a, b at in, c at out",
    "silicon diode a to b": "silicon diode a to b, band at b",
    "schottky diode D2 a to b": "schottky diode D2 a to b, band at b",
    "silicon cell + in - chassis": "silicon cell photodiode in to chassis: 5 nA per lx (usual)",
    "cds cell a to b": "cds a to b: 200 kΩ at 10 lx (usual)",
    "VR1 10k a to b, wiper to c": "trimmer VR1 a at a, b at b, wiper at c: 10 kΩ",
    "VR1 10k a to b wiper c": "trimmer VR1 a at a, b at b, wiper at c: 10 kΩ",
    "meter 50 uA 2k a to b": "movement a to b: 50 µA full scale, 2 kΩ",
    "magnet 180 a to b": "solenoid magnet a to b: 180 Ω, 15 mA when on (usual)",
    "clip+ to S1 12 ohm": "clip+ to S1: 12 Ω",
}
ASKED = {  # a new spot whose name may be part of something else
    "R5 10 m rail to slow": 'm rail"? It begins like a unit',
    "R3 red black a to b": 'black a"? It begins like a colour',
    "R1 10k to b": '10k"? It begins like a figure',
    "D3 zener 5V1 a to b": 'zener 5V1 a"? It begins like a kind of part',
    "battery PX9 clip+ to chassis": "",
    "battery PX925 clip+ to chassis": 'PX925 clip+"? It begins like the code of a cell',
    "red wire to 1N4148 left open": "1N4148 left",
    "R4 2k2 a to b": "",
    "red wire lamp left to S1": "lamp left",
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
    "R1 130 a to b": "130R, or 13 Ω where the code 130 is printed on it",
    "C7 10 a to b": "10uF, 10nF or 10pF",
    "L1 10 mH a to b": "a figure of a lamp",
    "R1 black brown red a to b": "yellow violet red gold",
    "Q1 2N3904 e a b in c out": "npn or pnp beside 2N3904",
    "R5 4 k 7 rail to slow": "each figure once",
    "VR1 10k a to b, wiper to": "where its wiper is",
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

    def test_a_new_spot_that_may_be_part_of_something_else_is_asked_about(self) -> None:
        for line, words in ASKED.items():
            with self.subTest(line):
                asked = asks_first(Board(), understand_line(Board(), line))
                self.assertIn(words, asked)
                self.assertEqual(bool(words), bool(asked))
        known = said("spot m rail")
        self.assertEqual(asks_first(known, understand_line(known, "R5 10 m rail to slow")), "", "the board has it")
        with self.assertRaises(InvalidInput) as caught:
            board_from_text("R5 10 m rail to slow")
        self.assertIn("spot NAME on a line before", str(caught.exception))
        board_from_text("spot m rail\nR5 10 m rail to slow")

    def test_a_switch_has_its_own_legs_in_whatever_order_lines_come(self) -> None:
        board = said("S2 1/2: common to x, b")
        self.assertEqual(board.found_item("S2").at("b"), "S2 b")
        self.assertIn("the switch's own leg is S2 b", asks_first(board, understand_line(board, "R1 1k b to c")))
        before = said("R1 1k b to c")
        with self.assertRaises(InvalidInput) as caught:
            understand_line(before, "S2 1/2: common to x, b")
        self.assertIn("spot b for the spot of that name, or S2 b", str(caught.exception))
        board, _ = say(before, "S2 1/2: common to S2 x, spot b")
        self.assertEqual([end.spot for end in board.found_item("S2").ends], ["S2 common", "S2 x", "b"])

    def test_a_trimmer_has_three_legs_in_the_circuit_too(self) -> None:
        board = said("battery 3 a to chassis\nVR1 10k a to chassis, wiper to c\nmovement c to chassis")
        circuit = checked_circuit(compiled(board).text)
        halves = [part for part in circuit.parts if kind_of(circuit, part) == "trimmer"]
        self.assertEqual([(part.nodes, part.value) for part in halves], [(("a", "c"), 5e3), (("0", "c"), 5e3)])
        self.assertEqual(resolved(board, "VR1 wiper"), "c")
        as_rheostat = checked_circuit(compiled(said("VR1 10k a to chassis, wiper to chassis")).text)
        self.assertEqual([part.nodes for part in as_rheostat.parts if part.name.startswith("RVR1")], [("a", "0")])

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
