"""Contacts, exercise, seals and soaking."""

import unittest
from datetime import date

import numpy as np

from bench.fogs import WAYS, judged, scanned
from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.proof.contacts import Round, judge_contacts
from violet_dial.core.proof.leaks import Fog, FogFrame, fog_of, judge_leaks, roll_plan, turned
from violet_dial.core.proof.run_in import RunInDay, RunInPlan, course
from violet_dial.core.proof.soak import soak

FIRST = date(2026, 11, 9).toordinal()


class Contacts(unittest.TestCase):
    def test_another_round_gains_until_it_does_not(self) -> None:
        came = Round("as it came", (("1/60", 0.3), ("1/125", 14.0), ("1/250", 40.0)), True)
        swab = Round("swab", (("1/60", 0.3), ("1/125", 0.6), ("1/250", 9.0)), False)
        again = Round("swab", (("1/60", 0.3), ("1/125", 0.6), ("1/250", 8.7)), False)
        self.assertEqual(judge_contacts((came,)).next, "Swab again until no black comes off.")
        self.assertTrue(judge_contacts((came, swab)).gains)
        stuck = judge_contacts((came, swab, again))
        self.assertEqual((stuck.gains, stuck.worst, stuck.gained), (False, "1/250", (True, False)))
        self.assertIn("Fluid", stuck.next)
        clean = judge_contacts((came, swab, Round("fluid", (("1/60", 0.3), ("1/125", 0.5), ("1/250", 0.4)), False)))
        self.assertTrue(clean.is_done)

    def test_a_contact_that_is_never_the_same_twice(self) -> None:
        found = judge_contacts((Round("swab", (("B", 0.4), ("B", 6.0), ("B", 0.5))),))
        self.assertEqual(found.positions[0].state, "erratic")
        with self.assertRaises(InvalidInput):
            judge_contacts((Round("swab", (("B", -1.0),)),))


class Exercise(unittest.TestCase):
    def test_missed_days_move_and_the_check_waits_for_the_rest(self) -> None:
        wanted = RunInPlan(FIRST, 5, 15, 3)
        done = (RunInDay(FIRST, 15, 2), RunInDay(FIRST + 1, 15, 1))
        found = course(wanted, done, FIRST + 4)
        self.assertEqual((found.missed, found.state), (2, "under way"))
        self.assertEqual(found.due and found.due.on, FIRST + 4)
        self.assertEqual([one.on - FIRST for one in found.days], [0, 1, 4, 5, 6, 9])
        self.assertEqual(found.days[-1].kind, "check")

    def test_it_ends_early_when_clean_and_holds_after_the_rest(self) -> None:
        wanted = RunInPlan(FIRST, 6, 15, 2)
        done = tuple(RunInDay(FIRST + n, 15, failed) for n, failed in enumerate((3, 0, 0)))
        found = course(wanted, done, FIRST + 3)
        self.assertEqual(found.state, "resting")
        self.assertIn("end early", found.words)
        still = (*done[:2], RunInDay(FIRST + 2, 15, 1))
        self.assertEqual(course(wanted, still, FIRST + 3).state, "under way")
        whole = tuple(RunInDay(FIRST + n, 15) for n in range(6))
        self.assertEqual(course(wanted, whole, FIRST + 6).state, "resting")
        held = course(wanted, (*whole, RunInDay(FIRST + 8, 10)), FIRST + 8)
        self.assertEqual(held.state, "done")
        self.assertIn("26 %", held.words)  # the upper limit of 0 in 10

    def test_a_check_after_an_early_end_is_a_check(self) -> None:
        wanted = RunInPlan(FIRST, 6, 15, 2)
        done = tuple(RunInDay(FIRST + n, 15, failed) for n, failed in enumerate((3, 0, 0)))
        self.assertEqual(course(wanted, (*done, RunInDay(FIRST + 4, 10)), FIRST + 4).state, "done")
        self.assertEqual(course(wanted, (*done, RunInDay(FIRST + 3, 10)), FIRST + 4).state, "resting")  # went on a day more
        self.assertEqual(course(wanted, (*done, RunInDay(FIRST + 4, 10, 1)), FIRST + 4).state, "failing")

    def test_bounds(self) -> None:
        for wanted in (RunInPlan(FIRST, 0), RunInPlan(FIRST, 5, 0), RunInPlan(FIRST, 5, 15, 99), RunInPlan(1)):
            with self.assertRaises(InvalidInput):
                course(wanted, (), FIRST)


