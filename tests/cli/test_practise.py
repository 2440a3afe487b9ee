"""The command ``practise``: plays and prints the score, lists, makes; one line and status 2 for bad input."""

import json
import tempfile
import unittest
from pathlib import Path

from tests.cli.test_power import run
from violet_dial.services.circuits import CIRCUITS

CIRCUIT = str(CIRCUITS / "cds-series.cir")


class Practised(unittest.TestCase):
    def test_it_plays_the_same_each_time(self) -> None:
        first, second = (run("practise", "--seed", "2", "--level", "1", "--player", "next", "--json") for _ in range(2))
        self.assertEqual(first, second)
        status, out, _ = first
        said = json.loads(out)
        self.assertEqual((status, said["found"], said["faults"]), (0, True, ["Rs1 high resistance, about 4.8 kΩ"]))
        self.assertAlmostEqual(said["points"], said["said"] + said["time"] - 10 * said["slips"] - 5 * said["needless"], places=1)
        halves = json.loads(run("practise", "--seed", "2", "--player", "halves", "--json")[1])
        self.assertLess(halves["points"], said["points"])

    def test_it_lists_and_makes(self) -> None:
        status, out, _ = run("practise", "--list", "--json")
        self.assertEqual((status, len(json.loads(out)["levels"])), (0, 5))
        self.assertIn("level 5: 2 faults", run("practise", "--list")[1])
        with tempfile.TemporaryDirectory() as folder:
            made = Path(folder) / "mine.json"
            status, out, _ = run(
                "practise", "--make", str(made), "--circuit", CIRCUIT, "--fault", "Rwred:open", "--title", "Mine"
            )
            self.assertEqual(status, 0, out)
            self.assertNotIn("Rwred:open", made.read_text())
            played = json.loads(run("practise", "--file", str(made), "--json")[1])["exercises"]
            self.assertEqual([(one["found"], one["faults"]) for one in played], [(True, ["Rwred open"])])

    def test_bad_input_is_one_line_and_status_2(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        made = str(Path(folder) / "x.json")
        for arguments in (
            ("--seed", "-1"), ("--seed", "x"), ("--seed", "1.5"), ("--level", "9"), ("--kind", "toaster"), ("--player", "luck"),
            ("--file", "/nowhere"), ("--file", CIRCUIT), ("--make", made),
            ("--make", "/nowhere/x.json", "--circuit", CIRCUIT, "--fault", "Rwred:open"),
            ("--make", made, "--circuit", CIRCUIT, "--fault", "Rwred:sings"),
        ):  # fmt: skip
            with self.subTest(arguments):
                status, out, error = run("practise", *arguments)
                self.assertEqual((status, out), (2, ""))
                self.assertEqual(len(error.strip().splitlines()), 1, error)


if __name__ == "__main__":
    unittest.main()
