"""What traces are like: closed forms of their figures, every shape by name, frequencies, what is no trace."""

import math
import unittest

import numpy as np
from scipy import signal

from bench.traces import judged
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.signals.shapes import SHAPES, fundamental_hz, trace_of

RATE = 10_000.0
T = np.arange(5000) / RATE


class Figures(unittest.TestCase):
    def test_ripple_beside_closed_forms(self) -> None:
        """Sawtooth Vpp / (2 sqrt 3), sine Vpp / (2 sqrt 2), square Vpp / 2."""
        angle = 2 * np.pi * 50 * T
        for shape, wave, share in (
            ("sawtooth", signal.sawtooth(angle), 1 / (2 * math.sqrt(3))), ("sine", np.sin(angle), 1 / (2 * math.sqrt(2))),
            ("square", signal.square(angle), 0.5),
        ):  # fmt: skip
            found = trace_of(2.6 + 1.1 / 2 * wave, RATE)
            with self.subTest(shape):
                self.assertEqual(found.shape, shape)
                self.assertAlmostEqual(found.ripple_rms, 1.1 * share, delta=0.01)
                self.assertAlmostEqual(found.peak_to_peak, 1.1, delta=0.01)
                self.assertAlmostEqual(found.mean, 2.6, delta=0.01)
                self.assertAlmostEqual(found.frequency_hz or 0.0, 50.0, delta=0.25)

    def test_frequency_between_the_lines_of_the_spectrum(self) -> None:
        for true in (17.3, 64.0, 333.3, 1234.5):
            found = fundamental_hz(np.sin(2 * np.pi * true * T + 0.4), RATE)
            self.assertAlmostEqual(found or 0.0, true, delta=0.001 * true)

    def test_duty_of_a_square(self) -> None:
        found = trace_of(signal.square(2 * np.pi * 40 * T, 0.3), RATE)
        self.assertAlmostEqual(found.duty or 0.0, 0.3, delta=0.02)
        self.assertIsNone(trace_of(np.sin(2 * np.pi * 40 * T), RATE).duty)

    def test_weights_are_of_all_shapes_and_together_one(self) -> None:
        found = trace_of(2.6 + 0.001 * np.random.default_rng(1).standard_normal(2000), RATE)
        self.assertEqual({shape for shape, _ in found.weights}, set(SHAPES))
        self.assertAlmostEqual(sum(share for _, share in found.weights), 1.0)
        self.assertEqual((found.shape, found.frequency_hz), ("flat", None))

    def test_a_dead_flat_line_and_what_is_no_trace(self) -> None:
        self.assertEqual(trace_of(np.zeros(100), RATE).shape, "flat")
        self.assertRaises(NotEnoughData, trace_of, np.zeros(3), RATE)
        self.assertRaises(InvalidInput, trace_of, np.array([1.0, math.nan] * 20), RATE)
        self.assertRaises(InvalidInput, trace_of, np.zeros(100), 0.0)

    def test_a_dead_rail_is_flat_and_what_is_unlike_all_is_none_of_these(self) -> None:
        rng = np.random.default_rng(2)
        self.assertEqual(trace_of(0.003 + rng.normal(0, 0.001, 20_000), RATE).shape, "flat")
        t = np.arange(20_000) / 10_000.0
        for wave, shape in (
            (1.5 * (1 - np.exp(-t / 0.4)), "slow change"), (np.abs(np.sin(2 * np.pi * 50 * t)), "rectified"),
            (np.sign(np.sin(2 * np.pi * 40 * t)) * np.exp(-t / 0.5), "none of these"), (rng.normal(0, 0.2, len(t)), "noise"),
        ):  # fmt: skip
            self.assertEqual(trace_of(wave + rng.normal(0, 0.01, len(t)), 10_000.0).shape, shape)


class Invented(unittest.TestCase):
    def test_shapes_and_frequencies_of_invented_traces(self) -> None:
        right, near, wrong = judged(240, seed=41)
        self.assertGreaterEqual(right, 0.95, wrong)
        self.assertGreaterEqual(near, 0.95)


if __name__ == "__main__":
    unittest.main()
