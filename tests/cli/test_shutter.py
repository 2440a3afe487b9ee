"""The command ``shutter``: WAV, FLAC, Ogg and CSV in, JSON and words out; one line with status 2 for what cannot be."""

import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
import soundfile  # libsndfile: an outside writer of FLAC and Ogg Vorbis
from scipy.io import wavfile

from tests.cli.test_power import run
from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter, hidden_faults

RATE_HZ = 48000
Samples = npt.NDArray[np.float32]


def recorded(mark: float = 1 / 125, faults: str = "", sensors: int = 1, works: str = "leaf") -> Samples:
    card = SimulatedCard(SimulatedShutter(works, hidden_faults(faults), sensors))
    quiet = card.block(RATE_HZ // 4)
    card.fire(mark, 1 / 1000)
    return np.concatenate([quiet, card.block(int((0.5 + mark) * RATE_HZ))])


def wav(samples: npt.NDArray[np.generic], rate: int = RATE_HZ) -> bytes:
    out = io.BytesIO()
    wavfile.write(out, rate, samples)
    return out.getvalue()


def sound(samples: Samples, kind: str, subtype: str | None = None) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, RATE_HZ, format=kind, subtype=subtype)
    return out.getvalue()


class Shutter(unittest.TestCase):
    def file(self, name: str, content: bytes) -> str:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / name
        path.write_bytes(content)
        return str(path)

    def read(self, name: str, content: bytes, *more: str) -> dict[str, Any]:
        status, out, err = run("shutter", self.file(name, content), "--json", *more)
        self.assertEqual((status, err), (0, ""), err)
        found: dict[str, Any] = json.loads(out)
        return found

    def test_the_same_firing_from_every_kind_of_file(self) -> None:
        samples = recorded()
        rows = "\n".join(f"{n / RATE_HZ:.7f},{value:.5f}" for n, value in enumerate(samples[:, 0]))
        kinds = {
            "a.wav": wav(samples), "b.wav": wav((20000 * samples).astype(np.int16)),
            "c.wav": wav((100 * samples + 128).astype(np.uint8)), "d.wav": sound(samples, "WAV", "PCM_24"),
            "e.flac": sound(samples, "FLAC"), "f.ogg": sound(samples, "OGG", "VORBIS"),
            "g.csv": f"time,light\n{rows}\n".encode(),
        }  # fmt: skip
        for name, content in kinds.items():
            with self.subTest(name):
                found = self.read(name, content, "--marked", "1/125")
                (one,) = found["firings"]
                self.assertLessEqual({"open_s", "close_s", "time_s", "u_s", "stops"}, set(one))
                self.assertAlmostEqual(one["time_s"], 1 / 128, delta=0.0006)
                self.assertAlmostEqual(one["time_s"], one["close_s"] - one["open_s"], places=9)
                self.assertAlmostEqual(one["stops"], np.log2(128 * one["time_s"]), places=6)
                self.assertEqual(found["summary"]["count"], 1)

    def test_travel_of_both_curtains(self) -> None:
        samples = recorded(1 / 500, "taper 0.8", 3, "focal plane")
        found = self.read("a.wav", wav(samples), "--channels", "travel", "--sensors", "3.6,18,32.4", "--marked", "1/500")
        curtains = found["firings"][0]["curtains"]
        self.assertAlmostEqual(curtains["first_travel_s"], 0.011, delta=0.0002)
        self.assertAlmostEqual(curtains["second_travel_s"], 0.012, delta=0.0003)
        self.assertIn("tension", curtains["words"])

    def test_flash_contact_and_sound(self) -> None:
        light = recorded(1 / 60)
        found = self.read("l.wav", wav(light))["firings"][0]
        contact = np.full(len(light), 0.9, dtype=np.float32)
        contact[int((found["open_s"] + 0.004) * RATE_HZ) : int(found["close_s"] * RATE_HZ)] = 0.0
        both = np.stack([light[:, 0], contact], axis=1)
        flash = self.read("a.wav", wav(both), "--channels", "light,flash")["firings"][0]["flash"]
        self.assertAlmostEqual(flash["after_full_s"], 0.004 - found["rise_s"] / 2, delta=1e-4)
        self.assertTrue(flash["right"])
        clicks = np.random.default_rng(1).normal(0, 0.003, RATE_HZ).astype(np.float32)
        for at in (12000, 36000):
            clicks[at : at + 200] += np.float32(0.5) * np.exp(-np.arange(200, dtype=np.float32) / 50) * np.tile([1, -1], 100)
        said = self.read("s.wav", wav(clicks), "--channels", "sound", "--marked", "1/2")
        self.assertAlmostEqual(said["firings"][0]["time_s"], 0.5, delta=0.004)
        self.assertGreaterEqual(said["firings"][0]["u_s"], 0.002)
        self.assertIn("sound alone", said["notes"][0])

    def test_light_that_is_cut_off_is_said_and_its_doubt_is_wider(self) -> None:
        whole = recorded(1 / 60)
        cut = np.minimum(whole, 0.3).astype(np.float32)
        sure, unsure = (self.read("a.wav", wav(one)) for one in (whole, cut))
        self.assertEqual(sure["notes"], [])
        self.assertIn("cut off", unsure["notes"][0])
        self.assertGreater(unsure["firings"][0]["u_s"], 3 * sure["firings"][0]["u_s"])

    def test_words(self) -> None:
        status, out, _ = run("shutter", self.file("a.wav", wav(recorded())), "--marked", "1/125")
        self.assertEqual(status, 0)
        self.assertRegex(out, r"1: at 0\.3\d+ s, [78]\.\d+ ms ± 0\.\d+ ms, [+−]0\.\d\d stop")

    def test_bad_input(self) -> None:
        quiet = np.random.default_rng(2).normal(0, 0.01, RATE_HZ).astype(np.float32)
        flac = sound(recorded(), "FLAC")
        for name, content, more, said in (
            ("e.wav", b"", (), "something in it"), ("n.wav", wav(quiet), (), "no firing"),
            ("f.wav", wav(np.full(4000, 32767, dtype=np.int16)), (), "no firing"), ("t.flac", flac[:900], (), "FLAC"),
            ("o.ogg", b"OggS" + b"x" * 400, (), "Ogg"), ("1.wav", wav(np.zeros(1, dtype=np.int16)), (), "two at least"),
            ("s.wav", wav(quiet[:40]), (), "64"), ("c.wav", wav(recorded()), ("--channels", "lamp"), "light, flash, sound"),
            ("m.wav", wav(recorded()), ("--marked", "125"), "1/125"),
            ("p.wav", wav(recorded()), ("--channels", "flash"), "light or sound"),
            ("q.wav", wav(np.full(4000, np.nan, dtype=np.float32)), (), "NaN"),
        ):  # fmt: skip
            status, out, err = run("shutter", self.file(name, content), *more)
            with self.subTest(name):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1), err)
                self.assertIn(said, err)

    def test_six_channels_at_192_khz(self) -> None:
        many = np.repeat(recorded(), 6, axis=1)
        found = self.read("a.wav", wav(many, 192_000))
        self.assertEqual((found["rate_hz"], len(found["firings"])), (192_000, 1))


if __name__ == "__main__":
    unittest.main()
