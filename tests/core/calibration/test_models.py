"""Response models against SciPy and statsmodels, and recovery of known truth."""

import math
import unittest
from dataclasses import replace

import numpy as np
import statsmodels.api as sm
from scipy.optimize import curve_fit
from scipy.stats import multivariate_normal, norm

from tests.core.calibration.meters import LIGHTS, readings_of
from violet_dial.core.calibration import models
from violet_dial.core.calibration.readings import Array, tabulate

SIGMA = math.hypot(0.05, 0.06)
TRUTH: dict[models.ModelKind, Array] = {
    "true": np.zeros_like(LIGHTS),
    "even": np.full_like(LIGHTS, 0.68),
    "slope": 0.2 + 0.09 * (LIGHTS - 10),
    "low_falloff": 0.4 + models.low_falloff(LIGHTS, 4.2),
    "low_lift": -0.2 + models.low_lift(LIGHTS, 6.0),
    "high_compression": 0.1 + models.high_compression(LIGHTS, 13.0),
    "falloff_and_compression": 0.3 + models.low_falloff(LIGHTS, 4.4) + models.high_compression(LIGHTS, 13.5),
    "lift_and_compression": -0.1 + models.low_lift(LIGHTS, 6.5) + models.high_compression(LIGHTS, 13.0),
}


class AgainstOtherSolvers(unittest.TestCase):
    def test_shapes_against_curve_fit(self) -> None:
        curves = {
            "low_falloff": (lambda x, a, d: a + np.log2(1 - 2 ** (d - x)), (0.0, 3.0), (-5, -1), (5, 4.98)),
            "low_lift": (lambda x, a, d: a + np.log2(1 + 2 ** (d - x)), (0.0, 5.0), (-5, -1), (5, 15)),
            "high_compression": (lambda x, a, c: a - np.log2(1 + 2 ** (x - c)), (0.0, 14.0), (-5, 5), (5, 21)),
        }
        for kind, (curve, start, low, high) in curves.items():
            with self.subTest(kind):
                table = tabulate(readings_of(TRUTH[kind], scatter=0.05, seed=3))  # type: ignore[index]
                fit = models.fit_model(kind, table.reference, table.error, table.sigma)  # type: ignore[arg-type]
                best, covariance = curve_fit(
                    curve, table.reference, table.error, p0=start, sigma=table.sigma, absolute_sigma=True, bounds=(low, high),
                    xtol=1e-12, ftol=1e-12, gtol=1e-12,
                )  # fmt: skip
                np.testing.assert_allclose(fit.parameters, best, atol=2e-4)  # both stop at about 1e-5 of a stop
                np.testing.assert_allclose(fit.uncertainties, np.sqrt(np.diag(covariance)), rtol=0.01)

    def test_a_cell_with_gamma_against_curve_fit(self) -> None:
        """A zero too low behind a CdS cell of gamma 0.7: the fixed amount is missing from the current (E^gamma)."""
        x = LIGHTS
        table = tabulate(readings_of(0.2 + np.log2(1 - 2 ** (0.7 * (4.0 - x))) / 0.7, scatter=0.03, seed=8))
        fit = models.fit_model("low_falloff", table.reference, table.error, table.u_reading, gamma=0.7)
        best, _ = curve_fit(
            lambda at, a, d: a + np.log2(1 - 2 ** (0.7 * (d - at))) / 0.7, table.reference, table.error, p0=(0.0, 3.0),
            sigma=table.u_reading, bounds=((-5, -1), (5, 4.98)), xtol=1e-12, ftol=1e-12, gtol=1e-12,
        )  # fmt: skip
        np.testing.assert_allclose(fit.parameters, best, atol=5e-4)
        self.assertAlmostEqual(fit.parameters[1], 4.0, delta=0.2)

    def test_linear_models_against_statsmodels(self) -> None:
        table = tabulate(readings_of(TRUTH["slope"], scatter=0.05, seed=4))
        fit = models.fit_model("slope", table.reference, table.error, table.sigma)
        design = sm.add_constant(table.reference - fit.centre_ev100)
        reference = sm.WLS(table.error, design, weights=1 / table.sigma**2).fit()
        np.testing.assert_allclose(fit.parameters, reference.params, rtol=1e-9)
        np.testing.assert_allclose(np.array(fit.covariance), reference.normalized_cov_params, rtol=1e-9, atol=1e-12)

    def test_two_effects_against_curve_fit(self) -> None:
        def curve(x: Array, a: float, d: float, c: float) -> Array:
            shape: Array = a + np.log2(1 - 2 ** (d - x)) - np.log2(1 + 2 ** (x - c))
            return shape

        table = tabulate(readings_of(TRUTH["falloff_and_compression"], scatter=0.05, seed=6))
        fit = models.fit_model("falloff_and_compression", table.reference, table.error, table.u_reading)
        best, covariance = curve_fit(
            curve, table.reference, table.error, p0=(0.0, 4.0, 14.0), sigma=table.u_reading, absolute_sigma=True,
            bounds=((-5, -1, 5), (5, 4.98, 21)), xtol=1e-12, ftol=1e-12, gtol=1e-12,
        )  # fmt: skip
        np.testing.assert_allclose(fit.parameters, best, atol=2e-3)
        np.testing.assert_allclose(np.sqrt(np.diag(np.array(fit.covariance))), np.sqrt(np.diag(covariance)), rtol=0.03)

    def test_aic_against_the_likelihood_with_one_common_reference(self) -> None:
        """AIC = chi-square + 2k; a true meter's readings share the reference's error: one normal of all of them (SciPy)."""
        table = tabulate(readings_of(TRUTH["even"] * 0.1, scatter=0.05, seed=5))
        count = len(table)
        common = np.diag(np.square(table.u_reading)) + table.u_common**2
        loose = np.diag(np.square(table.u_reading))
        fits = {fit.kind: fit for fit in models.fit_models(table, table.error)}
        true, even = fits["true"], fits["even"]
        determinants = float(np.linalg.slogdet(common)[1] - np.linalg.slogdet(loose)[1])
        by_normal = -2 * multivariate_normal(np.zeros(count), common).logpdf(table.error) - determinants
        flat = -2 * norm.logpdf(table.error, even.parameters[0], table.u_reading).sum() + 2
        self.assertAlmostEqual((true.aic or 0.0) - (even.aic or 0.0), by_normal - flat, places=6)

    def test_the_reference_is_in_the_offset_once(self) -> None:
        table = tabulate(readings_of(TRUTH["even"], scatter=0.05, seed=5))
        fit = models.fit_model("even", table.reference, table.error, table.u_reading, table.u_common)
        by_hand = math.hypot(0.06 / math.sqrt(len(table)), 0.05)
        self.assertAlmostEqual(fit.uncertainties[0], by_hand, places=9)
        _, u = models.average((replace(fit, weight=1.0),), np.array([9.0]))
        self.assertAlmostEqual(float(u[0]), by_hand, places=9)

    def test_weights_by_their_definition(self) -> None:
        fits = models.fit_models(*_table("low_falloff"))
        scores = np.array([fit.aic for fit in fits], dtype=float)
        expected = np.exp(-0.5 * (scores - scores.min()))
        np.testing.assert_allclose([fit.weight for fit in fits], expected / expected.sum(), rtol=1e-9)


