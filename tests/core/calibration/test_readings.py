"""Errors in stops, uncertainty, guard bands, tolerance."""

import math
import unittest

import numpy as np

from violet_dial.core.calibration.readings import state_of, tabulate, tolerance_at
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import LightReading, Tolerance


class OneReading(unittest.TestCase):
    def test_sign_and_uncertainty(self) -> None:
        reading = LightReading(12.0, 12.6, u_reference=0.03, u_reading=0.04)
        self.assertAlmostEqual(reading.error_stops, 0.6)  # positive: reads high
        self.assertAlmostEqual(reading.expanded_uncertainty_stops, 0.10)

    def test_guard_bands(self) -> None:
        # JCGM 106:2012 [memory]: accept only when the whole interval lies inside
        for error, state in ((0.20, "inside"), (-0.20, "inside"), (0.21, "undecided"), (0.45, "undecided"), (0.47, "outside")):
            self.assertEqual(state_of(error, 0.13, 1 / 3), state, error)

    def test_refused(self) -> None:
        for bad in ({"reference_ev100": math.nan}, {"indicated_ev100": 99.0}, {"u_reading": 0.0}, {"u_reference": -1.0}):
            with self.subTest(bad), self.assertRaises(InvalidInput):
                LightReading(**{"reference_ev100": 10.0, "indicated_ev100": 10.0, **bad})  # type: ignore[arg-type]


class ManyReadings(unittest.TestCase):
    def test_levels_gather_near_lights(self) -> None:
        table = tabulate(tuple(LightReading(x, x) for x in (10.0, 5.0, 10.1, 15.0, 5.2, 10.24)))
        self.assertEqual(list(table.level), [1, 0, 1, 2, 0, 1])
        np.testing.assert_allclose(table.levels, [5.1, 10.1133, 15.0], atol=1e-3)

    def test_none(self) -> None:
        self.assertEqual(len(tabulate(()).levels), 0)


class Tolerances(unittest.TestCase):
    def test_wider_at_both_ends(self) -> None:
        tolerance = Tolerance(0.3, 0.5, 1.0)
        found = tolerance_at(tolerance, np.arange(5.0, 16.0), (5.0, 15.0))
        np.testing.assert_allclose(found, [0.5, 0.5, *[0.3] * 7, 0.5, 0.5])

    def test_a_narrow_range_keeps_a_middle(self) -> None:
        found = tolerance_at(Tolerance(0.3, 0.5, 2.0), np.array([9.0, 10.5, 12.0]), (9.0, 12.0))
        np.testing.assert_allclose(found, [0.5, 0.3, 0.5])

    def test_refused(self) -> None:
        for bad in ((0.0, 0.5, 1.0), (0.3, math.inf, 1.0), (0.3, 0.5, -1.0)):
            with self.assertRaises(InvalidInput):
                Tolerance(*bad)
