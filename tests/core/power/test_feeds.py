"""Choices as they are said, diodes by model and by two points, what cannot be understood."""

import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.cells import MOST_STACKED, SIZES, size_of, stack_of
from violet_dial.core.power.feeds import (
    GERMANIUM,
    SCHOTTKY,
    SILICON,
    BatteryChoice,
    Diode,
    diode_by_two_points,
    read_choice,
    read_diode,
)


class Said(unittest.TestCase):
    def test_what_is_said_comes_back_as_said(self) -> None:
        for text, name in (
            ("SR44 + schottky", "SR44 with Schottky diode"),
            ("2 x PR44", "2 × PR44"),
            ("SR44 with silicon diode and 220 ohm", "SR44 with silicon diode and 220 Ω resistor"),
            ("LR44 + 1k", "LR44 with 1 kΩ resistor"),
            ("SR44 adapter 0.2 V", "SR44 with adapter that drops 0.2 V"),
            ("supply 1.5 V 2 ohm", "supply 1.5 V"),
            ("SR44 + germanium + germanium moved", "SR44 with germanium diode and germanium diode, scale moved"),
        ):
            with self.subTest(text):
                choice = read_choice(text)
                self.assertEqual(choice.name, name)
                self.assertEqual(read_choice(choice.said), choice)

    def test_own_diodes_and_cells_are_known_by_name(self) -> None:
        own, cell = Diode("blue diode", 1e-8, 1.3), stack_of(SIZES["SR44"], 1)
        found = read_choice("bench cell + blue", {"blue": own}, {"bench cell": cell})
        self.assertEqual((found.size, found.diodes), (cell, (own,)))

    def test_what_is_not_understood_says_what_would_be(self) -> None:
        for text, words in (("XR99", "one of LR44"), ("SR44 + purple", "a diode"), ("SR44 + -5 ohm", "0 to"),
                            ("supply 0", "a cell"), ("", "one of LR44"),
                            ("7xLR44", "up to 6"), ("SR44 + adapter 99 V", "0 to 30")):  # fmt: skip
            with self.subTest(text):
                self.assertRaisesRegex(InvalidInput, words, read_choice, text)

    def test_stacks_of_two_to_six(self) -> None:
        for count in range(2, MOST_STACKED + 1):
            size = size_of(f"{count}xLR44")
            self.assertEqual(size.cells, count)
            volts = BatteryChoice(size).emf_v(np.ones(1), 20.0)[0]
            self.assertAlmostEqual(volts, count * BatteryChoice(SIZES["LR44"]).emf_v(np.ones(1), 20.0)[0])


class Diodes(unittest.TestCase):
    def test_models_as_spice_has_them(self) -> None:
        self.assertEqual(read_diode("D schottky IS=1e-7 N=1.1"), Diode("schottky diode", 1e-7, 1.1))
        self.assertEqual(read_diode(".model x D(IS=2n N=1.7 RS=.5)"), Diode("x diode", 2e-9, 1.7, 0.5))
        self.assertEqual(read_diode("Germanium"), GERMANIUM)
        for text in ("D x N=1.1", "D x IS=1 VJ=2", "nothing", "D x IS=-1"):
            self.assertRaises(InvalidInput, read_diode, text)

    def test_two_points_give_back_the_diode(self) -> None:
        """Known truth: drops of a diode without resistance at two currents, at 20 C."""
        for true in (Diode("a", 2e-9, 1.7), Diode("b", 3e-7, 1.05, 0.0, 0.69, 2.0)):
            points = [(float(true.drop_v(np.array(amp), 20.0)), amp) for amp in (1e-4, 1e-3)]
            found = diode_by_two_points("found", points[0], points[1])
            for amp in (1e-5, 3e-4, 2e-3):
                self.assertAlmostEqual(
                    float(found.drop_v(np.array(amp), 20.0)), float(true.drop_v(np.array(amp), 20.0)), delta=1e-3
                )
        self.assertRaises(InvalidInput, diode_by_two_points, "x", (0.5, 1e-3), (0.5, 1e-4))
        self.assertRaisesRegex(InvalidInput, "ten times", diode_by_two_points, "x", (0.1, 1e-4), (0.9, 1e-3))

    def test_about_two_millivolts_a_degree(self) -> None:
        """-2 mV/K at constant current (science of any junction) [memory]; I_s doubling about every 10 K."""
        for one, low, high in ((SILICON, 1.2, 3.2), (SCHOTTKY, 0.8, 2.6), (GERMANIUM, 0.8, 3.0)):
            cold, warm = (float(one.drop_v(np.array(1e-4), at)) for at in (10.0, 30.0))
            self.assertTrue(low <= (cold - warm) / 20 * 1000 <= high, one.name)


if __name__ == "__main__":
    unittest.main()
