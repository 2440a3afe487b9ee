"""Two units of one circuit: the arithmetic beside SciPy, and the faulty part named in simulation."""

import math
import unittest
from pathlib import Path

import numpy as np
from scipy.stats import multivariate_t

import violet_dial
from bench.sisters import compared
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.laws import TAIL
from violet_dial.core.mapping.differing import DifferenceReading, Differing, _conditioned

CIRCUITS = Path(violet_dial.__file__).parent / "assets" / "circuits"


class Arithmetic(unittest.TestCase):
    def test_the_law_of_several_differences_is_scipys(self) -> None:
        """A multivariate t of the same covariance; the rest as a normal one has it, given the first."""
        rng = np.random.default_rng(3)
        mean, spread, own = rng.normal(size=(2, 5)), rng.normal(size=(2, 5, 4)), rng.uniform(0.1, 0.4, size=(2, 5))
        read = rng.normal(size=3)
        fit, expected, variance = _conditioned(mean, spread, read, 3, own)
        for h in range(2):
            whole = spread[h] @ spread[h].T + np.diag(own[h])
            theirs = multivariate_t(mean[h, :3], whole[:3, :3] * (TAIL - 2) / TAIL, df=TAIL).logpdf(read)
            self.assertAlmostEqual(fit[h], theirs, places=9)
            gain = whole[3:, :3] @ np.linalg.inv(whole[:3, :3])
            np.testing.assert_allclose(expected[h], mean[h, 3:] + gain @ (read - mean[h, :3]))
            np.testing.assert_allclose(variance[h], np.diag(whole[3:, 3:] - gain @ whole[3:, :3].T))

    def test_what_is_wrong_in_both_is_no_difference(self) -> None:
        """A sketch a fifth too high everywhere accuses nothing: only the difference counts."""
        circuit = read_spice((CIRCUITS / "cds-series.cir").read_text(encoding="utf-8"))
        now = usual_setting(circuit)
        differing = Differing(circuit, circuit.nodes)
        off = [
            DifferenceReading(node, 1.2 * float(one.mean[0]), 1.2 * float(one.mean[0]), now)
            for node, one in zip(differing.nodes, differing.predicted(now), strict=True)
        ]
        judgement = differing.judge(off, now)
        self.assertGreater(judgement.none, judgement.faults[0][2])
        alone = differing.judge([], now)
        self.assertTrue(math.isclose(alone.none + alone.unlisted + sum(c for _, _, c in alone.faults), 1.0, abs_tol=0.4))
        self.assertEqual(set(alone.bits), set(differing.nodes))


class Named(unittest.TestCase):
    def test_the_faulty_neighbourhood_is_named_in_most_of_some_pairs(self) -> None:
        """Units drawn over two circuits; the answer comes from operating points with the fault as a part. All 300: bench."""
        found = [compared((stem, seed)) for stem in ("cds-series", "cds-two-range") for seed in range(70, 76)]
        pairs = [one for one in found if one is not None]
        self.assertGreaterEqual(len(pairs), 10)
        self.assertGreaterEqual(sum(one.near for one in pairs), len(pairs) - 1)
        self.assertLessEqual(sum(one.asked for one in pairs), 0.55 * sum(one.whole for one in pairs))


if __name__ == "__main__":
    unittest.main()
