"""A charged capacitor through a resistor, against the differential equation solved by SciPy."""

import unittest

from scipy.integrate import quad, solve_ivp

from violet_dial.core.errors import InvalidInput
from violet_dial.core.receiving.gate import Discharge


class FlashCapacitor(unittest.TestCase):
    def test_worked_example(self) -> None:
        """160 uF at 330 V holds 8.7 J; through 2 kohm it takes 0.77 s to 30 V (worked by hand)."""
        one = Discharge(160e-6, 330.0, 2_000.0, 30.0)
        self.assertAlmostEqual(one.energy_j, 8.712, places=3)
        self.assertAlmostEqual(one.time_s, 0.767, places=3)
        self.assertAlmostEqual(one.peak_power_w, 54.45, places=2)
        self.assertIn("8.7 J", one.arithmetic()[0])

    def test_against_the_equation(self) -> None:
        one = Discharge(470e-6, 300.0, 4_700.0, 12.0)
        solved = solve_ivp(
            lambda t, v: -v / (one.resistor_ohm * one.capacitance_f), (0, one.time_s), [one.charged_v], rtol=1e-9, atol=1e-9
        )
        self.assertAlmostEqual(float(solved.y[0, -1]), one.below_v, delta=1e-4)
        heat, _ = quad(lambda v: one.capacitance_f * v, 0, one.charged_v)  # work taken out of the capacitor
        self.assertAlmostEqual(heat, one.energy_j, places=9)

    def test_already_below_and_bad_figures(self) -> None:
        self.assertEqual(Discharge(1e-6, 5.0, 100.0, 30.0).time_s, 0.0)
        for figures in ((0.0, 1, 1, 1), (1e-6, -1, 1, 1), (1e-6, 1, float("nan"), 1), (1e-6, 1, 1, 0)):
            with self.assertRaisesRegex(InvalidInput, "above 0"):
                Discharge(*figures)


if __name__ == "__main__":
    unittest.main()
