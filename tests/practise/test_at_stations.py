"""Exercises worked with the real stations: what is read at Light and fired at Expose counts, nothing is judged there before it is
over; what recordings show of a hidden device."""

import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.practice.exercise import Exercise
from violet_dial.core.records.circuit import Fault, Setting
from violet_dial.gui.start import open_file
from violet_dial.job.act import Act, ActResult
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN, Coaching
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.practise import exercise
from violet_dial.practise.acts import understand
from violet_dial.practise.begun import given
from violet_dial.practise.files import own_form
from violet_dial.practise.outcome import map_of
from violet_dial.practise.replay import end_replay, replay
from violet_dial.practise.state import bench_shown, opened
from violet_dial.report.blocks import Words
from violet_dial.services.circuits import circuit_from, templates
from violet_dial.services.places import practice_of
from violet_dial.services.sheet import sheet_of
from violet_dial.stations import STATIONS
from violet_dial.stations.expose.acts import drop_last, say_line
from violet_dial.stations.expose.bench import speeds_judged
from violet_dial.stations.expose.lamps_acts import say_line as lamps_say_line
from violet_dial.stations.expose.lamps_state import lamps_shown
from violet_dial.stations.light.acts import TypedReading, strike_reading, take_typed
from violet_dial.stations.light.state import shown as light_shown
from violet_dial.stations.trace import map_acts

AT = "2026-11-27T10:00:00+00:00"


def begun(secret: exercise.Secret) -> Job:
    return given(Job("p1", 1), secret, "a nod", AT).job


def own_exercise_of(text: str, faults: tuple[Fault, ...]) -> exercise.Secret:
    """One whose fault need not be found."""
    return exercise.Secret(Exercise(7, 3, "own", "own", faults, ("open",)), text)


