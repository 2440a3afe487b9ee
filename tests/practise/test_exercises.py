"""Exercises as jobs: made, answered, replayed, worked out, kept as files; damaged and foreign files refused."""

import csv
import io
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from violet_dial.core.errors import InvalidInput, StoreError, TaskCancelled
from violet_dial.core.practice.exercise import ExerciseWish
from violet_dial.core.practice.score import score_of
from violet_dial.core.records.circuit import Evidence, Fault
from violet_dial.core.task import SilentTask
from violet_dial.gui.start import open_file
from violet_dial.instruments.simulated.device import ExerciseUnderTest
from violet_dial.job.document import Job
from violet_dial.job.practising import Outcome
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.practise import STATION, exercise
from violet_dial.practise.acts import coach, understand
from violet_dial.practise.begun import drawn, given
from violet_dial.practise.files import Given, exercise_file, exercises_in, own_exercise, own_form, result_file, set_file
from violet_dial.practise.outcome import exercised, keep_outcome, outcome_of
from violet_dial.practise.progress_state import progress_in, progress_of, progress_shown
from violet_dial.practise.replay import end_replay, replay
from violet_dial.practise.state import bench_shown
from violet_dial.practise.table import COLUMNS, progress_csv
from violet_dial.services.circuits import templates
from violet_dial.services.places import is_practice, practice_of, workshop_of
from violet_dial.services.simulated import SimulatedInstruments

AT = "2026-11-27T10:00:00+00:00"
TEXT = next(one.text for one in templates() if one.stem == "cds-series")
WIRE = Fault("Rwred", "high resistance", 22e3)


def begun(secret: exercise.Secret) -> Job:
    return given(Job("p1", 1), secret, "a nod", AT).job


def volts(job: Job, plus: str, at: str = AT) -> Job:
    return exercise.measure(job, Evidence("volt", 0.0, plus, "0", setting=job.tracing.setting), f"{plus} volts", at).job


