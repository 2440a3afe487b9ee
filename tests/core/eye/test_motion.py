"""Settling and sticking recovered from needles of known truth; the step response beside SciPy's."""

import unittest

import numpy as np
from scipy import signal

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.eye.motion import response, settling, sticking


class Settles(unittest.TestCase):
    def test_the_response_is_scipys(self) -> None:
        t = np.linspace(0, 4, 200)
        for damping in (0.2, 0.7, 1.0, 1.8):
            _t, wanted = signal.step(signal.TransferFunction([9.0], [1.0, 2 * damping * 3.0, 9.0]), T=t)
            np.testing.assert_allclose(response(t, damping, 3.0), wanted, atol=1e-5)

    def test_damping_and_overshoot_come_back(self) -> None:
        rng = np.random.default_rng(2)
        t = np.arange(0, 4, 1 / 20)
        for damping, hertz in ((0.25, 1.5), (0.5, 1.0), (0.8, 0.8)):
            values = 3.0 + 5.0 * response(t, damping, 2 * np.pi * hertz) + rng.normal(0, 0.01, len(t))
            found = settling(t, values)
            self.assertAlmostEqual(found.damping, damping, delta=0.06)
            self.assertAlmostEqual(found.natural_hz, hertz, delta=0.08)
            self.assertAlmostEqual(found.overshoot, np.exp(-np.pi * damping / np.sqrt(1 - damping**2)), delta=0.05)
        self.assertTrue(0.5 < found.settling_s < 1.5, found)

    def test_bad(self) -> None:
        with self.assertRaises(NotEnoughData):
            settling(np.arange(4.0), np.arange(4.0))
        with self.assertRaises(InvalidInput):
            settling(np.arange(9.0)[::-1], np.arange(9.0))
        with self.assertRaises(InvalidInput):
            sticking(np.arange(20.0), 0.0)


class Sticks(unittest.TestCase):
    def test_stairs_are_told_from_a_smooth_climb(self) -> None:
        rng = np.random.default_rng(4)
        stuck = smooth = 0
        for _one in range(60):
            climb = np.linspace(2.0, 8.0, 120)
            smooth += sticking(climb + rng.normal(0, 0.02, 120), 0.02).sticks
            step = float(rng.uniform(0.3, 0.8))
            found = sticking(np.floor(climb / step) * step + rng.normal(0, 0.02, 120), 0.02)
            stuck += found.sticks
            self.assertAlmostEqual(found.largest, step, delta=0.15)
        self.assertEqual((stuck, smooth), (60, 0))


if __name__ == "__main__":
    unittest.main()
