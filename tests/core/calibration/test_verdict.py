"""The whole judgement on meters of known truth, and which reading comes next."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.calibration.meters import LIGHTS, readings_of
from violet_dial.core.calibration import models
from violet_dial.core.calibration.assess import CheckPlan, assess, response
from violet_dial.core.calibration.next_reading import suggest_next
from violet_dial.core.calibration.verdict import Verdict, decide, shape_figures
from violet_dial.core.records.light import Adjuster, LightReading

PLAN = CheckPlan()


def verdict_on(readings: tuple[LightReading, ...], plan: CheckPlan = PLAN) -> Verdict:
    return decide(assess(readings, plan))


class Verdicts(unittest.TestCase):
    def test_good(self) -> None:
        for seed in range(20):
            self.assertEqual(verdict_on(readings_of(0 * LIGHTS, scatter=0.05, seed=seed)).kind, "good")

    def test_even_error_is_adjusted(self) -> None:
        verdict = verdict_on(readings_of(0 * LIGHTS + 0.68, scatter=0.05))
        self.assertEqual((verdict.kind, verdict.shift_helps), ("adjust", True))
        self.assertIn("high", verdict.headline)

    def test_stepped_adjuster(self) -> None:
        plan = CheckPlan(adjuster=Adjuster(step_stops=0.5))
        found = assess(readings_of(0 * LIGHTS + 0.68), plan)
        self.assertAlmostEqual(found.shift.stops, -0.5)
        self.assertTrue(all(abs(level.after_stops - 0.18) < 0.01 for level in found.levels))

    def test_a_slope_that_is_not_proved_is_not_called_even_either(self) -> None:
        """Over four stops of light: which of even, open and growing is said of a true slope, and of an even error."""
        lights = np.linspace(7.0, 11.0, 5)
        said = {}
        for slope in (0.0, 0.06):
            rng = np.random.default_rng(4)
            texts = []
            for _ in range(60):
                error = 0.6 + slope * (lights - 9.0) + rng.normal(0, 0.06, 5)
                readings = tuple(LightReading(float(x), float(x + e)) for x, e in zip(lights, error, strict=True))
                texts.append(shape_figures(assess(readings, PLAN)))
            said[slope] = sum("evenly" in text for text in texts), sum("is open" in text for text in texts)
            for text in texts:
                if "is open" in text:
                    self.assertIn("read at Ev 7 and 11 again", text)
        self.assertGreater(said[0.0][0], 45)
        self.assertLess(said[0.06][0], 12)

    def test_fall_off_is_limited_to_a_range(self) -> None:
        readings = readings_of(models.low_falloff(LIGHTS, 4.8), scatter=0.03)
        verdict = verdict_on(readings)
        self.assertEqual(verdict.kind, "limited to a range")
        found = assess(readings, PLAN)
        self.assertGreater(found.shift.usable_from_ev100 or 0, 5.0)
        self.assertEqual(found.shift.usable_to_ev100, 15.0)

    def test_wreck_is_renewed(self) -> None:
        verdict = verdict_on(readings_of(-0.55 * (LIGHTS - 5.0), scatter=0.03))
        self.assertEqual((verdict.kind, verdict.repair), ("renew the cell", "renew the cell"))

    def test_dead_asks_for_tracing_first(self) -> None:
        verdict = verdict_on(readings_of(6.0 - LIGHTS))
        self.assertEqual(verdict.kind, "renew the cell")
        self.assertIn("Trace leads", verdict.reason)

    def test_too_few(self) -> None:
        self.assertEqual(verdict_on(()).kind, "take again")
        self.assertIn("take 1 more", verdict_on(readings_of(np.zeros(2), np.array([8.0, 12.0]))).reason)

    def test_undecided_is_taken_again(self) -> None:
        """0.30 with a guard band against a third: no span is promised as found; a shift would do."""
        verdict = verdict_on(readings_of(0 * LIGHTS + 0.30))
        self.assertIn(verdict.kind, ("take again", "adjust"))
        readings = readings_of(0.25 * np.sin(LIGHTS), scatter=0.02)[::3]
        undecided = verdict_on(tuple(replace(one, u_reference=0.2) for one in readings))
        self.assertEqual(undecided.kind, "take again")

    def test_a_span_is_promised_with_its_guard_band(self) -> None:
        found = assess(readings_of(0.09 * (LIGHTS - 10.0), scatter=0.02), PLAN)
        shift = found.shift
        self.assertGreater(found.unguarded.span_ev, shift.span_ev)
        low, high = shift.usable_from_ev100, shift.usable_to_ev100
        assert low is not None and high is not None
        for level in found.levels:
            if low <= level.ev100 <= high:
                self.assertLessEqual(abs(level.after_stops) + level.expanded_uncertainty_stops, level.tolerance_stops + 1e-6)

    def test_sticky_is_freed_first(self) -> None:
        up = readings_of(0 * LIGHTS - 0.4, direction="rising")
        verdict = verdict_on(up + readings_of(0 * LIGHTS + 0.4, direction="falling"))
        self.assertEqual((verdict.kind, verdict.repair), ("take again", "free the pointer"))

    def test_an_unknown_shape_falls_back_to_plain_means(self) -> None:
        lights = np.arange(4.0, 16.1, 0.5)
        error = 0.5 * np.sin((lights - 4) / 12 * 2 * np.pi)
        found = assess(readings_of(error, lights), PLAN)
        np.testing.assert_allclose([level.error_stops for level in found.levels], error, atol=1e-9)
        curve = response(found)
        self.assertAlmostEqual(float(np.interp(7.0, curve.ev100, curve.before)), 0.5, places=2)


class NextReadings(unittest.TestCase):
    def ask(self, readings: tuple[LightReading, ...]):  # type: ignore[no-untyped-def]
        plan = CheckPlan(range_from_ev100=5.0, range_to_ev100=15.0)
        return suggest_next(assess(readings, plan), plan, 0.078)

    def test_spreads_first(self) -> None:
        asked: list[float | None] = []
        readings: tuple[LightReading, ...] = ()
        for _ in range(5):
            found = self.ask(readings)
            asked.append(found.ev100)
            readings += (LightReading(found.ev100, found.ev100 + 0.5, "rising"),)
        self.assertEqual(sorted(asked), [5.0, 8.0, 10.0, 12.0, 15.0])
        self.assertEqual(asked[0], 10.0)

    def test_then_the_other_direction(self) -> None:
        found = self.ask(readings_of(0 * LIGHTS, direction="rising"))
        self.assertEqual(found.direction, "falling")
        self.assertIn("sticky", found.reason)

    def test_a_light_again_where_no_shape_fits(self) -> None:
        lights = np.arange(5.0, 16.0)
        readings = readings_of(0 * lights, lights, scatter=0.5, seed=3)
        found = self.ask(readings)
        self.assertIn("twice more", found.reason)
        again = tuple(LightReading(found.ev100, found.ev100 + off) for off in (-0.5, 0.6))
        self.assertTrue(assess((*readings, *again), PLAN).flags.erratic.raised)

    def test_then_where_the_models_part(self) -> None:
        # a fall-off half seen: the dim end tells most, though the bright end was read less often
        lights = np.array([7.0, 8.0, 10.0, 12.0, 14.0, 15.0, 8.0, 5.5])
        found = self.ask(readings_of(models.low_falloff(lights, 4.3), lights, scatter=0.05, seed=2))
        self.assertIsNotNone(found.ev100)
        self.assertLessEqual(found.ev100, 7.0)

    def test_stops_when_enough_is_known(self) -> None:
        readings = readings_of(0 * LIGHTS, direction="rising") + readings_of(0 * LIGHTS, direction="falling")
        self.assertIsNone(self.ask(readings).ev100)

    def test_information_against_simulated_outcomes(self) -> None:
        # expected drop of entropy by sums must equal the mean drop over outcomes drawn from the same mixture
        from violet_dial.core.calibration.next_reading import _mixture_information

        weights, means, spreads = (np.array([0.5, 0.3, 0.2]), np.array([[0.0], [0.4], [-0.6]]), np.array([[0.1], [0.15], [0.2]]))
        rng = np.random.default_rng(0)
        kinds = rng.choice(3, 40_000, p=weights)
        drawn = rng.normal(means[kinds, 0], spreads[kinds, 0])
        density = weights[:, None] * np.exp(-0.5 * ((drawn - means) / spreads) ** 2) / spreads
        after = density / density.sum(axis=0)
        entropy = -np.sum(after * np.log2(np.maximum(after, 1e-300)), axis=0).mean()
        before = -np.sum(weights * np.log2(weights))
        self.assertAlmostEqual(float(_mixture_information(weights, means, spreads)[0]), before - entropy, delta=0.01)
