"""Two pictures: known differences on pictures that scikit-image ships, turned, moved, noisy, cut off; shake, double image,
colour."""

import unittest

import numpy as np
from scipy import ndimage

from bench.pictures import changed, code, shipped
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.pictures.compare import compare, grey_stops, linear, resized, slope_of

PICTURES = dict(shipped())


class Known(unittest.TestCase):
    def test_differences_of_every_size(self) -> None:
        rng = np.random.default_rng(4)
        for name, stops in (("astronaut", -3.0), ("coffee", 3.0), ("rocket", -1.0), ("page", 0.3), ("motorcycle_left", 0.0)):
            with self.subTest(name):
                found = compare(*changed(PICTURES[name], stops, rng))
                self.assertAlmostEqual(found.stops, stops, delta=0.1)
                self.assertLess(abs(found.stops - stops), 2 * found.u_stops)
                self.assertAlmostEqual(found.laid.turn_deg, -3.0, delta=0.6)
                low, high = sorted(found.exposure_stops, key=abs)
                self.assertLessEqual(abs(low), abs(found.stops) + 1e-9)
                self.assertGreaterEqual(abs(high), abs(found.stops) - 1e-9)

    def test_a_known_slope_makes_it_exposure(self) -> None:
        found = compare(*changed(PICTURES["camera"], 1.5, np.random.default_rng(1)), slope=1.5)
        self.assertAlmostEqual(found.exposure_stops[0], found.stops / 1.5)
        self.assertEqual(found.exposure_stops[0], found.exposure_stops[1])

    def test_the_same_picture_differs_in_nothing(self) -> None:
        found = compare(PICTURES["chelsea"], PICTURES["chelsea"])
        self.assertAlmostEqual(found.stops, 0.0, delta=0.01)
        self.assertAlmostEqual(found.red_stops, 0.0, delta=0.02)
        self.assertIsNone(found.shake)
        self.assertIsNone(found.double)
        self.assertGreater(found.laid.alike, 0.99)

    def test_a_cast_and_what_is_lost(self) -> None:
        light = 0.03 + 0.4 * linear(PICTURES["astronaut"])
        found = compare(code(light), code(light * np.array([2.0**0.5, 1.0, 2.0**-0.4])))
        self.assertAlmostEqual(found.red_stops, 0.5, delta=0.05)
        self.assertAlmostEqual(found.blue_stops, -0.4, delta=0.05)
        bright = compare(code(light), code(light * 8))
        self.assertEqual(bright.highlights_lost[0], 0.0)
        self.assertGreater(bright.highlights_lost[1], 0.1)

    def test_shake_and_a_second_image_with_their_length_and_way(self) -> None:
        light = 0.05 + 0.5 * linear(PICTURES["motorcycle_left"])
        shaken = ndimage.uniform_filter1d(light, 13, axis=1)
        found = compare(code(light), code(shaken))
        assert found.shake is not None
        scale = found.width_px / light.shape[1]
        self.assertAlmostEqual(found.shake[0], 13 * scale, delta=2.5)
        self.assertLess(min(found.shake[1], 180 - found.shake[1]), 15)
        twice = 0.6 * light + 0.4 * np.roll(light, (18, 0), axis=(0, 1))
        found = compare(code(light), code(twice))
        assert found.double is not None
        self.assertAlmostEqual(found.double[0], 18 * scale, delta=3)
        self.assertAlmostEqual(found.double[1], 90, delta=12)

    def test_a_bracketed_pair_tells_the_slope_and_a_card_the_level(self) -> None:
        light = 0.05 + 0.5 * linear(PICTURES["coffee"])
        steep = [0.4 * (light * 2.0**stops / 0.5) ** 1.5 for stops in (-1.0, 0.0)]  # a print of 1.5 stops for one
        self.assertAlmostEqual(slope_of(code(steep[0]), code(steep[1]), 1.0), 1.5, delta=0.05)
        card = np.full((100, 100, 3), 0.5)
        card[20:60, 30:70] = code(np.full((40, 40, 3), 0.18 * 2.0**0.7))
        self.assertAlmostEqual(grey_stops(card, (0.32, 0.22, 0.3, 0.3)), 0.7, delta=0.01)
        with self.assertRaises(InvalidInput):
            grey_stops(card, (0.9, 0.0, 0.3, 0.3))
        with self.assertRaises(InvalidInput):
            slope_of(code(steep[0]), code(steep[0]), 1.0)


class Refused(unittest.TestCase):
    def test_other_scenes_and_what_is_no_picture(self) -> None:
        for first, second in (("astronaut", "grass"), ("coffee", "moon"), ("page", "rocket")):
            with self.subTest(first), self.assertRaises(InvalidInput):
                compare(PICTURES[first], PICTURES[second])
        for bad in (np.zeros((100, 100)), np.zeros((20, 20, 3)), np.full((100, 100, 3), np.nan)):
            with self.assertRaises(InvalidInput):
                compare(bad, PICTURES["moon"])
        with self.assertRaises((InvalidInput, NotEnoughData)):
            compare(np.ones((100, 100, 3)), np.ones((100, 100, 3)))

    def test_a_smaller_picture_keeps_its_light(self) -> None:
        light = linear(PICTURES["coins"])
        self.assertAlmostEqual(float(resized(light, (70, 33)).mean()), float(light.mean()), places=9)


if __name__ == "__main__":
    unittest.main()
