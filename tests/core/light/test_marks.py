"""Marked series and their true values; typed light."""

import itertools
import math
import unittest

from tests.reference.exposure_tables import EXACT_F_NUMBERS, EXACT_TIMES_S
from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.exposure import Constants
from violet_dial.core.light.marks import (
    aperture_marks,
    film_speed_marks,
    nearest_mark,
    parse_aperture,
    parse_time,
    time_marks,
    true_value_of_mark,
)
from violet_dial.core.light.typed import convert_light, parse_light
from violet_dial.core.quantities import parse_number


class Series(unittest.TestCase):
    def test_exact_values(self) -> None:
        for mark, exact in EXACT_F_NUMBERS.items():
            self.assertAlmostEqual(true_value_of_mark(mark, "aperture"), exact, places=6)
        for mark, exact in EXACT_TIMES_S.items():
            self.assertAlmostEqual(true_value_of_mark(mark, "time"), exact)

    def test_every_mark_lies_within_its_rounding(self) -> None:
        # rounding on rings is coarse (1/6 for 1/5.04..., 22 for 22.6): never as much as a sixth of a stop off
        for fineness in (1, 2, 3):
            for mark in aperture_marks(fineness):
                off = 2 * math.log2(parse_number(mark.text[2:]) / mark.true_value)
                self.assertLess(abs(off), 1 / 6, mark)
            for mark in time_marks(fineness):
                off = math.log2(parse_number(mark.text.removesuffix(" s")) / mark.true_value)
                self.assertLess(abs(off), 1 / 4, mark)

    def test_steps_are_even(self) -> None:
        for fineness in (1, 2, 3):
            values = [mark.true_value for mark in time_marks(fineness)]
            for first, second in itertools.pairwise(values):
                self.assertAlmostEqual(math.log2(first / second), 1 / fineness)

    def test_there_and_back(self) -> None:
        for mark in (*aperture_marks(3), *time_marks(3), *film_speed_marks()):
            series = {"aperture": aperture_marks(3), "time": time_marks(3), "film speed": film_speed_marks()}[mark.kind]
            found, off = nearest_mark(mark.true_value, series)
            self.assertEqual(found.text, mark.text)
            self.assertAlmostEqual(off, 0.0)

    def test_refused(self) -> None:
        for text, kind in (("f/5.9", "aperture"), ("1/123", "time"), ("401", "film speed")):
            with self.assertRaises(InvalidInput):
                true_value_of_mark(text, kind)  # type: ignore[arg-type]
        with self.assertRaises(InvalidInput):
            aperture_marks(4)

    def test_typed_apertures_and_times(self) -> None:
        self.assertAlmostEqual(parse_aperture("5.6")[0], 2**2.5)
        self.assertEqual(parse_aperture("f/5.6")[1], "f/5.6")
        self.assertAlmostEqual(parse_aperture("f/5.9")[0], 5.9)
        self.assertAlmostEqual(parse_time("1/125")[0], 1 / 128)
        self.assertAlmostEqual(parse_time("20 ms")[0], 0.02)
        self.assertAlmostEqual(parse_time("2 s")[0], 2.0)
        with self.assertRaises(InvalidInput) as caught:
            parse_time("125")
        self.assertIn("1/125 or 125 s", str(caught.exception))


class TypedLight(unittest.TestCase):
    def test_each_quantity(self) -> None:
        constants = Constants()
        same = (
            "EV 14",
            "14 EV",
            "EV100 12",
            "EV100=12",
            "512 cd/m2",
            "512 cd/m²",
            "10 240 lx",
            "10.24 klx",
            "f/8 1/250",
            "1/250 f/8",
        )
        for text in same:
            with self.subTest(text):
                self.assertAlmostEqual(parse_light(text, 400.0, constants)[0], 12.0, places=9)

    def test_all_others_follow(self) -> None:
        light = convert_light("EV100 15", 100.0)
        self.assertAlmostEqual(light.luminance_cd_m2, 4096)
        self.assertAlmostEqual(light.illuminance_lx, 81920)
        sunny = next(row for row in light.settings if row["aperture"] == "f/16")
        self.assertEqual(sunny["time_mark"], "1/125")

    def test_a_bare_number_has_three_meanings(self) -> None:
        with self.assertRaises(InvalidInput) as caught:
            parse_light("12", 100.0, Constants())
        self.assertIn("12 EV, 12 lx or 12 cd/m2", str(caught.exception))

    def test_refused(self) -> None:
        for text in ("", "EV", "f/8", "f/8 1/125 2 s", "-5 lx", "EV 99", "dark", "1,234 lx"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_light(text, 100.0, Constants())
