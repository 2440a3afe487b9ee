"""The commands ``map`` and ``sister``: plain data out, one clear line for what cannot be used."""

import contextlib
import io
import json
import re
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.core.mapping.boards import DRIVE
from violet_dial.cli.main import main

CIRCUITS = Path(__file__).parents[2] / "src" / "violet_dial" / "assets" / "circuits"
BAD_MAPS = {
    "empty word": b"gibberish here\n", "not text": b"\xff\xfe\x00map", "a bare kind": b"red wire a to b\nmotor\n",
    "two of one name": b"R1 1k a to b\nR1 lamp a to b\n", "an unknown box": b"IC9 pin 1 drives\n",
    "spice that is none": b"title\nR1 a\n.end\n", "too many lines": b"spot x\n" * 10_002,
}  # fmt: skip
BAD_PAIRS = {
    "no column": b"spot,good\nrail,1\n", "no usable row": b"spot,good,sick\nnowhere,1,2\n", "not text": b"\x00\xff",
    "no figure": b"spot,good,sick\nrail,x,2\n",
}  # fmt: skip


class Commands(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.board = self.folder / "board.txt"
        self.board.write_text(f"# a drive\n{DRIVE}\n", encoding="utf-8")

    def run_command(self, *words: str) -> tuple[int, str, str]:
        out, said = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(said):
            try:
                code = main(list(words))
            except SystemExit as left:
                code = int(left.code or 0)
        return code, out.getvalue(), said.getvalue()

    def as_json(self, *words: str) -> dict[str, Any]:
        code, out, said = self.run_command(*words, "--json")
        self.assertEqual((code, said), (0, ""))
        found: dict[str, Any] = json.loads(out)
        return found

    def test_a_map_as_plain_data(self) -> None:
        found = self.as_json("map", str(self.board))
        self.assertLessEqual({"parts", "nets", "missing", "next", "believed", "cannot_tell"}, set(found))
        self.assertEqual(found["missing"], [])
        self.assertEqual({"a", "b", "over", "expects", "setting", "bits"}, set(found["next"]))
        named = {one["name"]: one for one in found["parts"]}
        self.assertEqual(named["Q1"]["ends"], {"e": "chassis", "b": "Q1 base", "c": "coil-"})
        self.assertIn(["clip+", "S1"], [net["spots"] for net in found["nets"]])

    def test_a_contradiction_is_said_and_proves_nothing(self) -> None:
        lines = "R3 4k7 a to b\nR4 10k b to chassis\na to b 50R\na to chassis open\nb to chassis 10k\n"
        self.board.write_text(lines, encoding="utf-8")
        code, out, _ = self.run_command("map", str(self.board))
        self.assertEqual(code, 0)
        self.assertIn("3 nets, 0 proved", out)
        self.assertIn("a to b: R3: 50 Ω, the map has 4.7 kΩ", out)
        self.assertIn("nothing on the map explains a to b", out)

    def test_its_circuit_is_what_ngspice_reads(self) -> None:
        code, out, _ = self.run_command("map", str(self.board), "--spice")
        self.assertEqual(code, 0)
        path = self.folder / "out.cir"
        path.write_text(out, encoding="utf-8")
        printed = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, check=False).stdout
        volts = dict(re.findall(r"^\s+(\S+)\s+(\S+)$", printed, re.MULTILINE))
        self.assertAlmostEqual(float(volts["rail"]), 2.6, delta=0.02)

    def test_circuits_that_ship_are_maps(self) -> None:
        for path in sorted(CIRCUITS.glob("*.cir")):
            with self.subTest(path.stem):
                found = self.as_json("map", str(path))
                self.assertEqual(found["missing"], [])
                self.assertIsNotNone(found["next"])

    def test_a_sister_beside_the_sick_one(self) -> None:
        pairs = self.folder / "pairs.csv"
        pairs.write_text("spot,good,sick\nclip+,5.9,5.9\nrail0,5.85,5.8\nrail,2.6,0.1\nnowhere,1,1\n", encoding="utf-8")
        found = self.as_json_with_rejected("sister", str(pairs), "--map", str(self.board))
        self.assertEqual(found["between"], ["rail0", "rail"])
        self.assertEqual(found["ranking"][0]["spot"], "rail")
        self.assertEqual([row["line"] for row in found["rejected"]], [5])

    def test_a_third_unit_beside_the_sister(self) -> None:
        pairs = self.folder / "pairs.csv"
        pairs.write_text("spot,good,sick,setting,third\nrail,0.9,2.6,S1=on,2.61\n", encoding="utf-8")
        found = self.as_json("sister", str(pairs), "--map", str(self.board))
        self.assertIn("at rail a third unit is with the sick one", " ".join(found["sister_doubts"]))
        self.assertIn("the map makes", " ".join(found["sister_doubts"]))
        self.assertEqual(len(found["chances"]), len(found["suspects"]))

    def as_json_with_rejected(self, *words: str) -> dict[str, Any]:
        code, out, _ = self.run_command(*words, "--json")
        self.assertEqual(code, 0)
        found: dict[str, Any] = json.loads(out)
        return found

    def test_bad_input_is_one_line_and_exit_2(self) -> None:
        for name, data in BAD_MAPS.items():
            path = self.folder / "bad.txt"
            path.write_bytes(data)
            with self.subTest(name):
                self.one_line(*self.run_command("map", str(path)))
        for name, data in BAD_PAIRS.items():
            path = self.folder / "bad.csv"
            path.write_bytes(data)
            with self.subTest(name):
                self.one_line(*self.run_command("sister", str(path), "--map", str(self.board)))
        self.one_line(*self.run_command("map", str(self.folder / "none.txt")))

    def one_line(self, code: int, out: str, said: str) -> None:
        self.assertEqual((code, out), (2, ""))
        self.assertRegex(said, r"\Aviolet-dial: [^\n]+\n\Z")
        self.assertNotIn("Traceback", said)


if __name__ == "__main__":
    unittest.main()
