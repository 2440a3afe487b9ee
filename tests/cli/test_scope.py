"""The command ``scope``: CSV layouts and WAV in, JSON out, one line with status 2 for what is no recording."""

import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from scipy.io import wavfile

from tests.cli.test_power import run

RATE = 8000
T = np.arange(4000) / RATE
CLOCK = 2.6 * (np.sin(2 * np.pi * 64 * T) > 0)


class Scope(unittest.TestCase):
    def file(self, name: str, content: bytes) -> str:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / name
        path.write_bytes(content)
        return str(path)

    def csv(self, separator: str = ",", head: str = "Model,X1\nTime,clock,rail\ns,V,V\n", comma: bool = False) -> bytes:
        rows = [f"{t:.6f}{separator}{a:.4f}{separator}{2.6:.2f}" for t, a in zip(T, CLOCK, strict=True)]
        text = "\n".join(rows)
        return (head.replace(",", separator) + (text.replace(".", ",") if comma else text)).encode()

    def test_layouts_of_csv(self) -> None:
        for content in (self.csv(), self.csv(";", comma=True), self.csv("\t", "time\tclock\trail\n")):
            status, out, _ = run("scope", self.file("a.csv", content), "--json")
            found = json.loads(out)
            clock, rail = found["channels"]
            self.assertEqual((status, [clock["name"], rail["name"]]), (0, ["clock", "rail"]))
            self.assertEqual((clock["shape"], rail["shape"]), ("square", "flat"))
            self.assertAlmostEqual(clock["frequency_hz"], 64, delta=0.3)
            self.assertAlmostEqual(rail["mean"], 2.6)

    def test_wav_of_each_kind(self) -> None:
        wave = np.sin(2 * np.pi * 440 * T)
        short = (30000 * wave).astype(np.int16)
        for samples in (
            (127 * wave + 128).astype(np.uint8), short, (2e9 * wave).astype(np.int32), wave.astype(np.float32),
            np.stack([short] * 6, axis=1),
        ):  # fmt: skip
            out = io.BytesIO()
            wavfile.write(out, 192_000, samples)
            status, text, _ = run("scope", self.file("a.wav", out.getvalue()), "--json")
            found = json.loads(text)
            self.assertEqual((status, found["rate_hz"], found["channels"][0]["shape"]), (0, 192000, "sine"))
            self.assertEqual(len(found["channels"]), samples.shape[1] if samples.ndim == 2 else 1)

    def test_bad_input(self) -> None:
        whole = io.BytesIO()
        wavfile.write(whole, RATE, (1000 * CLOCK).astype(np.int16))
        for name, content, said in (
            ("e.csv", b"", "something in it"), ("h.csv", b"a,b\nc,d\n", "time and volts"),
            ("one.csv", b"time,v\n0,1\n", "times in the first"), ("nan.csv", b"time,v\n0,1\n1,nan\n2,1\n", "NaN"),
            ("cut.wav", whole.getvalue()[:2000], "cut short"), ("gap.csv", b"time,v\n0,1\n1,1\n2,1\n3,1\n9,1\n", "even times"),
            ("x.csv", b"0,1\n1,2\n2,x\n", "figures"), ("few.csv", b"0,1\n1,2\n2,3\n", "needs 16"),
            ("bin.dat", b"\0" * 100, "WAV, or CSV"),
        ):  # fmt: skip
            status, out, err = run("scope", self.file(name, content))
            with self.subTest(name):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1), err)
                self.assertIn(said, err)


if __name__ == "__main__":
    unittest.main()
