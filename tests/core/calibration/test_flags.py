"""Sticky, imbalance, erratic, dead: found when there, not found when not, and not guessed."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.calibration.meters import LIGHTS, readings_of
from violet_dial.core.calibration import models
from violet_dial.core.calibration.assess import CheckPlan, assess
from violet_dial.core.calibration.flags import Flags
from violet_dial.core.records.light import LightReading


def flags_of(readings: tuple[LightReading, ...]) -> Flags:
    return assess(readings, CheckPlan()).flags


def both_ways(stick: float, scatter: float, seed: int) -> tuple[LightReading, ...]:
    up = readings_of(np.full_like(LIGHTS, -stick / 2), scatter=scatter, seed=seed, direction="rising")
    down = readings_of(np.full_like(LIGHTS, stick / 2), scatter=scatter, seed=seed + 1000, direction="falling")
    return up + down


class Sticky(unittest.TestCase):
    def test_found_with_its_figure(self) -> None:
        flag = flags_of(both_ways(0.5, 0.05, 1)).sticky
        self.assertTrue(flag.raised)
        self.assertAlmostEqual(flag.figure or 0, 0.5, delta=flag.expanded_uncertainty or 0)

    def test_rarely_found_where_there_is_none(self) -> None:
        false = sum(bool(flags_of(both_ways(0.0, 0.078, seed)).sticky.raised) for seed in range(100))
        self.assertLessEqual(false, 3)

    def test_not_told_from_one_direction(self) -> None:
        flag = flags_of(readings_of(np.zeros_like(LIGHTS), direction="rising")).sticky
        self.assertIsNone(flag.raised)
        self.assertIn("falling", flag.missing)

    def test_the_shape_is_judged_between_both_ways(self) -> None:
        found = assess(both_ways(0.6, 0.03, 2), CheckPlan())
        self.assertEqual(found.model.kind if found.model else "", "true")


class Imbalance(unittest.TestCase):
    def test_found_between_two_attitudes_of_three(self) -> None:
        flat = [replace(one, attitude="flat") for one in readings_of(np.zeros_like(LIGHTS), scatter=0.04, seed=1)]
        up = [replace(one, attitude="upright") for one in readings_of(np.full_like(LIGHTS, 0.35), scatter=0.04, seed=2)]
        side = [replace(one, attitude="on its side") for one in readings_of(np.zeros_like(LIGHTS), scatter=0.04, seed=3)]
        flag = flags_of((*flat, *up, *side)).imbalance
        self.assertTrue(flag.raised)
        self.assertAlmostEqual(abs(flag.figure or 0), 0.35, delta=0.06)
        self.assertIn("upright", flag.arithmetic)

    def test_not_told_from_one_attitude(self) -> None:
        self.assertIsNone(flags_of(readings_of(np.zeros_like(LIGHTS))).imbalance.raised)


class Erratic(unittest.TestCase):
    def test_found(self) -> None:
        """By repeats at the same lights; without them a scatter is not told from a shape, and repeats are asked for."""
        found = asked = 0
        for seed in range(30):
            once = readings_of(0 * LIGHTS, scatter=0.4, seed=seed)
            found += bool(flags_of((*once, *readings_of(0 * LIGHTS, scatter=0.4, seed=seed + 99))).erratic.raised)
            alone = flags_of(once).erratic
            self.assertFalse(alone.raised)
            asked += "twice more" in alone.missing
        self.assertGreaterEqual(found, 28)
        self.assertGreaterEqual(asked, 26)

    def test_two_effects_at_once_are_not_scatter(self) -> None:
        error = models.low_falloff(LIGHTS, 4.4) + models.high_compression(LIGHTS, 12.5)
        for seed in range(20):
            self.assertFalse(flags_of(readings_of(error, scatter=0.06, seed=seed)).erratic.raised)

    def test_a_cell_that_remembers(self) -> None:
        """A CdS cell taken dark and bright in turn reads on by a part of the step it came from."""
        lights = np.array([5.0, 12.0, 6.0, 13.0, 7.0, 14.0, 8.0, 10.0, 9.0, 15.0])
        came = np.clip(-np.diff(lights, prepend=lights[0]), -4, 4)
        self.assertTrue(flags_of(readings_of(0.12 * came, lights, scatter=0.05)).memory.raised)
        self.assertFalse(flags_of(readings_of(0 * lights, lights, scatter=0.05)).memory.raised)
        self.assertIsNone(flags_of(readings_of(0 * LIGHTS, LIGHTS)).memory.raised)  # always from dimmer: not told

    def test_rarely_found_at_the_stated_scatter(self) -> None:
        false = sum(bool(flags_of(readings_of(0 * LIGHTS, scatter=0.078, seed=seed)).erratic.raised) for seed in range(200))
        self.assertLessEqual(false, 2)

    def test_a_smooth_strange_shape_is_not_scatter(self) -> None:
        lights = np.arange(4.0, 16.1, 0.5)
        found = assess(readings_of(0.5 * np.sin((lights - 4) / 12 * 2 * np.pi), lights), CheckPlan())
        self.assertFalse(found.flags.erratic.raised)
        self.assertFalse(found.described)


class Dead(unittest.TestCase):
    def test_a_needle_that_stays(self) -> None:
        flag = flags_of(readings_of(7.0 - LIGHTS, scatter=0.05)).dead
        self.assertTrue(flag.raised)
        self.assertAlmostEqual(flag.figure or 1, 0.0, delta=0.05)

    def test_a_live_one_and_one_not_told(self) -> None:
        self.assertFalse(flags_of(readings_of(0.3 * (10 - LIGHTS) / 3)).dead.raised)
        self.assertIsNone(flags_of(readings_of(np.zeros(2), np.array([9.0, 10.0]))).dead.raised)