def _table(kind: models.ModelKind, scatter: float = 0.05, seed: int = 1):  # type: ignore[no-untyped-def]
    table = tabulate(readings_of(TRUTH[kind], scatter=scatter, seed=seed))
    return table, table.error


class KnownTruth(unittest.TestCase):
    def test_clean_meters_are_named(self) -> None:
        for kind in models.KINDS:
            with self.subTest(kind):
                self.assertEqual(models.chosen(models.fit_models(*_table(kind, 0.0))).kind, kind)

    def test_noisy_meters_are_mostly_named(self) -> None:
        # at the stated scatter; "true" and "even" lose some to chance by the nature of AICc
        for kind in models.KINDS:
            named = sum(models.chosen(models.fit_models(*_table(kind, 0.05, seed))).kind == kind for seed in range(40))
            self.assertGreaterEqual(named, 32, kind)

    def test_parameters_lie_within_their_uncertainty(self) -> None:
        truth = {"low_falloff": (0.4, 4.2), "low_lift": (-0.2, 6.0), "high_compression": (0.1, 13.0)}
        for kind, parameters in truth.items():
            offs = []
            for seed in range(60):
                table, error = _table(kind, SIGMA, seed)  # type: ignore[arg-type]
                fit = models.fit_model(kind, table.reference, error, table.sigma)  # type: ignore[arg-type]
                offs.append((np.array(fit.parameters) - parameters) / fit.uncertainties)
            spread = np.std(np.array(offs), axis=0)
            self.assertTrue(np.all((spread > 0.7) & (spread < 1.35)), (kind, spread))  # 60 draws: about 10 % each way


class TooFew(unittest.TestCase):
    def test_each_model_says_what_it_needs(self) -> None:
        table = tabulate(readings_of(np.array([0.6, 0.6]), np.array([8.0, 12.0])))
        fits = {fit.kind: fit for fit in models.fit_models(table, table.error)}
        self.assertTrue(fits["true"].fitted)
        self.assertEqual((fits["even"].fitted, fits["even"].need), (False, 3))
        self.assertEqual((fits["low_falloff"].fitted, fits["low_falloff"].need), (False, 4))
        self.assertEqual(fits["slope"].weight, 0.0)

    def test_one_light_many_times_is_not_a_shape(self) -> None:
        table = tabulate(readings_of(np.full(9, 0.6), np.full(9, 10.0)))
        fits = {fit.kind: fit for fit in models.fit_models(table, table.error)}
        self.assertFalse(fits["slope"].fitted)
        self.assertGreater(fits["slope"].need, 9)

    def test_nothing_at_all(self) -> None:
        table = tabulate(())
        self.assertIsNone(models.chosen(models.fit_models(table, table.error)))


class Averaging(unittest.TestCase):
    def test_between_the_models_and_never_surer_than_the_best(self) -> None:
        fits = models.fit_models(*_table("even", 0.05, 9))
        x = np.array([2.0, 10.0, 18.0])
        mean, u = models.average(fits, x)
        values = np.array([models.predict(fit, x)[0] for fit in fits if fit.weight > 1e-6])
        self.assertTrue(np.all((mean >= values.min(axis=0)) & (mean <= values.max(axis=0))))
        self.assertGreater(u[0], u[1])
