"""When a reading stands still: worked sequences, many invented touches, and the line fit against SciPy."""

import math
import unittest

import numpy as np
from scipy import stats

from bench.steady import play
from bench.touches import KINDS, some_touch
from violet_dial.core.errors import InvalidInput
from violet_dial.core.steady.detector import Detector, SteadyVerdict
from violet_dial.core.steady.samples import Accuracy, Function, Sample

AIR_V = (0.006, -0.004, 0.009, 0.001, -0.007)


class Feeding(unittest.TestCase):
    def setUp(self) -> None:
        self.detector = Detector()
        self.at_s = 0.0

    def feed(self, values: list[float], function: Function = "volt", full_scale: float = 2.0) -> list[SteadyVerdict]:
        """Values at ten a second; what was seen after each."""
        found = []
        for value in values:
            self.at_s += 0.1
            found.append(self.detector.feed(Sample(self.at_s, value, function, full_scale)))
        return found

    def air(self, seconds: float = 1.0) -> list[SteadyVerdict]:
        return self.feed([AIR_V[n % 5] for n in range(round(seconds * 10))])


class Sequences(Feeding):
    def test_a_touch_is_taken_once_and_again_only_after_the_leads_were_lifted(self) -> None:
        self.assertEqual(self.air()[-1].kind, "open")
        seen = self.feed([1.52] * 8)
        fresh = [one for one in seen if one.fresh]
        self.assertTrue(fresh)
        self.assertAlmostEqual(fresh[0].value, 1.52)
        self.detector.taken()
        self.assertFalse(any(one.fresh for one in self.feed([1.52] * 40)))
        self.air()
        self.assertTrue(self.feed([1.52] * 8)[-1].fresh)

    def test_probes_that_lay_there_from_the_start_are_taken_once(self) -> None:
        self.assertTrue(self.feed([1.52] * 8)[-1].fresh)
        self.detector.taken()
        self.assertFalse(any(one.fresh for one in self.feed([1.52] * 40)))

    def test_a_bounce_after_the_take_is_no_new_touch(self) -> None:
        self.air()
        self.feed([1.52] * 8)
        self.detector.taken()
        self.assertFalse(any(one.fresh for one in self.feed([0.004, -0.003] + [1.52] * 20)))

    def test_a_quick_hand_is_heard_however_short_the_air_was_known_for_air(self) -> None:
        self.air()
        self.feed([6.0] * 8, full_scale=20.0)
        self.detector.taken()
        for n, wait_s in enumerate((0.2, 0.02, 0.02, 0.02, 0.22, 0.12, 0.1)):  # a meter that changes its range is late
            self.at_s += wait_s - 0.1
            self.feed([AIR_V[n % 5]], full_scale=0.2)
        self.assertTrue(any(one.fresh for one in self.feed([3.957] * 8, full_scale=20.0)))

    def test_a_switch_turned_under_the_probes_gives_a_new_reading(self) -> None:
        self.air()
        self.feed([1.52] * 8)
        self.detector.taken()
        self.assertTrue(self.feed([0.95] * 10)[-1].fresh)

    def test_what_still_drifts_is_not_steady(self) -> None:
        self.air()
        ramp = self.feed([1.0 + 0.01 * n for n in range(40)])  # a tenth of a volt a second
        self.assertNotIn("steady", {one.kind for one in ramp[5:]})

    def test_a_photoresistor_that_creeps_is_waited_for(self) -> None:
        self.feed([math.inf] * 10, "ohm")
        values = [10_000 * (1 + 0.3 * math.exp(-n / 20)) for n in range(200)]  # two seconds' time constant
        taken = next(one for one in self.feed(values, "ohm", 2e4) if one.kind == "steady")
        self.assertLess(abs(taken.value - 10_000), 100)

    def test_zero_volts_needs_leads_seen_in_the_air_before(self) -> None:
        quiet = self.feed([0.0] * 20)
        self.assertFalse(any(one.fresh for one in quiet), "quiet leads in the air look the same")
        self.assertTrue(quiet[-1].doubtful)  # only the person can say
        self.air()
        touched = self.feed([0.0001] * 10)[-1]
        self.assertTrue(touched.fresh)
        self.assertFalse(touched.doubtful)
        self.detector.taken()
        self.assertFalse(self.feed([0.0001] * 10)[-1].doubtful)  # it is the touch that was taken

    def test_leads_in_the_air_have_calm_spells_and_the_meter_changes_its_range(self) -> None:
        rng = np.random.default_rng(6)
        self.feed(list(rng.normal(0.0, 3e-3, 8)))
        calm = self.feed([0.004, 0.002, 0.0, -0.002, -0.004, -0.004, -0.006, -0.003])
        self.assertTrue(all(one.kind == "open" for one in calm))
        other_range = self.feed(list(rng.normal(0.0, 3e-3, 4)), "volt", 0.2)
        self.assertTrue(all(one.kind == "open" for one in other_range))
        self.assertTrue(self.feed([0.0] * 8, "volt", 0.2)[-1].fresh)  # a point at zero, after all that

    def test_beyond_the_range_is_open_leads_on_ohms_and_overload_on_volts(self) -> None:
        self.assertEqual(self.feed([math.inf], "ohm")[-1].kind, "open")
        self.assertEqual(self.feed([math.inf], "volt")[-1].kind, "overload")

    def test_another_range_or_function_begins_anew(self) -> None:
        self.air()
        self.assertEqual(self.feed([1.9] * 8)[-1].kind, "steady")
        self.assertEqual(self.feed([1.9], full_scale=20.0)[-1].kind, "settling")
        self.assertEqual(self.feed([1.9] * 3, "ohm")[-1].kind, "settling")

    def test_noise_alone_is_hunting_and_a_long_silence_forgets(self) -> None:
        self.air()
        rng = np.random.default_rng(3)
        seen = [one.kind for one in self.feed(list(1.5 + 0.2 * rng.standard_normal(30)))]
        self.assertNotIn("steady", seen)
        self.assertGreater(seen.count("hunting"), 15)
        self.at_s += 10
        self.assertEqual(self.feed([1.5])[-1].kind, "settling")

    def test_the_wait_said_while_settling_is_of_the_right_size(self) -> None:
        self.feed([math.inf] * 5, "ohm")
        seen = self.feed([1000 + 500 * math.exp(-n / 15) for n in range(200)], "ohm", 2e3)
        said = seen[29].remaining_s
        steady = next(n for n, one in enumerate(seen) if one.kind == "steady")
        self.assertAlmostEqual(said, (steady - 29) * 0.1, delta=2.0)