class Worked(unittest.TestCase):
    secret: exercise.Secret
    job: Job
    outcome: Outcome

    @classmethod
    def setUpClass(cls) -> None:
        cls.secret = own_exercise(TEXT, (WIRE,), "A corroded lead")
        job = volts(volts(begun(cls.secret), "clip+"), "sw")
        job = exercise.mend(job, Fault("Rclip", "open"), "plus clip", AT).job
        job = exercise.say(volts(job, "lead"), WIRE, 0.7, "red wire", AT).job
        job = exercise.mend(job, WIRE, "red wire", AT).job
        cls.outcome = outcome_of(job)
        cls.job = keep_outcome(job, cls.outcome).job

    def test_it_is_kept_and_read_again(self) -> None:
        self.assertEqual(job_from_json(job_to_json(self.job)), self.job)
        self.assertEqual((self.job.practising.ended, self.job.practising.faults), ("found", (WIRE,)))

    def test_the_course_is_that_of_the_job(self) -> None:
        course = exercise.course_of(self.job)
        kinds = [one.move.kind for one in course.steps]
        self.assertEqual(kinds, ["test", "test", "mended", "test", "said", "mended"])
        self.assertEqual([one.part for one in course.needless], ["Rclip"])
        self.assertTrue(course.works)

    def test_what_came_of_it(self) -> None:
        outcome = self.outcome
        self.assertEqual((outcome.tests, outcome.needless), (3, ("plus clip",)))
        self.assertIn("before you replace", outcome.habit)
        self.assertAlmostEqual(outcome.points, 60 * (1 - 0.09) + outcome.time - 5 - 5, delta=0.02)  # a needless part, a nod
        best = min(path.minutes for path in outcome.paths if path.found)
        self.assertAlmostEqual(outcome.time, 40 * min(best / outcome.minutes, 1.0), delta=0.02)
        self.assertEqual([path.player for path in outcome.paths], ["next", "few", "halves"])
        self.assertTrue(all(one.best for one in outcome.steps if one.ask is not None))
        for path in outcome.paths:
            self.assertEqual(len(path.bits), len(path.at_minutes))
            self.assertEqual(list(path.at_minutes), sorted(path.at_minutes))
        found = exercised(self.job)
        assert found is not None
        self.assertEqual((found.kinds, found.said, found.needless), (("corroded",), ((0.7, True),), 1))

    def test_what_a_coach_told_is_paid_for_once_and_for_good(self) -> None:
        """Another word afterwards takes back nothing that was heard; before the first move a nod has told nothing."""
        fresh = begun(self.secret)
        self.assertEqual(coach(fresh, "silent", AT).job.practising.coached, "silent")
        begun_upon = volts(fresh, "clip+")
        self.assertEqual(coach(begun_upon, "silent", AT).job.practising.coached, "a nod")
        told = coach(coach(begun_upon, "everything", AT).job, "silent", AT).job
        self.assertEqual((told.practising.coaching, told.practising.coached), ("silent", "everything"))
        course = exercise.course_of(self.job)
        alone = score_of(course, 10.0)
        for how, cost in (("silent", 0), ("a nod", 5), ("next after a minute", 15), ("everything", 30)):
            score = score_of(course, 10.0, how)
            self.assertEqual(alone.points - score.points, cost)
            self.assertIn(f"coached ({how}): {f'−{cost}' if cost else '+0'}", score.opened())

    def test_a_replay_keeps_everything(self) -> None:
        whole = self.job.tracing
        for step, sizes, repairs in ((0, [0], 0), (1, [1], 0), (2, [2], 0), (3, [2, 0], 1), (4, [2, 1], 1), (5, [2, 1, 0], 2)):
            job = replay(self.job, step, AT).job
            with self.subTest(step):
                self.assertEqual([len(one) for one in job.tracing.epochs], sizes)
                self.assertEqual(len(job.tracing.repairs), repairs)
                self.assertEqual(exercise.course_of(job), exercise.course_of(self.job))
                again = replay(job, 1, AT).job
                self.assertEqual(end_replay(again, AT).job.tracing, whole)
        with self.assertRaises(InvalidInput):
            replay(begun(self.secret), 1, AT)

    def test_nothing_is_done_in_one_that_is_over(self) -> None:
        for act in (
            lambda: volts(self.job, "sw"),
            lambda: exercise.say(self.job, WIRE, 0.5, "", AT),
            lambda: exercise.give_up(self.job, AT),
        ):
            with self.assertRaises(InvalidInput):
                act()

    def test_work_can_be_stopped(self) -> None:
        class Stopped(SilentTask):
            def check(self) -> None:
                raise TaskCancelled

        with self.assertRaises(TaskCancelled):
            outcome_of(self.job, Stopped())

    def test_the_result_for_a_teacher(self) -> None:
        said = json.loads(result_file(self.job))
        self.assertEqual((said["ended"], said["points"], said["tests"]), ("found", self.outcome.points, 3))
        self.assertTrue(any("0.7" in one or "70%" in one for one in said["steps"]))
        with self.assertRaises(InvalidInput):
            result_file(begun(self.secret))

    def test_progress_as_csv(self) -> None:
        one = exercised(self.job)
        assert one is not None
        progress = progress_of((one, replace(one, day=one.day - 3, found=False, points=0.0)), one.day - 1)  # a clock set back
        (skill,) = progress.skills
        self.assertEqual((skill.name, skill.count, skill.good, skill.days), ("corroded, own", 2, 1, 0.0))
        rows = list(csv.DictReader(io.StringIO(progress_csv(progress))))
        self.assertEqual(tuple(rows[0]), COLUMNS)
        self.assertEqual([row["found"] for row in rows], ["no", "yes"])
        self.assertEqual(rows[1]["ended"], AT)

    def test_skills_that_there_is_no_room_for_are_counted(self) -> None:
        one = exercised(self.job)
        assert one is not None
        shown = progress_shown(progress_of(tuple(replace(one, kinds=(f"kind {n}",)) for n in range(17)), one.day))
        self.assertEqual(len(shown.skills), 14)
        self.assertIn("3 more skills", shown.reason)
        self.assertIn(" of 120", bench_shown(begun(self.secret), None).headline)  # minutes of this very exercise

    def test_progress_over_a_workshop(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = practice_of(Path(folder) / "workshop.violet")
            shop = open_file(path)
            job_id = shop.new_job().job.job_id
            shop.perform(job_id, lambda job, at: given(job, self.secret, "silent", at))
            shop.new_job()
            shop.close()
            self.assertEqual(progress_in(path, 1.0, SilentTask()).done, ())
            shop = open_file(path)
            kept = replace(self.job, job_id=job_id, number=1)
            shop.perform(job_id, lambda job, at: replace(exercise.give_up(job, at), job=kept))
            bundle = shop.export_bundle(job_id)
            shop.close()
            self.assertEqual(len(progress_in(path, 1.0, SilentTask()).done), 1)
            own = open_file(workshop_of(path))
            self.addCleanup(own.close)
            with self.assertRaisesRegex(StoreError, "at practice"):
                own.import_bundle(bundle)
            self.assertEqual(own.cards(), ())

    def test_where_practice_lies(self) -> None:
        path = Path("/x/mine.violet")
        self.assertEqual((practice_of(path).name, workshop_of(practice_of(path))), ("mine-practice.violet", path))
        self.assertEqual((is_practice(path), is_practice(practice_of(path))), (False, True))


class Benches(unittest.TestCase):
    def test_the_live_bench_has_the_same_device(self) -> None:
        """What the simulated meter ends on is what a test gives, within the test's own noise."""
        secret = own_exercise(TEXT, (WIRE,), "A corroded lead")
        job = begun(secret)
        practice_bench = SimulatedInstruments(exercises=lambda: STATION.exercises)
        self.addCleanup(practice_bench.close)
        practice_bench.load(job)
        device = practice_bench.bench.device
        self.assertIsInstance(device, ExerciseUnderTest)
        for plus in ("clip+", "lead", "sw"):
            read = volts(job, plus).tracing.now[-1].evidence.value
            self.assertAlmostEqual(device.shows("volt", plus, "0").value, read, delta=0.006 + 0.02 * abs(read))
        with self.assertRaisesRegex(InvalidInput, "look at movement"):
            practice_bench.camera(job)
        with self.assertRaisesRegex(InvalidInput, "shutter speeds"):
            practice_bench.card(job, "leaf", 1)
        mended = exercise.mend(job, WIRE, "red wire", AT).job
        practice_bench.load(mended)
        self.assertGreater(practice_bench.bench.device.shows("volt", "sw", "0").value, 1.1)

    def test_what_was_solved_beforehand_changes_no_answer(self) -> None:
        text = next(one.text for one in templates() if one.stem == "regulator-clock")
        job = begun(own_exercise(text, (Fault("Rwred", "high resistance", 390.0),), "slow to solve"))
        plain = [volts(job, node).tracing.now[-1].evidence.value for node in ("vin", "vreg", "vraw")]
        exercise.bench_of.cache_clear()
        other = exercise.prepared(job, SilentTask())
        assert other is not None
        exercise.learn(job, other)
        began = exercise.bench_of(job.practising.sealed).device._points.copy()
        self.assertGreater(len(began), 4)
        self.assertEqual([volts(job, node).tracing.now[-1].evidence.value for node in ("vin", "vreg", "vraw")], plain)
        self.assertEqual(exercise.bench_of(job.practising.sealed).device._points.keys(), began.keys())  # none was solved anew
        self.assertIsNone(exercise.prepared(begun(own_form("needle", "sticks", "none")), SilentTask()))

    def test_camera_and_sound_card_show_what_is_hidden(self) -> None:
        instruments = SimulatedInstruments(exercises=lambda: STATION.exercises)
        self.addCleanup(instruments.close)
        needle = begun(own_form("needle", "reads high", "a dial"))
        figure = exercise.secret_of(needle.practising.sealed).exercise.faults[0].figure
        self.assertAlmostEqual(instruments.camera(needle).camera.meter.truth.offset, figure, places=3)
        speeds = begun(own_form("speeds", "slow speeds hang", "a shutter"))
        card = instruments.card(speeds, "leaf", 1)
        self.assertEqual([one.kind for one in card.shutter.faults], ["slow"])
        read = exercise.read(speeds, "1/8", AT).job
        self.assertAlmostEqual(read.exposing.fired[0].marked_s, 1 / 8)
        self.assertEqual(exercise.give_up(read, AT).job.exposing.fired, read.exposing.fired)

    def test_owners_words(self) -> None:
        for stem, fault, said in (
            ("cds-series", Fault("Rclip", "open"), "movement does not move"),
            ("silicon-lamps", Fault("Iph", "dead", 0.01), "slow lamp"),
            ("motor-transfer", Fault("Rjoin", "open unless bent", only="not bent"), "not always"),
        ):  # fmt: skip
            text = next(one.text for one in templates() if one.stem == stem)
            secret = own_exercise(text, (fault,), "words")
            self.assertIn(said, begun(secret).intake.headline_fault)

    def test_without_papers_only_spots_are_there(self) -> None:
        secret = drawn(ExerciseWish(2, 5))
        job = begun(secret)
        self.assertEqual((job.tracing.circuit_text, job.tracing.board.items), ("", ()))
        circuit = exercise.circuit_in(job)
        spots = {one.name.lower() for one in job.tracing.board.spots}
        self.assertEqual(spots - {"chassis"}, set(circuit.nodes) - {"0"})
        first = volts(job, circuit.nodes[0])
        self.assertEqual(len(first.tracing.now), 1)
        self.assertEqual(exercise.course_of(first).tests, 1)
        shown = exercise.give_up(first, AT).job
        self.assertEqual(shown.tracing.circuit_text, secret.circuit_text)
        self.assertEqual(len(shown.tracing.now), 1)

    def test_a_flash_capacitor_is_emptied_first(self) -> None:
        text = "* flash\nVbat clip+ 0 6\n*: Vbat kind=battery\nRa clip+ mid 1k\nRb mid hot 10k\nRc hot 0 47k\n*: hot flash=yes\n"
        secret = own_exercise(text, (Fault("Ra", "open"),), "flash")
        job = begun(secret)
        hurt = understand(job, "hot to gnd volts").act(job, AT).job
        self.assertEqual((hurt.practising.ended, hurt.practising.faults), ("ended by a slip", (Fault("Ra", "open"),)))
        emptied = understand(job, "discharge").act(job, AT).job
        done = understand(emptied, "hot to gnd volts").act(emptied, AT).job
        self.assertEqual((done.practising.ended, len(done.tracing.now)), ("", 1))
        self.assertEqual(exercise.course_of(done).slips, ())

    def test_what_is_seen_fits_or_misleads(self) -> None:
        true, places = drawn(ExerciseWish(3, 2)), set()
        found = begun(true).receiving.findings
        self.assertTrue(found)
        for seed in range(12):
            misled = drawn(ExerciseWish(seed, 4, "meter"))
            places |= {one.kind for one in begun(misled).receiving.findings}
            self.assertTrue(begun(misled).intake.tried_already)
        self.assertTrue(places)


class Files(unittest.TestCase):
    secret = own_exercise(TEXT, (WIRE,), "A corroded lead")

    def test_there_and_back(self) -> None:
        data = exercise_file(self.secret, "Lead")
        self.assertEqual(exercises_in(data), (Given("Lead", self.secret),))
        for word in (b"high resistance", b"22000"):
            self.assertNotIn(word, data)
        several = set_file("Week", (Given("one", self.secret), Given("two", self.secret)))
        self.assertEqual([(one.title, one.place) for one in exercises_in(several)], [("one", 1), ("two", 2)])

    def test_one_that_nobody_could_find_is_refused(self) -> None:
        with self.assertRaisesRegex(InvalidInput, "nobody could find"):
            own_exercise(TEXT, (Fault("Rwred", "high resistance", 0.01),), "none")
        with self.assertRaises(InvalidInput):
            own_exercise(TEXT, (), "none")

    def test_damaged_and_foreign_files(self) -> None:
        whole = json.loads(exercise_file(self.secret, "Lead"))
        many = {"format": "violet-dial set of exercises", "version": 1, "exercises": [whole] * 101}
        wrong = (
            b"", b"[]", b"{}", b"\xff\xfe", b"[" * 100_000, json.dumps({**whole, "version": 2}).encode(),
            json.dumps({**whole, "sealed": whole["sealed"][:-8]}).encode(), json.dumps({**whole, "sealed": 7}).encode(),
            json.dumps(many).encode(), json.dumps({**many, "exercises": []}).encode(), b" " * 20_000_001,
        )  # fmt: skip
        for data in wrong:
            with self.subTest(data[:40]), self.assertRaises(InvalidInput):
                exercises_in(data)


if __name__ == "__main__":
    unittest.main()
