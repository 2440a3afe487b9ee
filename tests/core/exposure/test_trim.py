"""Test shots: the belief beside a sum by hand, which way round it works, invented cameras, shots that were cut short."""

import math
import unittest

import numpy as np
from scipy.stats import norm

from bench.trims import trimmed
from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.trim import (
    EYE_U,
    HALF,
    OFFSET_U,
    OFFSETS,
    SLIDER_STEPS,
    WHEEL_STEPS,
    Marks,
    TestShot,
    TrimPosterior,
    trim,
)


class Beliefs(unittest.TestCase):
    def test_one_shot_as_bayes_rule_by_hand(self) -> None:
        """At the middle setting the steps have no say: a normal prior and an eye that calls all within half a stop the same."""
        marks = Marks(tuple(float(n) for n in range(9)), (0.0,))
        belief = TrimPosterior(marks)
        belief.take(TestShot(4.0, 0.0, -1.5))
        prior = norm.pdf(OFFSETS, 0.0, OFFSET_U)
        likely = 0.97 * (norm.cdf((-1.25 - OFFSETS) / EYE_U) - norm.cdf((-1.75 - OFFSETS) / EYE_U)) / HALF + 0.03 / 16
        by_hand = prior * likely / (prior * likely).sum()
        ours = belief.weight.reshape(len(OFFSETS), len(WHEEL_STEPS) * len(SLIDER_STEPS)).sum(axis=1)
        self.assertLess(float(np.abs(ours - by_hand).max()), 1e-4)

    def test_dark_pictures_want_the_cell_shaded(self) -> None:
        """Clear is dark pictures: everybody gets it the wrong way round at first."""
        for stops, higher in ((-1.5, True), (1.5, False)):
            found = trim([TestShot(4.0, 0.0, stops)])
            moved = found.best.wheel - 4.0 + found.best.slider
            self.assertEqual(moved > 0, higher)
            self.assertIn("makes the picture brighter", found.words)

    def test_other_light_says_less_and_a_shutter_at_its_longest_time_hides(self) -> None:
        """Three shots of the same darkness: outdoors they decide; indoors without flash the shutter may have ended too early."""

        def expected(scene: str, flash: bool) -> tuple[float, float]:
            belief = TrimPosterior(Marks(), "outdoors", False)
            for _ in range(3):
                belief.take(TestShot(4.0, 0.0, -2.0, scene, flash))  # type: ignore[arg-type]
            there = next(one for one in belief.settings() if (one.wheel, one.slider) == (4.0, 0.0))
            return there.stops, there.u_stops

        same, flash, indoors = expected("outdoors", False), expected("indoors", True), expected("indoors", False)
        self.assertLess(same[1], flash[1])
        self.assertLess(flash[1], indoors[1])
        self.assertGreater(indoors[0], flash[0])  # it may well have been brighter, had it been let

    def test_it_ends_when_sure_or_when_the_film_does(self) -> None:
        right = [TestShot(5.0, 0.0, 0.0)] * 4
        self.assertTrue(trim(right).done)
        self.assertFalse(trim(right[:1]).done)
        spent = trim([TestShot(5.0, 0.0, -2.0)], film_left=0)
        self.assertTrue(spent.done)
        self.assertIn("No film left", spent.words)
        self.assertFalse(trim([]).done)

    def test_what_cannot_be_is_refused(self) -> None:
        self.assertRaises(InvalidInput, TestShot, 5.0, 0.0, math.nan)
        self.assertRaises(InvalidInput, TestShot, 5.0, 0.0, 20.0)
        self.assertRaises(InvalidInput, trim, [TestShot(12.0, 0.0, 0.0)])
        self.assertRaises(InvalidInput, Marks, ())
        self.assertRaises(InvalidInput, trim, [TestShot(5.0, 0.0, 0.0)] * 61)


class Cameras(unittest.TestCase):
    def test_few_frames_and_what_is_said_is_so(self) -> None:
        found = trimmed(40, seed=5)
        self.assertLessEqual(found["median"], 3)
        self.assertGreaterEqual(found["within_five"], 0.85)
        self.assertLess(found["median"], found["halving_median"])
        spread = math.sqrt(found["said"] * (1 - found["said"]) / 40)
        self.assertLess(abs(found["right_when_done"] - found["said"]), 3 * spread)


if __name__ == "__main__":
    unittest.main()