class ManyTouches(unittest.TestCase):
    def test_hardly_any_false_or_missed_over_all_kinds(self) -> None:
        found = [
            play(some_touch(kind, np.random.default_rng([77, n, place]), 10.0))
            for place, kind in enumerate(KINDS)
            for n in range(12)
        ]
        self.assertLessEqual(sum(one.false for one in found), 1)
        self.assertLessEqual(sum(one.missed for one in found), 2)


class Uncertainty(unittest.TestCase):
    def test_standard_error_agrees_with_scipy(self) -> None:
        """Reference: scipy.stats.linregress on the same window."""
        rng = np.random.default_rng(5)
        detector, verdict = Detector(), SteadyVerdict("open")
        for n in range(40):
            verdict = detector.feed(Sample(n * 0.1, 1.5 + 3e-4 * rng.standard_normal(), "volt"))
        times = np.array([one.at_s for one in verdict.window])
        values = np.array([one.value for one in verdict.window])
        line = stats.linregress(times, values)
        left = values - line.intercept - line.slope * times
        u_mean = math.sqrt(left @ left / (len(left) - 2) / len(left))
        expected = math.hypot(u_mean, line.slope * (times[-1] - times[0]) / math.sqrt(12))
        self.assertAlmostEqual(verdict.u, expected, delta=1e-9)

    def test_stated_limits_are_a_rectangle(self) -> None:
        """JCGM 100:2008, 4.3.7: a half-width a gives a / sqrt(3). 0.5 % of 2 V and 2 mV: 12 mV / sqrt(3)."""
        self.assertAlmostEqual(Accuracy(0.005, 0.002).standard(-2.0), 0.012 / math.sqrt(3))
        with self.assertRaises(InvalidInput):
            Accuracy(2.0)
        with self.assertRaises(InvalidInput):
            Accuracy(0.01, math.nan)
