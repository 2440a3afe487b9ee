"""Lines typed at Prove, what they keep, and what they are refused with."""

import tempfile
import unittest
from dataclasses import replace
from datetime import date
from pathlib import Path

from tests.workshops import open_workshop
from violet_dial.core.errors import InvalidInput
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.exposing import Fired
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.services.circuits import templates
from violet_dial.services.repairs import repairs_of
from violet_dial.stations.prove import acts, rounds_acts, seals_acts, state
from violet_dial.stations.prove.bench import judged_of, logged_of
from violet_dial.stations.prove.firings_state import firings_shown, said_rows
from violet_dial.stations.prove.paper import statement
from violet_dial.stations.prove.rounds_state import contacts_shown, course_of, finger_said, next_position, recheck_on, soak_shown
from violet_dial.stations.prove.seals_state import seals_shown, suspects_of
from violet_dial.stations.prove.table import read_log, write_log

AT = "2026-11-{:02d}T{:02d}:{:02d}:00+00:00"
TODAY = date(2026, 11, 27)


def job(kind: str = "reflex", fault: str = "Blank frames now and then") -> Job:
    return Job("p1", 7, Device("Bench reflex", kind=kind), Intake(fault))  # type: ignore[arg-type]


class Firings(unittest.TestCase):
    def say(self, one: Job, *lines: str, day: int = 20, hour: int = 9) -> Job:
        for minute, line in enumerate(lines):
            one = acts.understand(one, line).act(one, AT.format(day, hour, minute)).job
        return one

    def test_what_it_stands_on_goes_with_each_firing(self) -> None:
        one = self.say(job(), "1/250", "battery 2.95", "cold", "position lens down", "lens off", "clean", "no magnet", "B clean")
        first, second, third = one.proving.log
        self.assertEqual((first.stand.setting, first.stand.battery_v, first.stand.cold), ("1/250", 2.95, True))
        self.assertEqual((second.failed, second.stand.position, second.stand.lens), ("no magnet", "lens down", False))
        self.assertEqual(third.stand.setting, "B")
        self.assertIsNone(first.rest_h)
        self.assertAlmostEqual(second.rest_h or 0, 1 / 60)

    def test_rest_is_by_the_clock_unless_it_is_said(self) -> None:
        one = self.say(job(), "1/60 clean")
        one = self.say(one, "clean", "rested 3 days", "clean", "clean", day=21)
        rests = [round(shot.rest_h, 2) for shot in one.proving.log if shot.rest_h is not None]
        self.assertEqual(rests, [24.0, 72.0, 0.02])

    def test_a_roll_is_one_line_and_makes_up_no_bunches(self) -> None:
        one = self.say(job(), "roll 12 failed 3 at 250 mirror up")
        self.assertEqual((len(one.proving.log), sum(shot.failed == "mirror up" for shot in one.proving.log)), (12, 3))
        self.assertEqual({shot.stand.setting for shot in one.proving.log}, {"1/250"})
        self.assertGreater(judged_of(one).bunched, 0.5)

    def test_repairs_part_the_log_wherever_they_were_made(self) -> None:
        one = self.say(job(), "1/60 failed", "1/60 clean", "after new magnet", "1/60 clean 5")
        one = rounds_acts.understand_contact(one, "swab").act(one, AT.format(21, 9, 0)).job
        self.assertEqual([mend.words for mend in repairs_of(one)], ["new magnet", "contacts, swab"])
        self.assertEqual(judged_of(one).plan.n, 0)  # nothing fired since the swab
        one = self.say(one, "clean 3", "after new magnet", "clean 2", day=22)
        self.assertEqual([rate.name for rate in judged_of(one).stretches], ["", "new magnet", "contacts, swab", "new magnet (2)"])

    def test_firings_timed_at_expose_count_themselves(self) -> None:
        one = self.say(job(), "1/60 clean", "after oil")
        fired = (Fired(1 / 64, 1 / 60, at=AT.format(20, 9, 30)), Fired(1 / 64, 0.2, at=AT.format(20, 9, 31)))
        one = replace(one, exposing=replace(one.exposing, fired=fired))
        found = logged_of(one)
        self.assertEqual([(shot.failed, shot.after) for shot in found], [("", ""), ("", "oil"), ("wrong time", "oil")])
        self.assertEqual(judged_of(one).plan.verdict, "going")

    def test_the_claim_is_made_and_said(self) -> None:
        one = self.say(job(), "1/250 failed", "1/250 clean 3", "after cleaned", "school fixed", "1/250 clean 58")
        self.assertIn("1 more clean firing", firings_shown(one).headline)
        one = self.say(one, "1/250 clean", hour=12)
        self.assertIn("Proved: fewer than 1 in 20 fail", firings_shown(one).headline)
        self.assertIn("0 of 59 firings failed", statement(one))
        self.assertIsNone(state.next_of(one, None))
        again = self.say(one, "1/250 failed", hour=13)
        self.assertIn("Not proved", firings_shown(again).headline)
        found = state.next_of(again, None)
        assert found is not None
        self.assertEqual(found.title, "It failed again: find out why")

    def test_the_plan_asks_for_the_rest_it_used_to_fail_after(self) -> None:
        one = job()
        for day in range(1, 9):
            one = self.say(one, "1/60 clean" if day % 2 else "1/60 failed", "1/60 clean 4", day=day)
        one = self.say(one, "after oil", "1/60 clean 3", day=9)
        found = judged_of(one)
        self.assertEqual(found.follows[0].factor, "rest")
        self.assertGreater(found.plan.provoked_left, 0)
        self.assertGreater(found.plan.days, 1)
        self.assertIn("first of the morning", firings_shown(one).headline)
        self.assertIn("Follows", dict(said_rows(one)))

    def test_what_is_not_understood_says_what_is_expected(self) -> None:
        for line, word in (
            ("", "nothing"), ("1/250 what", "clean"), ("clean", "setting first"), ("clean 900", "500"),
            ("roll 3 failed 5 at 1/60", "5 of 3"),
            ("claim 90 %", "0.005 to 0.5"), ("claim 1 in 0 at 95 %", "share"), ("school hard", "sequential"),
            ("battery lots", "number"),
            ("settings " + " ".join(f"s{n}" for n in range(41)), "40"), ("rested x h", "number"), ("= clean", "Setting"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, word):
                acts.understand(job(), line)

    def test_a_log_goes_out_and_comes_in_the_same(self) -> None:
        one = self.say(job(), "1/250 failed", "battery 2.9", "after cleaned", "lens on", "1/250 clean 3")
        back = read_log(write_log(one).encode()).found
        self.assertEqual([(shot.stand, shot.failed, shot.after) for shot in back],
                         [(shot.stand, shot.failed, shot.after) for shot in one.proving.log])  # fmt: skip
        taken = acts.take_log(job(), AT.format(25, 9, 0), back, "log.csv").job
        self.assertEqual(judged_of(taken).plan.after, "cleaned")
        self.assertEqual(job_from_json(job_to_json(taken)), taken)


class Carried(unittest.TestCase):
    def test_a_second_workshop_shows_the_same_verdicts(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            first, second = (open_workshop(Path(folder) / f"{name}.violet") for name in "ab")
            self.addCleanup(first.close)
            self.addCleanup(second.close)
            job_id = first.new_job().job.job_id
            for line in ("1/250 failed", "1/250 clean 8", "after cleaned", "1/250 clean 40", "roll 12 failed 1 at 1/60"):
                first.perform(job_id, lambda job, at, line=line: acts.understand(job, line).act(job, at))
            first.perform(job_id, lambda job, at: seals_acts.understand(job, "1 edge top").act(job, at))
            here = first.view(job_id).job
            there = second.import_bundle(first.export_bundle(job_id)).job
        self.assertEqual(there.proving, here.proving)
        self.assertEqual(firings_shown(there), firings_shown(here))
        self.assertEqual((said_rows(there), seals_shown(there)), (said_rows(here), seals_shown(here)))


class Rounds(unittest.TestCase):
    def say(self, one: Job, *lines: str) -> Job:
        for minute, line in enumerate(lines):
            one = rounds_acts.understand_contact(one, line).act(one, AT.format(20, 9, minute)).job
        return one

    def test_worst_points_to_a_finger(self) -> None:
        template = next(one for one in templates() if "switch=" in one.text)
        one = replace(job(), tracing=replace(job().tracing, circuit_text=template.text, circuit_name="c"))
        name = next(word.split("=")[1] for word in template.text.split() if word.startswith("switch="))
        one = self.say(one, f"switch {name}")
        where = next_position(one)
        self.assertTrue(where)
        one = self.say(one, *(f"{where} 40" for _ in range(1)))
        self.assertNotEqual(next_position(one), where)
        self.assertTrue(any(finger_said(one, place[0]) for place in contacts_shown(one).rows))

    def test_rounds_end_when_nothing_more_comes(self) -> None:
        one = self.say(job(), "1/250 14 OL 3", "black", "1/250 beside its mark", "swab", "1/250 0.4", "no black")
        shown = contacts_shown(one)
        self.assertEqual(shown.heads, ("position", "as it came", "swab", "now"))
        self.assertEqual((shown.rows[0][0], shown.rows[0][2], shown.marks), ("1/250", "0.4 Ω", ("inside",)))
        for line, word in (("1/250", "ohm"), ("1/250 x", "number"), ("1/250 -4", "0 or more")):
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, word):
                rounds_acts.understand_contact(one, line)


class Days(unittest.TestCase):
    def say(self, one: Job, *lines: str) -> Job:
        for line in lines:
            one = rounds_acts.understand_exercise(one, line, TODAY).act(one, "2026-11-27T09:00:00+00:00").job
        return one

    def test_ticked_off_once_a_day(self) -> None:
        one = self.say(job(), "5 days 12 a day rest 4 from 2026-11-25", "done 12 failed 3 on 2026-11-25")
        found = course_of(one, TODAY)
        assert found is not None
        self.assertEqual((found.missed, found.state), (1, "under way"))
        one = rounds_acts.tick_day(one, "2026-11-27T10:00:00+00:00").job
        self.assertEqual(one.proving.days[-1].fired, 12)
        with self.assertRaisesRegex(InvalidInput, "ticked off"):
            rounds_acts.tick_day(one, "2026-11-27T11:00:00+00:00")
        for line, word in (
            ("done 5 failed 9", "9 of 5"),
            ("done on 2026-12-30", "today"),
            ("90 days", "60"),
            ("soon", "5 days"),
            ("from never", "2026"),
        ):
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, word):
                rounds_acts.understand_exercise(one, line, TODAY)
        with self.assertRaisesRegex(InvalidInput, "plan first"):
            rounds_acts.understand_exercise(job(), "done", TODAY)