class Leaks(unittest.TestCase):
    def test_invented_leaks_are_among_the_first_two(self) -> None:
        """140 of the bench's fogs, with another seed; cast by geometry, not by the table they are judged with."""
        got = judged(140, 77)
        self.assertGreaterEqual(got["two"], 0.92)
        self.assertAlmostEqual(got["said"], got["first"], delta=0.1)

    def test_top_of_the_picture_is_the_bottom_of_the_gate(self) -> None:
        self.assertEqual(turned("top left"), "bottom right")
        found = judge_leaks((FogFrame(1, "all", Fog("edge", "top", True)),))
        self.assertEqual(found[0].cause, "bottom channel")
        left = FogFrame(1, "all", Fog("streak", "left", True))
        self.assertEqual(judge_leaks((left,))[0].cause, "hinge")
        self.assertEqual(judge_leaks((left,), "left")[0].cause, "latch")

    def test_tape_decides(self) -> None:
        fog = Fog("edge", "right", None)
        taped = (FogFrame(1, "all", fog), FogFrame(2, "none", None), FogFrame(3, "latch", fog), FogFrame(4, "hinge", None))
        self.assertEqual(judge_leaks(taped)[0].cause, "latch")
        still = (FogFrame(1, "all", fog), FogFrame(2, "none", fog), FogFrame(3, "hinge", fog))
        self.assertIn(judge_leaks(still)[0].cause, ("lens mount", "curtain or blades", "none of these"))
        self.assertAlmostEqual(sum(one.chance for one in judge_leaks(taped)), 1.0)

    def test_a_clean_scan_is_clean(self) -> None:
        rng = np.random.default_rng(1)
        self.assertIsNone(fog_of(np.clip(rng.normal(0.1, 0.01, (140, 150)), 0, 1), (0.03, 0.16, 0.97, 0.84)))
        self.assertIsNotNone(scanned(WAYS[0], rng).fog)
        with self.assertRaises(InvalidInput):
            fog_of(np.zeros((4, 4)), (0, 0, 1, 1))

    def test_roll_plan_gives_every_seam_its_frames(self) -> None:
        found = roll_plan(24)
        self.assertEqual([n for n, _open in found], list(range(1, 25)))
        self.assertEqual(found[-1][1], "none")
        with self.assertRaises(InvalidInput):
            roll_plan(12)


class Soaking(unittest.TestCase):
    def test_drift_is_inside_its_interval_and_a_step_is_found(self) -> None:
        rng = np.random.default_rng(5)
        inside = steps = 0
        times = np.arange(24.0)
        for _one in range(200):
            found = soak(times, 1.0 + 0.02 * times + rng.normal(0.0, 0.05, 24))
            inside += found.drift_low <= 0.02 <= found.drift_high
            steps += found.step_at is not None
        self.assertGreaterEqual(inside, 180)
        self.assertLessEqual(steps, 8)  # said: 1 in 100
        jumped = soak(times, np.where(times < 15, 1.0, 1.4) + rng.normal(0.0, 0.03, 24))
        self.assertEqual(jumped.step_at, 15)
        self.assertAlmostEqual(jumped.step, 0.4, delta=0.06)

    def test_due_when_the_fastest_drift_has_used_it_up(self) -> None:
        days = np.arange(10.0)
        found = soak(days, 0.01 * days + 0.001 * np.cos(days * 7), 0.3)
        assert found.due is not None
        self.assertLess(found.due, 30.0)
        self.assertGreater(found.due, 20.0)
        with self.assertRaises(NotEnoughData):
            soak(days[:3], days[:3])
        with self.assertRaises(InvalidInput):
            soak(days[::-1].copy(), days)


if __name__ == "__main__":
    unittest.main()
