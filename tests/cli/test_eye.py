"""The command ``eye``: a needle read in a picture, refusals with their reason, one line for bad input."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from tests.cli.test_power import run
from violet_dial.core.eye.face import ScaleMark, face_of
from violet_dial.core.eye.needle import NeedleReading, grey
from violet_dial.instruments.simulated.dial import DialLook, DialShot, Law, SimulatedDial
from violet_dial.stations.light.check_eye import DialFile, looked


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

    def test_a_dial_that_was_moved_is_followed_or_refused(self) -> None:
        """With the picture without the needle and without: read where it lies now; not seen at all, not read."""
        empty = self.picture((), "empty.png")
        for place, moved in enumerate(((14.0, -9.0), (-22.0, 6.0), (3.0, 4.0))):
            path = self.folder / f"moved{place}.png"
            Image.fromarray(self.dial.frame((7.3,), DialShot(moved_px=moved))).save(path)
            for more in ((), ("--empty", empty)):
                with self.subTest(moved=moved, more=more):
                    found = json.loads(run("eye", self.json(self.set_up), str(path), *more, "--json")[1])
                    self.assertAlmostEqual(found["value"], 7.3, delta=3 * found["u"])
                    self.assertLess(found["u"], 0.1)
                    self.assertLess(np.hypot(*(np.array(found["moved_px"]) - moved)), 1.5)
        self.assertIn("was followed", run("eye", self.json(self.set_up), str(path))[1])
        Image.fromarray(np.full((480, 640), 180, dtype=np.uint8)).save(path)
        for more in ((), ("--empty", empty)):
            found = json.loads(run("eye", self.json(self.set_up), str(path), *more, "--json")[1])
            self.assertEqual((found["value"], found["moved_px"]), (None, None))
            self.assertIn("marks anew", found["reason"])

    def test_readings_of_dials_drawn_at_random_are_as_true_as_said(self) -> None:
        """Marks put half a pixel off, moved or not: of 60 readings hardly any lies beyond three of its standard uncertainties."""
        rng, beyond = np.random.default_rng(5), []
        for seed in range(60):
            law: Law = ("linear", "log", "curved")[seed % 3]
            slant = (float(rng.uniform(-12, 12)), float(rng.uniform(-12, 12)))
            first = 1.0 if law == "log" else 0.0
            dial = SimulatedDial(DialLook(640, 480, law, first, marks=int(rng.integers(5, 13)), slant_deg=slant), seed)
            value = dial.value(float(rng.uniform(0.02, 0.98)))
            moved = (0.0, 0.0) if seed % 2 else (float(rng.uniform(-30, 30)), float(rng.uniform(-30, 30)))
            marks = tuple(ScaleMark(one.x + rng.normal(0, 0.5), one.y + rng.normal(0, 0.5), one.value) for one in dial.marks)
            seen = looked(DialFile(face_of(marks), None, None, ()), grey(dial.frame((value,), DialShot(moved_px=moved)))).needle
            if isinstance(seen, NeedleReading):
                beyond.append(abs(seen.value - value) / seen.u)
        self.assertGreater(len(beyond), 55)
        self.assertLessEqual(sum(one > 2 for one in beyond), 7)
        self.assertLessEqual(sum(one > 3 for one in beyond), 1)

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
