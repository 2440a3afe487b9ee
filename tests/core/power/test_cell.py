"""Whether a cell is still good: Bayes' rule beside SciPy's integrals, bands that hold in simulation, what no cell can show."""

import math
import unittest

import numpy as np
from scipy.integrate import quad
from scipy.stats import norm

from bench.cells import drawn
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.cell_state import METER_SHARE, METER_V, judge_cell
from violet_dial.core.power.cells import SIZES, size_of


class Cells(unittest.TestCase):
    def test_curves_fall_and_resistance_grows_as_the_charge_goes(self) -> None:
        left = np.linspace(0, 1, 200)
        for size in SIZES.values():
            with self.subTest(size.name):
                for at_c in (-10.0, 20.0, 40.0):
                    self.assertTrue((np.diff(size.chemistry.rest_v(left, at_c)) > 0).all())
                    self.assertTrue((np.diff(size.chemistry.rise_at(left, at_c)) < 1e-12).all())
                cold, warm = (float(size.chemistry.rise_at(np.array([0.5]), at_c)[0]) for at_c in (-10.0, 40.0))
                self.assertGreater(cold, warm)

    def test_names(self) -> None:
        for said, name in (("lr44", "LR44"), ("2 x LR44", "2LR44"), ("4×SR44", "4SR44"), ("CR123A", "CR17345"), ("aaa", "LR03")):
            self.assertEqual(size_of(said).name, name)
        self.assertRaisesRegex(InvalidInput, "one of LR44", size_of, "LR45")


class Judged(unittest.TestCase):
    def test_at_rest_alone_as_scipys_integral_has_it(self) -> None:
        size, rest_v = size_of("LR44"), 1.41
        cell = size.chemistry
        sigma = math.hypot(cell.rest_spread_v, math.hypot(METER_SHARE * rest_v, METER_V))

        def density(left: float) -> float:
            return float(norm.pdf(rest_v, cell.rest_v(np.array([left]))[0], sigma))

        found = judge_cell(size, rest_v)
        whole = quad(density, 0, 1, limit=200)[0]
        for end, share in ((found.left_low, 0.025), (found.left, 0.5), (found.left_high, 0.975)):
            self.assertAlmostEqual(quad(density, 0, end, limit=200)[0] / whole, share, delta=0.01)

    def test_a_dead_cell_in_a_stack_is_not_a_stack_that_is_nearly_empty(self) -> None:
        """4.7 V at rest of four silver cells: three at 1.55 V and one at nothing."""
        found = judge_cell(size_of("4SR44"), 4.7)
        self.assertGreater(found.one_dead, 0.8)
        self.assertRegex(found.words, r"one of its 4 cells is likely dead")
        self.assertGreater(found.left_high, 0.5)
        self.assertLess(judge_cell(size_of("4SR44"), 6.2).one_dead, 0.01)
        self.assertEqual(judge_cell(size_of("SR44"), 1.1).one_dead, 0.0)

    def test_whole_stacks_drawn_at_random_are_hardly_called_dead(self) -> None:
        rng = np.random.default_rng(8)
        size = size_of("4LR44")
        left = rng.uniform(0.1, 1.0, 300)
        rest = size.chemistry.rest_v(left, 20.0) * 4 + rng.normal(0, size.chemistry.rest_spread_v * 2, 300)
        called = [judge_cell(size, float(volts)).one_dead > 0.5 for volts in rest]
        self.assertLess(sum(called), 9)

    def test_the_load_gives_the_resistance_by_ohms_law(self) -> None:
        found = judge_cell(size_of("LR44"), 1.52, 1.31, 47.0)
        self.assertAlmostEqual(found.internal_ohm or 0, 47.0 * (1.52 - 1.31) / 1.31)
        self.assertEqual([one.works for one in found.serves], [True, True, False, False])
        self.assertAlmostEqual(found.serves[1].volts, 1.52 - 0.015 * (found.internal_ohm or 0))

    def test_a_load_tells_what_rest_cannot(self) -> None:
        """Silver stays at its volts nearly to the end; its resistance does not."""
        size = size_of("SR44")
        rest = judge_cell(size, 1.55)
        tired = judge_cell(size, 1.55, 0.75, 47.0)
        self.assertGreater(rest.left_high - rest.left_low, 0.5)
        self.assertLess(tired.left_high, 0.3)

    def test_bands_hold(self) -> None:
        rng = np.random.default_rng(4)
        sizes = list(SIZES.values())
        found = [drawn(sizes[n % len(sizes)], rng) for n in range(400)]
        inside = sum(one.left_low <= left <= one.left_high for left, one in found) / len(found)
        self.assertTrue(0.92 <= inside <= 0.98, inside)
        self.assertLess(sum(one.is_strange for _, one in found) / len(found), 0.01)

    def test_what_is_no_such_cell_is_said(self) -> None:
        self.assertTrue(judge_cell(size_of("LR44"), 3.02).is_strange)
        self.assertIn("No LR44", judge_cell(size_of("LR44"), 0.3).words)
        self.assertFalse(judge_cell(size_of("CR2032"), 3.02).is_strange)

    def test_bad_input(self) -> None:
        size = size_of("LR44")
        for figures in (
            (-0.1,), (math.nan,), (1.5, 1.6, 47.0), (1.5, -0.1, 47.0), (1.5, 1.4, 0.0), (1.5, 1.4, None), (1.5, None, 47.0),
            (1.5, 1.4, 47.0, -40.0), (99.0,),
        ):  # fmt: skip
            with self.subTest(figures):
                self.assertRaises(InvalidInput, judge_cell, size, *figures)


if __name__ == "__main__":
    unittest.main()
