"""Firings in recordings: edges of known ramps, several in a row, either polarity, none in hum, and stated bands that are true."""

import unittest

import numpy as np
import numpy.typing as npt

from bench.firings import judged
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.signals.clicks import heard
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


class Bounces(unittest.TestCase):
    def test_a_bounce_does_not_stand_for_the_firing(self) -> None:
        """A third to four fifths as high as the light, 1 to 2.6 ms long: the firing before it is what counts."""
        rng, wrong = np.random.default_rng(3), []
        t = np.arange(int(0.45 * RATE_HZ)) / RATE_HZ
        for number in range(24):
            time_s, ramp_s = float(rng.choice((1 / 500, 1 / 125, 1 / 60, 0.0566))), float(rng.uniform(1e-4, 6e-4))
            gap_s, long_s, high = float(rng.uniform(1e-3, 6e-3)), float(rng.uniform(8e-4, 2.6e-3)), float(rng.uniform(0.33, 0.8))
            light = recorded([(0.2, 0.2 + time_s)], 0.45, ramp_s)
            after = 0.2 + time_s + gap_s
            light = light + high * recorded([(after, after + long_s)], 0.45, min(ramp_s, long_s / 2))
            found = find_firings(light + 0.02 * np.sin(2 * np.pi * 50 * t) + rng.normal(0, 0.01, len(t)), RATE_HZ)
            if len(found) != 1 or abs(found[0].time_s - time_s) > max(3 * found[0].u_s, 0.03 * time_s):
                wrong.append((number, time_s, found))
        self.assertLessEqual(len(wrong), 1, wrong)

    def test_a_cloud_is_no_firing(self) -> None:
        t = np.arange(int(2 * RATE_HZ)) / RATE_HZ
        noise = np.random.default_rng(1).normal(0, 0.003, len(t))
        for wide_s in (0.02, 0.05, 0.2):
            with self.subTest(wide_s):
                self.assertEqual(find_firings(0.4 * np.exp(-(((t - 1) / wide_s) ** 2)) + noise, RATE_HZ), ())

    def test_three_clicks_that_compete_give_no_time(self) -> None:
        rng = np.random.default_rng(2)
        for clicks, times in (((0.5, 0.5195, 0.6093), 0), ((0.5, 0.7, 0.8), 0), ((0.5, 0.6, 1.5, 1.75), 2)):
            with self.subTest(clicks):
                t = np.arange(int(2.2 * 48_000)) / 48_000
                sound = rng.normal(0, 0.001, len(t))
                for at in clicks:
                    rings = (t >= at) & (t < at + 0.008)
                    sound[rings] += np.exp(-(t[rings] - at) / 0.002) * np.sin(2 * np.pi * 4000 * (t[rings] - at))
                self.assertEqual(len(heard(sound, 48_000.0)), times)


class Invented(unittest.TestCase):
    def test_hardly_one_missed_and_the_bands_are_true(self) -> None:
        got = judged(24, 5)
        self.assertGreaterEqual(got["found"], 0.95)
        self.assertLessEqual(got["invented"], 0.034)
        self.assertLess(got["median_stops"], 0.005)
        self.assertGreaterEqual(got["inside"], 0.81)  # of 95 %, three standard deviations of 24 draws below


if __name__ == "__main__":
    unittest.main()
