"""Hostile circuit texts: refused in a sentence that names the line, or read, in a time that grows with the text alone."""

import threading
import unittest

from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.services.circuits import circuit_from

MOST_S = 20.0  # what took for ever took for ever; this is far above any machine's second


def deep(levels: int, wide: int) -> str:
    lines = ["deep", ".subckt l0 a", ".ends"]
    for level in range(1, levels):
        lines += [f".subckt l{level} a", *(f"X{one} a l{level - 1}" for one in range(wide)), ".ends"]
    return "\n".join([*lines, f"X1 a l{levels - 1}"])


FROZE = {  # each froze or ended the reading before it had budgets
    "powers": "x\n.param x={9^9^9^9}\nR1 a 0 {x}",
    "empty leaves": deep(10, 20),
    "spaces": "x\nR1 a 0" + " " * 200_000 + "= 1k",
    "many spaces": "x\n" + ("R1 a 0 " + " " * 3_900 + "=5\n") * 90,
    "braces": "x\nR1 a 0 " + "{ " * 90_000,
    "lines of braces": "x\n" + ("R1 a 0 " + "{ " * 1_900 + "\n") * 90,
    "parameters": "x\n.param p0=1\n" + "".join(f".param p{n}={{p{n - 1}*2}}\n" for n in range(1, 4_900)) + "R1 a 0 1k",
}  # fmt: skip
PYTHON = {  # each came out as an error of Python's
    "a function alone": "x\nR1 a 0 {exp}", "no real power": "x\nR1 a 0 {pow(0-8,0.5)}",
    "terms": "x\nR1 a 0 {" + "+".join(["1"] * 999) + "}", "denormal": "x\nR1 a 0 1e-320",
    "digits": "x\nR1 a 0 " + "1" * 1_990, "digits in braces": "x\nR1 a 0 {" + "1" * 1_990 + "}",
    "brackets": "x\nR1 a 0 {" + "(" * 900 + "1" + ")" * 900 + "}", "nots": "x\nR1 a 0 {" + "!" * 1_900 + "1}",
}  # fmt: skip


class Budgets(unittest.TestCase):
    def ends(self, text: str) -> str:
        """How reading ended; what does not end is a failure, not a hung test."""
        said: list[str] = []

        def work() -> None:
            try:
                said.append(f"{len(circuit_from(text).parts)} parts")
            except VioletDialError as error:
                said.append(str(error))
            except BaseException as error:  # noqa: BLE001 - that is what is looked for
                said.append(f"not ours: {error!r}")

        thread = threading.Thread(target=work, daemon=True)
        thread.start()
        thread.join(MOST_S)
        return said[0] if said else "never ended"

    def test_what_froze_is_refused(self) -> None:
        for name, text in FROZE.items():
            with self.subTest(name):
                self.assertIn("expected", self.ends(text))

    def test_what_was_an_error_of_pythons_names_its_line(self) -> None:
        for name, text in PYTHON.items():
            with self.subTest(name):
                self.assertRegex(self.ends(text), "^Line 2: .* expected")

    def test_what_is_large_and_right_is_read(self) -> None:
        ladder = "x\nV1 n0 0 1\n" + "".join(f"R{n} n{n} n{n + 1} 1k\n" for n in range(900)) + "RL n900 0 1k"
        self.assertEqual(self.ends(ladder), "902 parts")
        self.assertEqual(self.ends(deep(4, 6)), self.ends(deep(4, 6)))
        spaced = "x\nV1   a    0   DC =  {  1 +  1 }\nR1 a 0   {  2k * ( 1 + 1 )  }"
        self.assertEqual(self.ends(spaced.replace("DC = ", "DC ")), "2 parts")

    def test_what_cannot_be_traced_is_said_with_the_figure(self) -> None:
        ladder = "x\nV1 n0 0 1\n" + "".join(f"R{n} n{n} n{n + 1} 1k\n" for n in range(300)) + "RL n300 0 1k"
        with self.assertRaisesRegex(InvalidInput, "302 parts.*at most"):
            Diagnostician().diagnose(Case(circuit_from(ladder), ((),)))


if __name__ == "__main__":
    unittest.main()