class AtTheStations(unittest.TestCase):
    """Readings taken at Light and Expose in an exercise of a needle or a shutter."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shop = open_file(practice_of(Path(folder.name) / "workshop.violet"))
        self.addCleanup(self.shop.close)
        self.job_id = self.shop.new_job().job.job_id

    def begin(self, name: str, mode: str, coaching: Coaching = "silent") -> None:
        self.do(lambda job, at: given(job, own_form(name, mode, "one"), coaching, at))

    def do(self, act: Act) -> Job:
        return self.shop.perform(self.job_id, act).job

    def light(self, reference: str, indicated: str) -> Job:
        return self.do(lambda job, at: take_typed(job, TypedReading(reference, indicated), at))

    def done(self, job: Job) -> list[str]:
        return [one.test for one in job.practising.readings]

    def test_a_reading_at_light_is_a_test(self) -> None:
        self.begin("needle", "sticks")
        self.light("8", "8.4")
        self.do(lambda job, at: exercise.read(job, "9 Ev rising", at))
        job = self.light("7", "7.5")
        self.assertEqual(self.done(job), ["8 Ev rising", "9 Ev rising", "7 Ev falling"])
        self.assertAlmostEqual(job.practising.readings[2].value, 0.5)
        self.assertEqual(exercise.course_of(job).tests, 3)
        self.assertEqual(len(job.light.current.readings), 3)  # each stands once, at both places
        self.assertEqual(self.done(self.light("22", "22.4")), self.done(job))  # none of its tests
        job = self.do(lambda job, at: strike_reading(job, 0, at))
        self.assertEqual(self.done(job), ["9 Ev rising", "7 Ev falling"])
        job = self.shop.undo(self.job_id).job
        self.assertEqual(self.done(job), ["8 Ev rising", "9 Ev rising", "7 Ev falling"])

    def test_what_stands_at_light_is_kept_whole_when_it_ends(self) -> None:
        self.begin("needle", "sticks")
        self.light("8", "8.4")
        self.light("9", "9.4")
        before = self.light("7", "7.5").light
        job = self.do(exercise.give_up)
        self.assertEqual(job.light, before)
        job = self.do(lambda job, at: replay(job, 1, at))
        self.assertEqual(len(job.light.current.readings), 1)
        job = self.do(lambda job, at: replay(job, 2, at))
        self.assertEqual(job.light.current.readings, before.current.readings[:2])
        self.assertEqual(job_from_json(job_to_json(job)), job)
        self.assertEqual(self.do(end_replay).light, before)

    def test_an_exercise_with_a_broken_seal_still_keeps_what_is_read(self) -> None:
        self.begin("needle", "sticks")
        self.do(lambda job, at: ActResult(replace(job, practising=replace(job.practising, sealed="hurt")), "Job", "hurt"))
        job = self.light("8", "8.4")
        self.assertEqual((len(job.light.current.readings), self.done(job)), (1, []))

    def test_a_firing_at_expose_is_a_test(self) -> None:
        self.begin("speeds", "all slow")
        job = self.do(lambda job, at: say_line(job, "1/125 12 12.4 ms", at))
        self.assertEqual(self.done(job), ["1/125", "1/125"])
        self.assertAlmostEqual(job.practising.readings[0].value, math.log2(0.012 * 128))
        self.assertEqual(self.done(self.do(lambda job, at: drop_last(job, 1 / 128, at))), ["1/125"])

    def test_nothing_is_judged_before_it_is_over(self) -> None:
        self.begin("needle", "sticks")
        for reference, indicated in (("8", "9.1"), ("11", "12.2"), ("14", "15.1"), ("6", "7.1")):
            job = self.light(reference, indicated)
        plain, light = job.practising, STATIONS[4]
        opened = light.opened(job)
        assert opened is not None
        self.assertEqual((light.finding(job), light_shown(job).reason, opened[1][-1][1]), ("", HIDDEN, (HIDDEN,)))
        self.assertIn(HIDDEN, [block.text for block in sheet_of(job, STATIONS, "today").blocks if isinstance(block, Words)])
        openly = replace(job, practising=replace(plain, coaching="everything"))
        self.assertIn("high", light.finding(openly).lower())
        self.assertNotEqual(light_shown(openly).reason, HIDDEN)
        fired = say_line(openly, "1/30 45 ms", AT).job
        for line in ("1/125 12 ms", "1/500 3 ms", "1 1.4 s"):
            fired = say_line(fired, line, AT).job
        fired = lamps_say_line(fired, "f/16 400 lx none", AT).job
        self.assertNotEqual((lamps_shown(fired).causes, STATIONS[5].finding(fired)), ((), ""))
        hidden = replace(fired, practising=plain)
        self.assertEqual((lamps_shown(hidden).causes, STATIONS[5].finding(hidden)), ((), ""))
        self.assertNotEqual(speeds_judged(fired).patterns, ())
        self.assertEqual(speeds_judged(replace(fired, practising=plain)).patterns, ())


class WithoutPapers(unittest.TestCase):
    def test_what_was_traced_stands_beside_the_device_once_it_is_over(self) -> None:
        text = next(one.text for one in templates() if one.stem == "cds-series")
        secret = exercise.Secret(Exercise(7, 5, "own", "own", (Fault("Rwred", "open"),), ("open",), papers=False), text)
        job = begun(secret)
        self.assertEqual((job.tracing.circuit_text, job.tracing.board.items), ("", ()))
        for line in ("red wire lead to sw", "battery 1.35 clip+ to chassis", "blue wire clip+ to cell+"):
            job = map_acts.say_line(job, line, AT).job
        self.assertIsNone(map_of(job))  # it goes on
        self.assertNotIn("traced", bench_shown(job, None).reason)
        over = exercise.give_up(job, AT).job
        found = map_of(over)
        assert found is not None
        self.assertEqual((found.right, found.wrong), (("clip+ to gnd", "lead to sw"), ("cell+ to clip+",)))
        self.assertIn("clip+ to lead", found.missing)
        true = len(circuit_from(text).parts)
        self.assertEqual(len(found.right) + len(found.missing), true)
        self.assertIn(f"Of {true} joins 2 were traced, 1 that is not there.", bench_shown(over, None).reason)
        sections = dict(opened(over, None, None)[1])  # type: ignore[index]
        self.assertIn("not there\tcell+ to clip+", sections["What was traced"])
        self.assertIsNone(
            map_of(exercise.give_up(begun(replace(secret, exercise=replace(secret.exercise, papers=True))), AT).job)
        )


class Recordings(unittest.TestCase):
    def test_what_a_recording_shows(self) -> None:
        """A capacitor of twice its value holds the shutter open twice as long: t = C U / I, any textbook."""
        shutter = next(one.text for one in templates() if one.stem == "silicon-shutter")
        times, stands = [], Setting(switches=(("s2", "pressed"),), light_lx=1000.0)
        for faults in ((Fault("Rclip", "high resistance", 0.2),), (Fault("Ct", "too high", 2.0),)):
            job = exercise.stand(begun(own_exercise_of(shutter, faults)), stands, AT).job
            job = understand(job, "time").act(job, AT).job
            times.append(job.tracing.now[-1].evidence.value)
            self.assertEqual(exercise.course_of(job).steps[-1].opens, ())  # timed from outside
        self.assertAlmostEqual(times[1] / times[0], 2.0, delta=0.3)
        dead = exercise.stand(begun(own_exercise_of(shutter, (Fault("Iph", "dead", 0.0),))), stands, AT).job
        self.assertIn("never lets go", understand(dead, "time").act(dead, AT).reason)
        clocks = next(one.text for one in templates() if one.stem == "regulator-clock")
        seen = {}
        for name, faults in (("lead", (Fault("Rwred", "open", 1e9),)), ("track", (Fault("Rclk", "open", 1e9),))):
            job = begun(own_exercise_of(clocks, faults))
            for line in ("clock at clk", "clock at clkin", "wakes"):
                job = understand(job, line).act(job, AT).job
            seen[name] = [one.evidence.value for one in job.tracing.now]
        self.assertEqual(seen, {"lead": [0.0, 0.0, 0.0], "track": [1.0, 0.0, 0.0]})
        with self.assertRaises(CannotSolve):
            understand(job, "clip+ swings").act(job, AT)  # no regulator feeds it
        for line in ("time", "time at 1/30", "clock at nowhere", "nowhere swings"):
            with self.subTest(line), self.assertRaises(InvalidInput):
                understand(job, line).act(job, AT)
