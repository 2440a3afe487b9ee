"""A cell from a discharge that was measured: a known cell is got back, and what no cell does is refused."""

import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.power.cells import SIZES, Size
from violet_dial.core.power.measured import cell_from_points, fit_discharge

RNG = np.random.default_rng(5)


def discharge(size: Size, loads: tuple[float, ...], count: int = 240, noise_v: float = 0.002) -> tuple[np.ndarray, ...]:
    """Known truth: the cell emptied through loads in turn, its charge counted by the current."""
    left, time, rows = 1.0, 0.0, []
    step = 1.0 / count
    for n in range(count + 1):
        load = loads[n % len(loads)]
        rest, ohm = (float(size.chemistry.rest_v(np.array(left))), size.ohm * float(size.chemistry.rise_at(np.array(left))))
        volts = rest if np.isinf(load) else rest * load / (load + ohm)
        rows.append((time, volts + RNG.normal(0, noise_v), load))
        taken = min(loads)
        time += step * size.ah * 3600 / (rest / (taken + ohm))
        left = max(left - step, 0.0)
    return tuple(np.array(column) for column in zip(*rows, strict=True))


class Fits(unittest.TestCase):
    def test_volts_and_charge_of_one_load(self) -> None:
        true = SIZES["LR44"]
        found = fit_discharge("mine", *discharge(true, (680.0,)))
        self.assertFalse(found.has_ohm)
        self.assertIn("cannot be told", found.words)
        self.assertAlmostEqual(found.size.ah, true.ah, delta=0.02 * true.ah)
        left = np.linspace(0.1, 1.0, 10)
        loaded = true.chemistry.rest_v(left) * 680 / (680 + true.ohm * true.chemistry.rise_at(left))
        self.assertLess(float(np.abs(found.size.chemistry.rest_v(left) - loaded).max()), 0.02)
        self.assertLess(found.rms_v, 0.02)

    def test_resistance_where_the_load_changes(self) -> None:
        true = SIZES["SR44"]
        time, volts, load = discharge(true, (150.0, 150.0, 1000.0))
        found = fit_discharge("mine", time, volts, load)
        self.assertTrue(found.has_ohm)
        self.assertAlmostEqual(found.size.ohm, true.ohm, delta=0.25 * true.ohm)

    def test_what_no_cell_does_is_refused(self) -> None:
        time = np.arange(20.0)
        for volts, load, error in (
            (np.linspace(1.2, 1.6, 20), np.full(20, 100.0), InvalidInput),  # it would charge itself
            (np.full(20, -1.0), np.full(20, 100.0), InvalidInput),
            (np.full(20, 1.5), np.full(20, np.inf), NotEnoughData),  # nothing was taken
            (np.full(20, 1.5), np.full(20, -5.0), InvalidInput),
        ):
            self.assertRaises(error, fit_discharge, "x", time, volts, load)
        self.assertRaises(NotEnoughData, fit_discharge, "x", time[:5], np.full(5, 1.5), np.full(5, 100.0))
        self.assertRaises(InvalidInput, fit_discharge, "x", time[::-1], np.full(20, 1.5), np.full(20, 100.0))

    def test_points_that_are_no_cell(self) -> None:
        left = np.array([0.0, 0.5, 1.0])
        good = (left, np.array([1.0, 1.3, 1.5]), np.array([20.0, 8.0, 5.0]))
        self.assertAlmostEqual(float(cell_from_points("x", *good, 0.1).chemistry.rest_v(np.array(0.75))), 1.4)
        for place, wrong, words in (
            (0, [-0.2, 0.5, 1.0], "a share from 0 to 1"), (1, [1.5, 1.3, 1.0], "charges itself"), (2, [0.0, 8.0, 5.0], "Ω"),
            (0, [0.0, 0.5, 0.5], "each share once"),
        ):  # fmt: skip
            figures = list(good)
            figures[place] = np.array(wrong)
            self.assertRaisesRegex(InvalidInput, words, cell_from_points, "x", *figures, 0.1)
        self.assertRaises(InvalidInput, cell_from_points, "x", *good, -1.0)
        self.assertRaises(InvalidInput, cell_from_points, "x", *good, 0.1, {"cells": 9.0})


if __name__ == "__main__":
    unittest.main()
