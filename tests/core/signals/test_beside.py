"""What lies beside the light: long recordings in stretches, flash contacts, clicks of a shutter heard alone."""

import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.signals.clicks import LEAST_U_S, heard
from violet_dial.core.signals.contacts import contacts, of_firing, synchrony
from violet_dial.core.signals.firings import RecordedFiring
from violet_dial.core.signals.stretches import firings_of, stretches
from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter

RATE_HZ = 48000


class Long(unittest.TestCase):
    def test_every_firing_of_a_long_recording_the_slow_ones_whole(self) -> None:
        shutter = SimulatedShutter("leaf", seed=2)
        card = SimulatedCard(shutter)
        pieces = [card.block(RATE_HZ)]
        for mark in (2.0, 1 / 4, 1 / 60, 1 / 500):
            card.fire(mark, 1 / 500)
            pieces.append(card.block(int((6 + mark) * RATE_HZ)))
        y = np.concatenate(pieces)[:, 0].astype(float)
        self.assertGreater(len(y), 20 * RATE_HZ)
        found = firings_of(lambda first, last: y[first:last], len(y), RATE_HZ)
        self.assertEqual(len(found), 4)
        for one, mark in zip(found, (2.0, 1 / 4, 1 / 60, 1 / 500), strict=True):
            self.assertLess(abs(np.log2(one.time_s / mark)), 0.2)
        self.assertEqual(stretches(lambda first, last: y[first:last] * 0, len(y), RATE_HZ), [])

    def test_limits(self) -> None:
        with self.assertRaises(NotEnoughData):
            firings_of(lambda first, last: np.zeros(last - first), 10, RATE_HZ)
        with self.assertRaises(InvalidInput):
            firings_of(lambda first, last: np.zeros(last - first), 10**9, RATE_HZ)


class Contacts(unittest.TestCase):
    def test_closing_bounces_and_the_time_after_full_opening(self) -> None:
        y = np.full(RATE_HZ, 5.0) + np.random.default_rng(3).normal(0, 0.02, RATE_HZ)
        at = 24000
        for first, last in ((0, 20), (30, 45), (55, 600)):  # two bounces within 1.2 ms
            y[at + first : at + last] -= 5.0
        (one,) = contacts(y, RATE_HZ)
        self.assertAlmostEqual(one.close_s, 0.5, delta=2e-5)
        self.assertEqual(one.bounces, 2)
        self.assertAlmostEqual(one.closed_s, 600 / RATE_HZ, delta=5e-5)
        firing = RecordedFiring(0.495, 0.511, 1e-5, 1.0, 0.002, 0.002)
        found = of_firing(firing, (one,))
        self.assertIsNotNone(found)
        sync = synchrony(one, firing)
        self.assertAlmostEqual(sync.after_full_s, 0.004, delta=5e-5)
        self.assertAlmostEqual(sync.left_open_s, 0.010, delta=5e-5)
        self.assertTrue(sync.right)
        self.assertFalse(synchrony(one, RecordedFiring(0.4999, 0.52, 1e-5, 1.0, 0.002, 0.002)).right)

    def test_a_contact_that_never_closes(self) -> None:
        self.assertEqual(contacts(np.random.default_rng(1).normal(5, 0.01, 4000), RATE_HZ), ())


class Clicks(unittest.TestCase):
    def test_two_clicks_within_the_stated_doubt_and_none_that_cannot_be_told_apart(self) -> None:
        rng = np.random.default_rng(6)
        y = rng.normal(0, 0.003, 4 * RATE_HZ) + 0.05 * np.sin(2 * np.pi * 50 * np.arange(4 * RATE_HZ) / RATE_HZ)
        ring = np.exp(-np.arange(300) / 60) * np.sin(2 * np.pi * 6000 * np.arange(300) / RATE_HZ)
        for at in (0.5, 1.0, 2.0, 2.01):  # half a second; then a hundredth, which is one click
            y[int(at * RATE_HZ) : int(at * RATE_HZ) + 300] += ring
        (one,) = heard(y, RATE_HZ)
        self.assertLess(abs(one.time_s - 0.5), 2 * one.u_s)
        self.assertGreaterEqual(one.u_s, LEAST_U_S)
        with self.assertRaises(InvalidInput):
            heard(y, 4000)


if __name__ == "__main__":
    unittest.main()
