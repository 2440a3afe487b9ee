"""The command ``compare``: two pictures in, JSON and sentences out; one line with status 2 for what cannot be."""

import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from bench.pictures import changed, shipped
from tests.cli.test_power import run


class Compared(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def picture(self, name: str, codes: "np.ndarray") -> str:
        out = io.BytesIO()
        Image.fromarray(np.round(codes * 255).astype(np.uint8)).save(out, "JPEG", quality=92)
        (self.folder / name).write_bytes(out.getvalue())
        return str(self.folder / name)

    def test_json_and_words(self) -> None:
        astronaut = dict(shipped())["astronaut"]
        first, second = changed(astronaut, 1.0, np.random.default_rng(2))
        names = self.picture("a.jpg", first), self.picture("b.jpg", second)
        status, out, err = run("compare", *names, "--json", "--width", "100")
        self.assertEqual((status, err), (0, ""))
        found = json.loads(out)
        self.assertAlmostEqual(found["stops"], 1.0, delta=0.1)
        self.assertEqual(len(found["exposure_stops"]), 2)
        status, out, _ = run("compare", *names)
        self.assertIn("stop brighter as a picture", out)
        self.assertIn("Turned by", out)

    def test_bad_input(self) -> None:
        good = self.picture("a.jpg", dict(shipped())["moon"])
        other = self.picture("o.jpg", dict(shipped())["coffee"])
        (self.folder / "e.jpg").write_bytes(b"")
        (self.folder / "x.jpg").write_bytes(b"\xff\xd8" + b"x" * 500)
        for names, more, words in (
            ((good, str(self.folder / "e.jpg")), (), "1 to"), ((good, str(self.folder / "x.jpg")), (), "opened"),
            ((good, other), (), "same scene"), ((good, good), ("--width", "0"), "5 to 2000"),
            ((good, good), ("--slope", "9"), "0.3 to 4"), ((good, str(self.folder / "none.jpg")), (), "read"),
        ):  # fmt: skip
            status, out, err = run("compare", *names, *more)
            with self.subTest(words):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1), err)
                self.assertIn(words, err)


if __name__ == "__main__":
    unittest.main()
