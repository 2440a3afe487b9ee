"""The command ``eye``: a needle read in a picture, refusals with their reason, one line for bad input."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from tests.cli.test_power import run
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial


class Eyes(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.dial = SimulatedDial(DialLook(wide=640, tall=480, marks=7, first=0.0, last=12.0))
        marks = [{"x": one.x, "y": one.y, "value": one.value} for one in self.dial.marks]
        self.set_up = {"marks": marks, "needle": {"dark": True}}

    def json(self, raw: object) -> str:
        path = self.folder / "dial.json"
        path.write_text(json.dumps(raw), encoding="utf-8")
        return str(path)

    def picture(self, values: tuple[float, ...], name: str = "frame.png") -> str:
        path = self.folder / name
        Image.fromarray(self.dial.frame(values, DialShot())).save(path)
        return str(path)

    def test_a_needle_is_read_with_its_doubt(self) -> None:
        empty = self.picture((), "empty.png")
        status, out, _ = run("eye", self.json(self.set_up), self.picture((7.3,)), "--empty", empty, "--json")
        found = json.loads(out)
        self.assertEqual((status, found["reason"]), (0, None))
        self.assertAlmostEqual(found["value"], 7.3, delta=0.05)
        self.assertLess(found["u"], 0.05)
        lamps = {**self.set_up, "lamps": [{"name": "slow", "x": 60, "y": 60, "radius": 6}]}
        status, out, _ = run("eye", self.json(lamps), self.picture((7.3,)))
        self.assertEqual(status, 0)
        self.assertIn("slow: off", out)

    def test_two_needles_are_refused_with_the_reason(self) -> None:
        status, out, _ = run(
            "eye", self.json(self.set_up), self.picture((3.0, 8.0)), "--empty", self.picture((), "e.png"), "--json"
        )
        found = json.loads(out)
        self.assertEqual((status, found["value"]), (0, None))
        self.assertIn("two needles", found["reason"])

    def test_bad_input_is_one_line(self) -> None:
        frame = self.picture((5.0,))
        line = {"marks": [{"x": 10 * n, "y": 20 * n, "value": n} for n in range(4)]}
        broken, huge = self.folder / "b.png", self.folder / "h.png"
        broken.write_bytes(b"no picture")
        Image.fromarray(np.zeros((8000, 8000), dtype=np.uint8)).save(huge)
        for raw, picture, said in (
            ({"marks": []}, frame, "3 to 60"), ({}, frame, "marks"), (line, frame, "along the arc"), ([1], frame, "marks"),
            ({"marks": [{"x": "a", "y": 1, "value": 2}]}, frame, "x, y, value"), (self.set_up, str(broken), "JPEG, PNG"),
            (self.set_up, str(huge), "8000 x 8000"), (self.set_up, str(self.folder / "none.png"), "none.png"),
            ({**self.set_up, "scale": 3}, frame, "scale"),
            ({**self.set_up, "lamps": [{"x": 1, "y": 1, "radius": 9}]}, frame, "inside"),
        ):  # fmt: skip
            with self.subTest(said):
                status, out, error = run("eye", self.json(raw), picture, "--json")
                self.assertEqual((status, out), (2, ""), error)
                self.assertIn(said, error)


if __name__ == "__main__":
    unittest.main()
