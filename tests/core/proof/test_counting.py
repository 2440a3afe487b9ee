"""Counts beside SciPy, statsmodels, and sums over every order."""

import itertools
import unittest

import numpy as np
from scipy.stats import binom, fisher_exact
from statsmodels.stats.proportion import proportion_confint

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.counting import better, bunched, chance_less, clean_run, interval, rate, upper, worse
from violet_dial.core.proof.follows import every, follow
from violet_dial.core.proof.log import Firing, epochs


def shots(setting: str, flags: str, after: str = "") -> tuple[Firing, ...]:
    """Firings at a setting, x for a failure."""
    return tuple(Firing(setting, "did not open" if one == "x" else "", after) for one in flags)


class Intervals(unittest.TestCase):
    def test_as_statsmodels_has_them(self) -> None:
        """Clopper-Pearson, by statsmodels' method "beta"."""
        for n in (1, 4, 10, 59, 300):
            for failed in sorted({0, 1, n // 2, n}):
                expected = proportion_confint(failed, n, alpha=0.05, method="beta")
                np.testing.assert_allclose(interval(failed, n), np.nan_to_num(expected, nan=0.0), atol=1e-10)

    def test_cover_what_they_say_for_every_count(self) -> None:
        for n in (10, 30):
            held = np.array([interval(k, n) for k in range(n + 1)])
            for chance in np.linspace(0.01, 0.99, 60):
                inside = (held[:, 0] <= chance) & (chance <= held[:, 1])
                self.assertGreaterEqual(binom.pmf(np.arange(n + 1), n, chance)[inside].sum(), 0.95)

    def test_the_table_of_clean_runs(self) -> None:
        """ln(1 - c)/ln(1 - p); 59 at 5 % is the usual figure (common practice)."""
        self.assertEqual([clean_run(one) for one in (0.1, 0.05, 0.01)], [29, 59, 299])
        self.assertLess(upper(0, 59), 0.05)
        self.assertGreater(upper(0, 58), 0.05)

    def test_nonsense_is_refused(self) -> None:
        for failed, n in ((-1, 3), (4, 3)):
            with self.assertRaises(InvalidInput):
                interval(failed, n)
        with self.assertRaisesRegex(InvalidInput, "share between 0 and 1"):
            clean_run(1.0)


class Compared(unittest.TestCase):
    def test_before_and_after_is_fishers_test(self) -> None:
        for a, n, b, m in ((3, 10, 0, 30), (8, 20, 2, 20), (0, 5, 0, 9), (2, 4, 4, 4)):
            before, after = rate("", shots("B", "x" * a + "." * (n - a))), rate("", shots("B", "x" * b + "." * (m - b)))
            expected = fisher_exact([[b, m - b], [a, n - a]], alternative="less").pvalue
            self.assertAlmostEqual(better(before, after).by_luck, expected, 9)

    def test_the_chance_that_it_got_better_is_true_over_drawn_devices(self) -> None:
        rng = np.random.default_rng(3)
        before, after = rate("", shots("B", "xxx.......")), rate("", shots("B", "x" + "." * 19))
        drawn_before, drawn_after = rng.beta(4, 8, 200_000), rng.beta(2, 20, 200_000)
        self.assertAlmostEqual(chance_less(after, before), float((drawn_after < drawn_before).mean()), 2)

    def test_one_setting_worse_is_fishers_test_times_the_settings(self) -> None:
        log = shots("1/60", "." * 12) + shots("1/125", "." * 11 + "x") + shots("1/250", "xx.x..x.x...")
        found = worse(log)
        assert found is not None
        expected = 3 * fisher_exact([[5, 7], [1, 23]], alternative="greater").pvalue
        self.assertEqual(found.setting, "1/250")
        self.assertAlmostEqual(found.p, expected, 9)
        self.assertIsNone(worse(shots("1/60", "x....") + shots("1/250", "xx...")))

    def test_bunches_against_every_order(self) -> None:
        for flags in ("xxx.....", "x..x.x..", "....xxxx", "x......x"):
            runs = 1 + sum(a != b for a, b in itertools.pairwise(flags))
            orders = set(itertools.permutations(flags))
            few = sum(1 + sum(a != b for a, b in itertools.pairwise(one)) <= runs for one in orders)
            self.assertAlmostEqual(bunched(shots("B", flags)), few / len(orders), 9, flags)


class Followed(unittest.TestCase):
    def test_trend_against_every_way_to_fail(self) -> None:
        """All ways to spread the failures of two epochs over their firings."""
        rests = ((0.0, 0.0, 0.5, 9.0, 9.0), (0.0, 9.0, 0.0, 0.5))
        failed = ((3, 4), (1,))
        log = tuple(
            Firing("B", "jammed" if place in failed[e] else "", f"{e}", rest_h=rest)
            for e, several in enumerate(rests) for place, rest in enumerate(several)
        )  # fmt: skip
        score = {0.0: 0, 0.5: 1, 9.0: 3}
        sums = [
            sum(score[rests[0][p]] for p in one) + sum(score[rests[1][p]] for p in two)
            for one in itertools.combinations(range(5), 2) for two in itertools.combinations(range(4), 1)
        ]  # fmt: skip
        seen = sum(score[rests[e][p]] for e in (0, 1) for p in failed[e])
        expected = sum(one >= seen for one in sums) / len(sums)
        found = next(one for one in every(log) if one.factor == "rest")
        self.assertAlmostEqual(found.p, expected, 9)
        self.assertEqual([name for name, _several in epochs(log)], ["0", "1"])

    def test_a_night_of_rest_is_named_and_nothing_where_it_is_luck(self) -> None:
        rng = np.random.default_rng(8)
        rests = rng.choice([0.02, 0.5, 10.0], 60)
        ill = tuple(Firing("B", "no magnet" if r > 6 and k % 2 else "", rest_h=float(r)) for k, r in enumerate(rests))
        self.assertEqual(follow(ill)[0].factor, "rest")
        self.assertEqual(follow(ill)[0].rate_out[0], 0)
        luck = tuple(Firing("B", "x" if k % 7 == 0 else "", rest_h=float(r)) for k, r in enumerate(rests))
        self.assertEqual(follow(luck), ())


if __name__ == "__main__":
    unittest.main()
