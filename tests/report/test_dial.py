"""The dial as geometry: light runs round, error outward, and what lies beyond the rim is kept at it and told."""

import math
import unittest

import numpy as np

from violet_dial.core.calibration.assess import Assessment, CheckPlan, assess
from violet_dial.core.records.light import LightReading
from violet_dial.report.dial import MOST_ERROR_STOPS, STOP_RADIUS, DialRequest, Scale, draw_dial, mark_state, needle_at, scale_for


def assessed(*errors: float, start: float = 6.0) -> Assessment:
    readings = tuple(
        LightReading(start + n, start + n + error, u_reference=0.04, u_reading=0.05) for n, error in enumerate(errors)
    )
    return assess(readings, CheckPlan())


def polar(x: float, y: float) -> tuple[float, float]:
    """Radius and degrees from the right."""
    return math.hypot(x, y), math.degrees(math.atan2(y, x))


class Geometry(unittest.TestCase):
    def test_light_runs_from_left_to_right_and_error_outward(self) -> None:
        scale = Scale(5.0, 15.0)
        points = scale.at_errors(np.array([5.0, 10.0, 15.0]), np.array([0.0, 1.0, -1.0]))
        radii, angles = zip(*(polar(*point) for point in points), strict=True)
        np.testing.assert_allclose(radii, [1.0, 1 + STOP_RADIUS, 1 - STOP_RADIUS])
        self.assertEqual(list(angles), sorted(angles, reverse=True))
        self.assertAlmostEqual(angles[1], 90.0)

    def test_what_is_beyond_is_kept_at_the_rim_and_at_the_ends(self) -> None:
        scale = Scale(5.0, 15.0)
        far = scale.at_errors(np.array([10.0, 10.0]), np.array([9.0, -9.0]))
        np.testing.assert_allclose(
            [polar(*point)[0] for point in far], [1 + side * STOP_RADIUS * MOST_ERROR_STOPS for side in (1, -1)]
        )
        self.assertEqual(scale.at(2.0, 1.0), scale.at(5.0, 1.0))

    def test_the_scale_holds_every_reading(self) -> None:
        found = scale_for(assessed(0.1, 0.0, -0.1, start=3.0))
        self.assertLess(found.low, 3.0)
        self.assertGreater(found.high, 5.0)


class Drawn(unittest.TestCase):
    def test_each_reading_has_its_mark_bar_and_shape(self) -> None:
        assessment = assessed(0.0, 0.9, -0.9, 0.02, 0.01)
        dial = draw_dial(DialRequest(assessment, to_read_ev100=(12.0,)))
        self.assertEqual(sum(line.role == "bar" for line in dial.lines), 5)
        shapes = {mark.index: mark.state for mark in dial.marks}
        self.assertEqual(shapes, {n: mark_state(one) for n, one in enumerate(assessment.readings)} | {-1: "empty"})
        self.assertEqual((shapes[1], shapes[2]), ("high", "low"))

    def test_the_needle_stands_at_the_light_it_shows(self) -> None:
        assessment = assessed(0.0, 0.1, 0.0)
        self.assertIsNone(needle_at(assessment, None))
        needle = needle_at(assessment, 7.0)
        assert needle is not None
        angles = {round(polar(*point)[1], 6) for point in needle.points}
        self.assertEqual(angles, {round(polar(*scale_for(assessment).at(7.0, 1.0))[1], 6)})

    def test_the_curve_after_the_shift_is_dashed_and_only_where_there_is_one(self) -> None:
        shifted = draw_dial(DialRequest(assessed(*(0.7,) * 7)))
        after = [line for line in shifted.lines if line.role == "after"]
        self.assertEqual([line.dashed for line in after], [True])
        radius = [polar(*point)[0] for point in after[0].points]
        np.testing.assert_allclose(radius, 1.0, atol=0.01)  # brought to the zero line
        for plain in (DialRequest(assessed(*(0.0,) * 7)), DialRequest(assessed(*(0.7,) * 7), show_after=False)):
            self.assertEqual([line for line in draw_dial(plain).lines if line.role == "after"], [])

    def test_an_empty_run_has_a_scale_and_no_curve(self) -> None:
        dial = draw_dial(DialRequest(assessed()))
        self.assertEqual(([*dial.marks], [line for line in dial.lines if line.role == "found"]), ([], []))
        self.assertTrue(dial.labels)


if __name__ == "__main__":
    unittest.main()