class Seals(unittest.TestCase):
    def say(self, one: Job, *lines: str) -> Job:
        for line in lines:
            one = seals_acts.understand(one, line).act(one, AT.format(20, 9, 0)).job
        return one

    def test_frames_and_the_roll(self) -> None:
        one = self.say(job(fault="Light leak"), "roll 24", "1 edge top perforations", "2 edge top", "7 clean", "hinge left")
        self.assertEqual(suspects_of(one)[0].cause, "bottom channel")
        self.assertEqual([frame.open for frame in one.proving.frames], ["all", "all", "top channel"])
        self.assertIn("bottom channel", seals_shown(one).headline)
        one = self.say(one, "drop 2", "5 open hinge streak left inside")
        self.assertEqual([frame.number for frame in one.proving.frames], [1, 5, 7])
        for line, word in (
            ("roll 3", "to 100"),
            ("3 edge", "where on the picture"),
            ("drop 9", "looked at"),
            ("3 blob top", "roll 24"),
        ):
            with self.subTest(line), self.assertRaisesRegex(InvalidInput, word):
                seals_acts.understand(one, line)


class Soaking(unittest.TestCase):
    def say(self, one: Job, *lines: str) -> Job:
        for minute, line in enumerate(lines):
            one = rounds_acts.understand_soak(one, line).act(one, AT.format(20, 9, minute)).job
        return one

    def test_drift_over_days_and_when_it_is_due(self) -> None:
        days = tuple(f"2026-11-{day:02d} {12 + 0.05 * (day - 1) + 0.01 * (day % 2):.3f} Ev" for day in range(1, 11))
        one = self.say(job(), *days, "allow 1.0 Ev")
        self.assertIn("drifts by", soak_shown(one).headline)
        due = recheck_on(one)
        assert due is not None
        self.assertTrue(date(2026, 11, 15) <= due <= date(2026, 11, 22), due)
        with self.assertRaisesRegex(InvalidInput, "in Ev"):
            rounds_acts.understand_soak(one, "4 uA")

    def test_a_jump_is_another_device(self) -> None:
        one = self.say(job(), *(f"2026-11-{day:02d} {4.0 if day < 9 else 5.0} uA" for day in range(1, 19)))
        self.assertIn("9 November 2026 12:00 on it is not the same device", soak_shown(one).headline)


if __name__ == "__main__":
    unittest.main()
