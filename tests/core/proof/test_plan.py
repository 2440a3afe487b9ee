"""Plans keep their errors, adapt to how the fault used to show itself, and say what is left."""

import unittest

from scipy.stats import binom

from bench.proofs import tried
from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.log import Firing
from violet_dial.core.proof.plan import Claim, old_fault_run, plan
from violet_dial.core.proof.said import plan_said
from violet_dial.core.proof.sequential import fixed_plan, sequence, stands

CLEAN = Firing("1/60", after="cleaned")


class Sequential(unittest.TestCase):
    def test_errors_are_what_is_stated(self) -> None:
        """2,000 invented repairs each; the bench makes 20,000."""
        plan = sequence(0.05, 0.95)
        self.assertLessEqual(plan.false_claim, 0.05)
        false, _fired = tried(plan, plan.claim, 2000)
        power, fired = tried(plan, plan.good, 2000)
        self.assertAlmostEqual(false, plan.false_claim, delta=0.015)
        self.assertAlmostEqual(power, plan.power, delta=0.012)
        self.assertAlmostEqual(fired, plan.expected, delta=3)
        self.assertLess(fired, 0.75 * fixed_plan(0.05, 0.95).n)

    def test_the_fixed_plan_is_the_least_by_the_binomial(self) -> None:
        fixed = fixed_plan(0.05, 0.95)
        self.assertLessEqual(binom.cdf(fixed.allowed, fixed.n, 0.05), 0.05)
        self.assertGreater(binom.cdf(fixed.allowed, fixed.n - 1, 0.05), 0.05)
        self.assertLess(binom.cdf(fixed.allowed - 1, 93, 0.005), 0.95)  # one failure fewer allowed: a good one fails too often

    def test_a_failure_costs_more_clean_firings_and_two_early_ones_end_it(self) -> None:
        test = sequence(0.05, 0.95)
        self.assertEqual(stands(test, ()), ("going", 65))
        self.assertEqual(stands(test, (False,) * 64), ("going", 1))
        self.assertEqual(stands(test, (False,) * 65), ("proved", 0))
        self.assertEqual(stands(test, (False, True)), ("going", 113))
        self.assertEqual(stands(test, (True, True)), ("failed", 0))


class Plans(unittest.TestCase):
    def before(self) -> tuple[Firing, ...]:
        """Fails half of the mornings at 1/250."""
        ill = tuple(Firing("1/250", "did not open" if k % 2 else "", rest_h=10.0) for k in range(10))
        return (
            ill + tuple(Firing("1/250", rest_h=0.01) for _ in range(20)) + tuple(Firing("1/60", rest_h=0.01) for _ in range(50))
        )

    def test_sixty_in_a_row_do_not_prove_a_fault_of_the_morning(self) -> None:
        row = tuple(Firing("1/250", after="cleaned", rest_h=0.01) for _ in range(70))
        found = plan((*self.before(), *row), Claim())
        self.assertEqual(found.verdict, "going")
        self.assertEqual((found.provoked.setting, found.provoked.rest_h), ("1/250", 6.0))
        self.assertEqual(found.left, old_fault_run(5, 10, 0.95))
        self.assertEqual(found.days, found.left)
        mornings = tuple(Firing("1/250", after="cleaned", rest_h=9.0) for _ in range(found.left))
        self.assertEqual(plan((*self.before(), *row, *mornings), Claim()).verdict, "proved")

    def test_it_says_what_is_left(self) -> None:
        some = tuple(Firing("1/60", after="cleaned", rest_h=0.0) for _ in range(21))
        self.assertRegex(
            plan_said(plan((*self.before(), *some), Claim())),
            r"^44 more clean firings, \d of them at 1/250, first of the morning",
        )
        shares = dict(plan((*self.before(), *some), Claim()).by_setting)
        self.assertEqual(sum(shares.values()), 44)
        self.assertGreater(shares["1/250"], shares["1/60"])  # what was not fired yet catches up

    def test_schools(self) -> None:
        for school, left in (("sequential", 65), ("fixed", 59), ("film", 72)):
            self.assertEqual(plan((CLEAN,) * 0, Claim(school=school)).left, left)  # type: ignore[arg-type]
        failing = (CLEAN, Firing("1/60", "jammed", "cleaned"))
        self.assertEqual(plan(failing, Claim(school="fixed")).verdict, "failed")
        self.assertEqual(plan(failing, Claim()).verdict, "going")
        self.assertEqual(plan((CLEAN,) * 60, Claim(school="film")).left, 12)
        self.assertEqual(plan((CLEAN,) * 72, Claim(school="film")).verdict, "proved")

    def test_claims_out_of_bounds_are_refused(self) -> None:
        for claim in (Claim(0.0), Claim(0.9), Claim(confidence=1.0), Claim(frames=0)):
            with self.assertRaises(InvalidInput):
                plan((CLEAN,), claim)


if __name__ == "__main__":
    unittest.main()
