"""The command ``trim``: its JSON, and one line with status 2 for what cannot be."""

import json
import tempfile
import unittest
from pathlib import Path

from tests.cli.test_power import run

HEAD = "wheel,slider,scene,flash,stops\n"


class Trimmed(unittest.TestCase):
    def file(self, text: str) -> str:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "shots.csv"
        path.write_text(text, encoding="utf-8")
        return str(path)

    def test_json(self) -> None:
        status, out, _ = run("trim", self.file(f"{HEAD}5,0,outdoors,no,-1.5\n8,0,outdoors,no,-0.5\n"), "--film", "5", "--json")
        found = json.loads(out)
        self.assertEqual((status, found["done"], found["film_left"]), (0, False, 5))
        self.assertEqual(set(found["next"]), {"wheel", "slider", "stops", "u_stops"})
        self.assertGreater(found["best"]["wheel"] + found["best"]["slider"], 8)
        self.assertGreater(found["doubt_stops"], 0)

    def test_before_the_first_shot_and_other_marks(self) -> None:
        status, out, _ = run("trim", self.file(HEAD), "--wheel", "1,2,3", "--slider", "0", "--json")
        self.assertEqual((status, json.loads(out)["next"]["wheel"]), (0, 2.0))

    def test_bad_input(self) -> None:
        for text, words, said in (
            (f"{HEAD}5,0,outdoors,no,lots\n", (), "line 2"), (f"{HEAD}5,0,moon,no,1\n", (), "indoors"),
            (f"{HEAD}5,0,outdoors,perhaps,1\n", (), "yes or no"), (f"{HEAD}12,0,outdoors,no,1\n", (), "0 to 9"),
            ("a,b\n1,2\n", (), "wheel"), ("", (), "wheel"), (f"{HEAD}5,0,outdoors,no,nan\n", (), "number"),
            (f"{HEAD}5,0,outdoors,no,1\n", ("--film", "-2"), "0 or more"), (HEAD, ("--wheel", "1,1"), "each once"),
        ):  # fmt: skip
            status, out, err = run("trim", self.file(text), *words)
            with self.subTest(text + str(words)):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1))
                self.assertIn(said, err)


if __name__ == "__main__":
    unittest.main()
