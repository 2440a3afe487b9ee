"""The command ``cell``: plain data out, one clear line for what no cell can show."""

import contextlib
import io
import json
import unittest

from violet_dial.cli.main import main


def run(*words: str) -> tuple[int, str, str]:
    out, said = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(said):
        code = main(list(words))
    return code, out.getvalue(), said.getvalue()


class Cell(unittest.TestCase):
    def test_json(self) -> None:
        code, out, _ = run("cell", "--size", "2xLR44", "--rest", "3.04", "--load", "2.62 V", "--ohm", "94", "--json")
        found = json.loads(out)
        self.assertEqual((code, found["size"], found["cells"]), (0, "2LR44", 2))
        self.assertAlmostEqual(found["internal_ohm"], 94 * (3.04 - 2.62) / 2.62)
        self.assertLess(found["charge_left_low"], found["charge_left"])
        self.assertLess(found["charge_left"], found["charge_left_high"])
        self.assertEqual(len(found["serves"]), 4)

    def test_caution_and_strangers(self) -> None:
        _, out, _ = run("cell", "--size", "CR2", "--rest", "3.1")
        self.assertIn("Never charge a lithium cell", out)
        _, out, _ = run("cell", "--size", "LR44", "--rest", "3.1")
        self.assertIn("No LR44", out)
        self.assertNotIn("magnet", out)

    def test_bad_input(self) -> None:
        for words in (
            ("--size", "LR45", "--rest", "1.5"), ("--size", "LR44", "--rest", "five"), ("--size", "LR44", "--rest", "-1"),
            ("--size", "LR44", "--rest", "1.3", "--load", "1.4", "--ohm", "47"),
            ("--size", "LR44", "--rest", "1.3", "--ohm", "47"),
            ("--size", "LR44", "--rest", "1.5", "--temperature", "90"),
        ):  # fmt: skip
            with self.subTest(words):
                code, out, said = run("cell", *words)
                self.assertEqual((code, out), (2, ""))
                self.assertRegex(said, r"\Aviolet-dial: [^\n]+\n\Z")


if __name__ == "__main__":
    unittest.main()
