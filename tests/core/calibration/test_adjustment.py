"""Best single shift against brute force; the adjuster's own units; over-travel."""

import math
import unittest

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from violet_dial.core.calibration.adjustment import Curve, apply_shift, best_shift, best_stepped_shift
from violet_dial.core.calibration.assess import instructions, judge_travel
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import Adjuster

GRID_STOPS = 0.005


def brute_force(curve: Curve) -> tuple[float, float]:
    """Longest span and smallest worst error inside it over a grid of shifts, `GRID_STOPS` apart."""
    best = (-1.0, math.inf)
    for shift in np.arange(-3.0, 3.0 + GRID_STOPS / 2, GRID_STOPS):
        found = apply_shift(curve, float(shift))
        if found.span_ev > best[0] + 1e-9 or (abs(found.span_ev - best[0]) < 1e-9 and (found.worst_error_stops or 0) < best[1]):
            best = (found.span_ev, found.worst_error_stops or 0.0)
    return best


class Best(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.floats(-1.5, 1.5), min_size=2, max_size=9), st.floats(0.2, 0.6))
    @example([3.709757404255085e-10, -0.5], 0.25)  # within tolerance but for the last bit of the arithmetic
    def test_against_brute_force(self, errors: list[float], tolerance: float) -> None:
        curve = Curve(np.arange(float(len(errors))), np.array(errors), np.full(len(errors), tolerance))
        found = best_shift(curve)
        span, worst = brute_force(curve)
        self.assertGreaterEqual(found.span_ev, span - 1e-9)  # the grid can only miss
        if abs(found.span_ev - span) < 1e-9:
            self.assertLessEqual(found.worst_error_stops or 0.0, worst + 2e-9)
            self.assertGreaterEqual(found.worst_error_stops or 0.0, worst - GRID_STOPS)

    def test_even_error_is_taken_out(self) -> None:
        curve = Curve(np.arange(5.0, 16.0), np.full(11, 0.68), np.full(11, 1 / 3))
        found = best_shift(curve)
        self.assertAlmostEqual(found.stops, -0.68)
        self.assertEqual((found.usable_from_ev100, found.usable_to_ev100), (5.0, 15.0))

    def test_steps(self) -> None:
        curve = Curve(np.arange(5.0, 16.0), np.full(11, 0.68), np.full(11, 1 / 3))
        self.assertAlmostEqual(best_stepped_shift(curve, 1 / 3).stops, -2 / 3)
        self.assertAlmostEqual(best_stepped_shift(curve, 1 / 2).stops, -0.5)

    def test_a_break_in_the_middle_parts_the_span(self) -> None:
        curve = Curve(np.arange(6.0), np.array([0.0, 0.0, 2.0, 0.0, 0.0, 0.0]), np.full(6, 0.3))
        found = best_shift(curve)
        self.assertEqual((found.usable_from_ev100, found.usable_to_ev100), (3.0, 5.0))

    def test_nothing_to_shift(self) -> None:
        empty = Curve(np.zeros(0), np.zeros(0), np.zeros(0))
        self.assertIsNone(best_shift(empty).usable_from_ev100)
        self.assertEqual(best_stepped_shift(empty, 0.5).stops, 0.0)


class Units(unittest.TestCase):
    ADJUSTER = Adjuster(notch_stops=1 / 3, degrees_per_stop=18.0, drum_diameter_mm=14.0, cord_left_mm=9.0, film_speed=100.0)

    def test_each_unit(self) -> None:
        said = {one.unit: one for one in instructions(-2 / 3, self.ADJUSTER)}
        self.assertIn("2 notches back", said["notches"].text)
        self.assertIn("12.0°", said["degrees"].text)
        self.assertIn(f"{math.pi * 14 * 18 / 360 * 2 / 3:.1f} mm", said["cord"].text)
        self.assertIn("to 64 for 100 film", said["film speed"].text)  # reads high: dial a slower film
        self.assertAlmostEqual(said["notches"].left_stops, 0.0)

    def test_unknown_units_are_left_out(self) -> None:
        self.assertEqual([one.unit for one in instructions(0.5, Adjuster())], ["stops", "film speed"])

    def test_over_travel(self) -> None:
        per_stop = math.pi * 14 * 18 / 360
        self.assertAlmostEqual(self.ADJUSTER.cord_mm_per_stop, per_stop)
        kept = judge_travel(-1.0, self.ADJUSTER)
        self.assertTrue(kept.safe)
        self.assertAlmostEqual(kept.cord_left_mm or 0, 9 + per_stop)
        self.assertFalse(judge_travel(4.0, self.ADJUSTER).safe)
        self.assertIsNone(judge_travel(1.0, Adjuster()).safe)

    def test_refused(self) -> None:
        for bad in ({"notch_stops": -1.0}, {"drum_diameter_mm": math.nan}, {"film_speed": 0.0}):
            with self.assertRaises(InvalidInput):
                Adjuster(**bad)
