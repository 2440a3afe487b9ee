"""A check that runs by itself: the same verdict as by true readings; whatever goes wrong, no wrong reading is kept."""

import math
import unittest

import numpy as np

from bench.runs import TICK_S, Bench, run
from violet_dial.instruments.simulated.dial import DialLook, SimulatedDial
from violet_dial.instruments.simulated.meter import MeterTruth, meter_truth
from violet_dial.services.light_judgement import judge
from violet_dial.stations.light.by_itself import ByItself, Stands


class Runs(unittest.TestCase):
    def bench(self, truth: MeterTruth) -> Bench:
        return Bench(truth, np.random.default_rng(21))

    def right(self, bench: Bench) -> None:
        """Every reading kept is what the meter would show at last."""
        for taken in bench.job.light.current.readings:
            one = taken.reading
            off = one.indicated_ev100 - bench.truth.steady(one.reference_ev100)
            self.assertLess(abs(off), 0.12 + bench.truth.stick / 2, one)

    def test_the_same_verdict_as_by_true_readings(self) -> None:
        for text in ("offset 0.8", "stick 0.7", "slow 0.6"):
            with self.subTest(text):
                bench = self.bench(meter_truth(text))
                stands = run(bench)
                self.assertEqual(stands.stage, "done", stands.words)
                self.assertGreaterEqual(stands.taken, 5)
                self.assertEqual(judge(bench.job).verdict.kind, judge(bench.truly).verdict.kind)
                self.right(bench)

    def until(self, by_itself: ByItself, bench: Bench, taken: int) -> Stands:
        """On until so many are taken, or it stands."""
        for _tick in range(3_000):
            stands = by_itself.tick(bench.now_s)
            if stands.stage in ("waits", "done") or stands.taken >= taken:
                return stands
            bench.now_s += TICK_S
        return by_itself.stands

    def test_a_lamp_that_does_not_follow(self) -> None:
        bench = self.bench(MeterTruth())
        bench.follows = False
        stands = run(bench)
        self.assertEqual((stands.stage, stands.taken), ("waits", 0))
        self.assertIn("does not follow", stands.words)

    def test_a_lamp_that_has_aged_is_asked_for_more(self) -> None:
        bench = self.bench(MeterTruth(offset=0.5))
        bench.gain = 0.8
        self.assertEqual(run(bench).stage, "done")
        self.right(bench)
        far = self.bench(MeterTruth())
        far.gain = 0.4
        by_itself = far.begun()
        self.assertIn("does not follow", self.until(by_itself, far, 1).words)

    def test_a_camera_unplugged_and_put_back(self) -> None:
        bench = self.bench(MeterTruth(offset=0.5))
        by_itself = bench.begun()
        self.until(by_itself, bench, 2)
        bench.camera.is_there = False
        stands = self.until(by_itself, bench, 99)
        self.assertEqual((stands.stage, stands.taken), ("waits", 2))
        self.assertIn("no pictures", stands.words)
        bench.camera.is_there = True
        by_itself.go_on(bench.now_s)
        self.assertEqual(self.until(by_itself, bench, 99).stage, "done")
        self.right(bench)

    def test_a_hand_before_the_lens(self) -> None:
        bench = self.bench(MeterTruth(offset=-0.4))
        by_itself = bench.begun()
        self.until(by_itself, bench, 1)
        bench.camera.covered = (0.5, 0.5, 0.3)
        stands = self.until(by_itself, bench, 99)
        self.assertEqual((stands.stage, stands.taken), ("waits", 1), stands.words)
        bench.camera.covered = None
        by_itself.go_on(bench.now_s)
        self.assertEqual(self.until(by_itself, bench, 99).stage, "done")
        self.right(bench)

    def test_a_table_that_is_shaken(self) -> None:
        bench = self.bench(MeterTruth(offset=0.3))
        by_itself = bench.begun()
        self.until(by_itself, bench, 1)
        bench.camera.moved_px = (7.0, -5.0)  # found again
        self.until(by_itself, bench, 3)
        self.assertEqual(by_itself.stands.taken, 3, by_itself.stands.words)
        self.right(bench)
        bench.camera.moved_px = (90.0, 40.0)
        stands = self.until(by_itself, bench, 99)
        self.assertEqual((stands.stage, stands.taken), ("waits", 3))
        self.assertIn("moved too far", stands.words)

    def test_pictures_of_another_size(self) -> None:
        bench = self.bench(MeterTruth())
        by_itself = bench.begun()
        self.until(by_itself, bench, 1)
        bench.camera.dial = SimulatedDial(DialLook(320, 240, first=0.0, last=20.0, marks=11))
        stands = self.until(by_itself, bench, 99)
        self.assertEqual((stands.stage, stands.taken), ("waits", 1), stands.words)
        self.assertIn("another size", stands.words)

    def test_light_that_changes_while_the_needle_is_read(self) -> None:
        bench = self.bench(MeterTruth())
        by_itself = bench.begun()
        while by_itself.tick(bench.now_s).stage != "needle":
            bench.now_s += TICK_S
        bench._from = bench._to = bench._to * 1.5  # somebody turned a lamp on
        for _tick in range(12):
            by_itself.tick(bench.now_s)
            bench.now_s += TICK_S
        self.until(by_itself, bench, 3)
        self.right(bench)
        self.assertTrue(math.isfinite(bench.now_s))


if __name__ == "__main__":
    unittest.main()
