"""Trials of the needle on meters of known truth: settling, sticking from a creeping light, the zero; a bench without a lamp."""

import math
import unittest

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.instruments.simulated.meter import SimulatedMeter, meter_truth
from violet_dial.job.light import NeedleNote
from violet_dial.stations.light.eye_trials import NeedleTrial, at_rest, trial_of

LOOK_S, LAMP_S, NOISE = 0.15, 0.3, 0.01


class Bench:
    """A lamp with a lag, a meter in its light, looks at its needle."""

    def __init__(self, truth: str, seed: int) -> None:
        self.now_s, self._from, self._to, self._set_s = 0.0, 400.0, 400.0, -10.0
        self._rng = np.random.default_rng(seed)
        self.meter = SimulatedMeter(meter_truth(truth), self.lux, lambda: self.now_s)

    def lux(self) -> float:
        left = math.exp(-(self.now_s - self._set_s) / LAMP_S)
        return float(math.exp(math.log(self._to) + (math.log(self._from) - math.log(self._to)) * left))

    def set_lux(self, lux: float) -> bool:
        self._from, self._to, self._set_s = self.lux(), lux, self.now_s
        return True

    def noted(self, trial: NeedleTrial) -> NeedleNote:
        for _look in range(1_000):
            self.now_s += LOOK_S
            note = trial.look(self.now_s, self.meter.now() + float(self._rng.normal(0, NOISE)))
            if note is not None:
                trial.end()
                return note
        raise AssertionError(trial.words)


class Trials(unittest.TestCase):
    def note(self, kind: str, truth: str, seed: int = 3) -> NeedleNote:
        bench = Bench(truth, seed)
        return bench.noted(trial_of(kind, bench.lux, bench.set_lux, 20.0))

    def test_a_lamp_that_is_slower_than_the_needle_hides_it(self) -> None:
        note = self.note("settle", "damping 0.5")
        self.assertIn("lamp itself takes", note.words)
        self.assertNotIn("damping", note.words)

    def test_settling_by_hand_tells_overshoot_and_damping(self) -> None:
        for damping, overshoot in ((0.3, 37), (0.6, 9), (1.0, 0)):
            bench = Bench(f"damping {damping}; hertz 0.8", 3)
            trial = trial_of("flick", bench.lux, bench.set_lux, 20.0)
            for _look in range(12):
                bench.now_s += LOOK_S
                self.assertIsNone(trial.look(bench.now_s, bench.meter.now()))
            bench.now_s += 0.01
            bench.meter.now()
            bench._from = bench._to = 6_400.0
            note = bench.noted(trial)
            said = note.words.split("overshoot ")[1].split()
            self.assertAlmostEqual(float(said[0]), overshoot, delta=8, msg=note)
            self.assertAlmostEqual(float(said[3].rstrip(".")), damping, delta=0.15, msg=note)

    def test_a_needle_that_is_stuck_fast(self) -> None:
        self.assertIn("Did not follow", self.note("settle", "stick 12").words)

    def test_sticking_is_told_and_a_free_needle_is_not_blamed(self) -> None:
        for seed in range(6):
            free = self.note("creep", "damping 0.7", seed)
            self.assertIn("Does not stick", free.words, free)
            stuck = self.note("creep", "stick 0.4; damping 0.7", seed)
            self.assertIn("Sticks", stuck.words, stuck)
            self.assertAlmostEqual(float(stuck.words.split(" to ")[1].split()[0]), 0.4, delta=0.15)
        slight = self.note("creep", "stick 0.15; damping 0.7")
        self.assertIn("Sticks", slight.words)

    def test_the_light_is_put_back(self) -> None:
        bench = Bench("damping 0.7", 1)
        bench.noted(trial_of("creep", bench.lux, bench.set_lux, 20.0))
        bench.now_s += 5
        self.assertAlmostEqual(bench.lux(), 400.0, delta=1.0)

    def test_the_zero(self) -> None:
        self.assertIn("0.30 above", at_rest(0.3, 0.05, 0.0, 20.0).words)
        self.assertIn("at the first mark", at_rest(0.05, 0.05, 0.0, 20.0).words)

        with self.assertRaisesRegex(InvalidInput, "capped"):
            at_rest(9.0, 0.05, 0.0, 20.0)

    def test_no_lamp(self) -> None:
        for lux, has_lamp in ((None, True), (400.0, False)):
            with self.assertRaisesRegex(InvalidInput, "lamp that can be set"):
                trial_of("settle", lambda now=lux: now, lambda _lux, has=has_lamp: has, 20.0)


if __name__ == "__main__":
    unittest.main()
