"""SPICE text: what is read, and what is refused with its line."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.circuit.expressions import evaluate, spice_number
from violet_dial.core.circuit.spice import read_spice, with_includes
from violet_dial.core.circuit.trade import access_to, check_notes, kind_of
from violet_dial.core.errors import InvalidInput

TEXT = """A test circuit
* a comment
.param r=2k
V1 clip+ GND DC 1.5
*: V1 kind=battery place="battery cover" chemistry=alkaline
R1 clip+ a {r}
+ ; continued with nothing
*: R1 kind=wire colour=red behind="base plate" minutes=4
R2 a 0 1meg
.end
"""


class Reading(unittest.TestCase):
    def test_parts_notes_and_parameters(self) -> None:
        one = read_spice(TEXT)
        self.assertEqual(one.title, "A test circuit")
        self.assertEqual([part.name for part in one.parts], ["V1", "R1", "R2"])
        self.assertEqual(one.part("r1").value, 2000.0)
        self.assertEqual(one.part("R2").value, 1e6)
        self.assertEqual(one.nodes, ("clip+", "a"))
        self.assertEqual(kind_of(one, one.part("R1")), "wire")
        self.assertEqual(one.note("V1")["place"], "battery cover")
        self.assertEqual(access_to(one, "a").minutes, 0.0)  # R2 there is free to touch
        check_notes(one)

    def test_numbers(self) -> None:
        for text, value in (
            ("4.7k", 4700.0),
            ("1meg", 1e6),
            ("10u", 1e-5),
            ("2.2nF", 2.2e-9),
            ("5m", 5e-3),
            ("1e3", 1e3),
            ("3V", 3.0),
        ):
            self.assertAlmostEqual(spice_number(text, "x"), value)
        self.assertAlmostEqual(evaluate("2*(3+1k)/2^2", {}), 501.5)
        self.assertEqual(evaluate("a > 2 ? 7 : 1", {"a": 3.0}), 7.0)

    def test_choices_within_choices_and_brackets(self) -> None:
        choice = "1 + (a > 2 && !(b > 2) ? (b < 1 ? 10 : 20) : a == 0 || b == 0 ? 30 : max(a, b > 3 ? 40 : 50))"
        for a, b, expected in ((3, 0, 11), (3, 1, 21), (0, 5, 31), (1, 4, 41), (3, 3, 51), (1, 2, 51)):
            with self.subTest(a=a, b=b):
                self.assertEqual(evaluate(choice, {"a": float(a), "b": float(b)}), expected)

    def test_commands_of_analysis_change_nothing(self) -> None:
        plain = read_spice("t\nV1 a 0 3\nR1 a 0 1k\n.end\n")
        commands = ".options reltol=1e-5 noacct\n.tran 1m 1\n.print dc v(a)\n.control\nop\nshow all\n.endc\n"
        self.assertEqual(read_spice(f"t\nV1 a 0 3\nR1 a 0 1k\n{commands}.end\n").parts, plain.parts)

    def test_powers_are_of_floats_and_end_at_once(self) -> None:
        """9^9^9^9 in whole numbers has more digits than any machine holds."""
        for text in ("9^9^9^9", "(9^9)^(9^9)", "9" * 400):
            with self.subTest(text[:20]), self.assertRaises(InvalidInput):
                evaluate(text, {})
        self.assertEqual(evaluate("2^10", {}), 1024.0)

    def test_refusals_name_the_line(self) -> None:
        cases = (
            ("t\nR1 a 0\n", "Line 2", "value"),
            ("t\nR1 a 0 1k\nR1 b 0 1k\n", "Line 3", "each name once"),
            ("t\nM1 d g s b nmos\n", "Line 2", "begins with one of"),
            ("t\nD1 a 0 nothere\n", "Line 2", "model"),
            ("t\n.temp warm\nR1 a 0 1\n", "Line 2", "a number"),
            ("t\nR1 a 0 1k\n.end\n* more\nR2 a 0 1k\n", "Line 5", "nothing after .end"),
            ("t\n.options reltol=1e-6 gmin=1\nR1 a 0 1\n", "Line 2", "leave gmin=1 out"),
            ("t\n.include other.cir\nR1 a 0 1\n", "Line 2", "leave this one out"),
            ("t\n.model d D\n.model d D(N=2)\nR1 a 0 1\n", "Line 3", "each model once"),
            ("t\n.subckt s a\nR1 a 0 1\n.ends\n.subckt s a\nR1 a 0 2\n.ends\nX1 b s\n", "Line 5", "each .subckt once"),
            ("t\n.subckt s a\nR1 a 0 1\n.ends\nX1 b s m=2\n", "Line 5", "leave m out"),
            ("t\n.subckt s a\n.param r=5\nR1 a 0 {r}\n.ends\nX1 b s r=7\n", "Line 6", "leave r out"),
            ("t\nV1 a 0 SIN(0 1 1 0 0 0 5)\nR1 a 0 1\n", "Line 2", "at most 6"),
            ("t\nV1 a 0 3 4\nR1 a 0 1\n", "Line 2", "one value"),
            ("t\nE1 a 0 POLY(2) b 0 c 0 1 2\nR1 a 0 1\n", "Line 2", "POLY.1."),
            ("t\n.param x={u(1)}\nR1 a 0 {x}\n", "Line 2", "one of the functions|names that are known"),
            ("t\n.model q NPN(RBM=3)\nR1 a 0 1\n", "Line 2", "not known here"),
            ("t\n.model d D(BF=5)\n", "Line 2", "one of is"),
            ("t\n.model d D\nD1 a 0 d 2 OFF 3\n", "Line 3", "nothing after the area"),
            ("t\nX1 a b nosuch\n", "Line 2", "subckt"),
            ("t\nF1 a 0 V9 2\nR1 a 0 1\n", "Line 2", "V source"),
            ("t\nR1 a 0 -5\n", "Line 2", "above 0"),
            ("t\n*: R1 kind\nR1 a 0 1\n", "Line 2", "key=value"),
            ("t\nB1 a 0 V={__import__('os')}\n", "Line 2", "one of the functions"),
            ("t\nB1 a 0 V={V(a).real}\n", "Line 2", "arithmetic|numbers"),
            ("t\n.subckt s a\nX1 a s\n.ends\nX9 b s\n", "Line 3", "none inside itself"),
        )
        for text, line, word in cases:
            with self.subTest(text), self.assertRaisesRegex(InvalidInput, word) as caught:
                read_spice(text)
            self.assertEqual(caught.exception.field, line)

    def test_files_are_taken_in_from_beside_and_when_asked(self) -> None:
        beside = {"models.lib": ".model dd D(IS=1e-12)\n.include more.lib\n.end\n", "more.lib": "R2 a 0 2k\n"}
        text = with_includes("t\nV1 a 0 1\nR1 a b 1k\nD1 b 0 dd\n.include 'models.lib'\n.end\n", lambda name: beside[name])
        one = read_spice(text)
        self.assertEqual([part.name for part in one.parts], ["V1", "R1", "D1", "R2"])
        for bad in ("../models.lib", "/etc/passwd", ".hidden", "a/b"):
            with self.assertRaisesRegex(InvalidInput, "bare name"):
                with_includes(f"t\n.include {bad}\n", lambda name: "")
        with self.assertRaisesRegex(InvalidInput, "at most"):
            with_includes("t\n.include x\n", lambda name: ".include x\n")

    def test_notes_that_mean_nothing_are_refused(self) -> None:
        with self.assertRaisesRegex(InvalidInput, "name of a part"):
            check_notes(read_spice("t\nR1 a 0 1\n*: R7 kind=wire\n"))
        with self.assertRaisesRegex(InvalidInput, "one of kind, "):
            check_notes(read_spice("t\nR1 a 0 1\n*: R1 tollerance=5%\n"))
        check_notes(one := read_spice("t\nR1 a 0 1k\n*: R1 tolerance=5%\n"))
        self.assertEqual(one.note("R1"), {"tol": "5%"})
        with self.assertRaisesRegex(InvalidInput, "kind one of"):
            check_notes(read_spice("t\nR1 a 0 1\n*: R1 kind=flux\n"))

    @settings(max_examples=300, deadline=None)
    @given(st.lists(st.text(alphabet="RVDQXB .{}()*:+-=abk0123\"'^?,;", max_size=40), max_size=8))
    def test_any_text_is_a_circuit_or_a_sentence(self, lines: list[str]) -> None:
        try:
            read_spice("title\n" + "\n".join(lines))
        except InvalidInput as error:
            self.assertIn("expected", str(error))


if __name__ == "__main__":
    unittest.main()
