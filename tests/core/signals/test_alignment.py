"""Two traces: delays that are known, verdicts beside a sister, edges and spikes by closed forms, what is drawn of a long
signal."""

import unittest

import numpy as np

from violet_dial.core.errors import NotEnoughData
from violet_dial.core.signals.alignment import beside_sister, delay_of
from violet_dial.core.signals.pulses import rise_s, spikes_of
from violet_dial.core.signals.pyramid import Pyramid

RATE_HZ = 20_000.0
T = np.arange(8000) / RATE_HZ
RNG = np.random.default_rng(3)
CLOCK = 2.6 * (np.sin(2 * np.pi * 64 * T) > 0) + RNG.normal(0, 0.01, len(T))
RAIL = np.full(len(T), 2.6) + RNG.normal(0, 0.005, len(T))


class Delays(unittest.TestCase):
    def test_which_leads_and_by_how_much(self) -> None:
        for delay in (0.00213, -0.0007, 0.0):
            late = np.where(np.sin(2 * np.pi * 64 * (T - delay)) > 0, 2.6, 0.0)
            found = delay_of(CLOCK, late, RATE_HZ)
            assert found is not None
            self.assertAlmostEqual(found.seconds, delay, delta=1.5 / RATE_HZ)
            self.assertGreater(found.alike, 0.9)

    def test_noise_beside_noise_has_none(self) -> None:
        self.assertIsNone(delay_of(RNG.normal(0, 1, 4000), RNG.normal(0, 1, 4000), RATE_HZ))
        with self.assertRaises(NotEnoughData):
            delay_of(CLOCK[:10], CLOCK[:10], RATE_HZ)


class Sisters(unittest.TestCase):
    def test_same_other_missing(self) -> None:
        sawtooth = 2.6 + 1.1 * ((T * 172) % 1 - 0.5)
        faster = np.where(np.sin(2 * np.pi * 80 * T) > 0, 2.6, 0.0)
        for sick, sister, verdict in (
            (CLOCK, np.roll(CLOCK, 37), "same"), (RAIL, RAIL[::-1], "same"), (sawtooth, RAIL, "other"), (faster, CLOCK, "other"),
            (RAIL - 1.2, RAIL, "other"), (0 * RAIL + RNG.normal(0, 0.005, len(T)), RAIL, "missing"), (RAIL / 2, CLOCK, "missing"),
        ):  # fmt: skip
            found = beside_sister(sick, RATE_HZ, sister, RATE_HZ)
            with self.subTest(verdict=verdict, words=found.words):
                self.assertEqual(found.verdict, verdict)

    def test_another_rate_is_the_same_trace(self) -> None:
        self.assertEqual(beside_sister(CLOCK, RATE_HZ, CLOCK[::2], RATE_HZ / 2).verdict, "same")


class Pulses(unittest.TestCase):
    def test_the_rise_of_an_exponential(self) -> None:
        # A first-order step rises from a tenth to nine tenths in ln 9 time constants (closed form).
        tau = 0.0004
        t = np.arange(4000) / 100_000.0
        y = np.where(t > 0.01, 1 - np.exp(-(t - 0.01) / tau), 0.0)
        found = rise_s(y, 100_000.0)
        assert found is not None
        self.assertAlmostEqual(found, np.log(9) * tau, delta=0.02 * tau)
        self.assertIsNone(rise_s(RAIL, RATE_HZ))

    def test_spikes_counted_with_height_and_energy(self) -> None:
        y = RAIL.copy()
        for at in (1000, 3000, 6000):
            y[at : at + 4] += 2.0
        found = spikes_of(y, RATE_HZ)
        self.assertEqual(found.count, 3)
        self.assertAlmostEqual(found.highest, 2.0, delta=0.05)
        self.assertAlmostEqual(found.energy, 3 * 4 * 4.0 / RATE_HZ, delta=0.0002)
        self.assertEqual(spikes_of(RAIL, RATE_HZ).count, 0)


class Drawn(unittest.TestCase):
    def test_every_part_holds_its_least_and_most(self) -> None:
        y = RNG.normal(0, 1, 1_000_003)
        y[777_777] = 50.0
        pyramid = Pyramid(lambda first, last: y[first:last], len(y))
        self.assertAlmostEqual(pyramid.span[1], 50.0)
        for first, last in ((0, len(y)), (500_000, 900_000), (777_000, 778_000), (777_770, 777_790)):
            low, high = pyramid.shown(first, last, 500)
            self.assertLessEqual(len(low), 500)
            self.assertAlmostEqual(float(high.max()), 50.0)
            self.assertLessEqual(float(low.min()), float(y[first:last].min()) + 1e-6)
        self.assertEqual(len(pyramid.shown(10, 20, 500)[0]), 10)


if __name__ == "__main__":
    unittest.main()
