"""Firings in recordings: edges of known ramps, several in a row, either polarity, none in hum, and stated bands that are true."""

import unittest

import numpy as np
import numpy.typing as npt

from bench.firings import judged
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.signals.firings import find_firings

Array = npt.NDArray[np.float64]
RATE_HZ = 48000.0


def recorded(times: list[tuple[float, float]], seconds: float, ramp_s: float = 0.0008) -> Array:
    """Light behind a shutter open between the times, edges of a millisecond, with a little noise."""
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    light = np.zeros(len(t))
    for opened, closed in times:
        light += np.clip((t - opened) / ramp_s + 0.5, 0, 1) - np.clip((t - closed) / ramp_s + 0.5, 0, 1)
    found: Array = light + np.random.default_rng(4).normal(0, 0.01, len(t))
    return found


class Known(unittest.TestCase):
    def test_edges_at_half_the_amplitude_of_either_polarity(self) -> None:
        for sign in (1.0, -0.03):
            (one,) = find_firings(sign * recorded([(0.1004, 0.1086)], 0.3) + 0.2, RATE_HZ)
            self.assertAlmostEqual(one.open_s, 0.1004, delta=2e-5)
            self.assertAlmostEqual(one.time_s, 0.0082, delta=3 * one.u_s)
            self.assertAlmostEqual(one.amplitude, abs(sign), delta=0.02 * abs(sign))
            self.assertLess(one.u_s, 1e-4)

    def test_several_in_a_row(self) -> None:
        times = [(0.2, 0.233), (0.6, 0.616), (1.1, 1.108), (1.5, 1.504)]
        found = find_firings(recorded(times, 1.9), RATE_HZ)
        self.assertEqual(len(found), 4)
        for one, (opened, closed) in zip(found, times, strict=True):
            self.assertLess(abs(one.time_s - (closed - opened)), 3 * one.u_s)

    def test_a_shutter_that_stayed_open_is_no_firing(self) -> None:
        self.assertEqual(find_firings(recorded([(0.2, 9.0)], 0.6), RATE_HZ), ())

    def test_hum_and_noise_are_none(self) -> None:
        t = np.arange(24000) / RATE_HZ
        rng = np.random.default_rng(8)
        for hum in (0.0, 0.5):
            quiet = hum * np.sin(2 * np.pi * 50 * t) + rng.normal(0, 0.1, len(t))
            self.assertEqual(find_firings(quiet, RATE_HZ), ())

    def test_what_is_no_recording_is_refused(self) -> None:
        for samples, rate in ((np.full(100, np.nan), RATE_HZ), (np.zeros((10, 10)), RATE_HZ), (np.zeros(100), 0.0)):
            with self.assertRaises(InvalidInput):
                find_firings(samples, rate)
        with self.assertRaises(NotEnoughData):
            find_firings(np.zeros(63), RATE_HZ)


class Invented(unittest.TestCase):
    def test_hardly_one_missed_and_the_bands_are_true(self) -> None:
        got = judged(24, 5)
        self.assertGreaterEqual(got["found"], 0.95)
        self.assertLessEqual(got["invented"], 0.034)
        self.assertLess(got["median_stops"], 0.005)
        self.assertGreaterEqual(got["inside"], 0.81)  # of 95 %, three standard deviations of 24 draws below


if __name__ == "__main__":
    unittest.main()
