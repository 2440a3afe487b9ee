"""Lines typed at Expose, what becomes of them, and files in and out."""

import math
import unittest
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from tests.cli.test_shutter import recorded, wav
from tests.workshops import next_act
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.exposure.said import time_said
from violet_dial.core.exposure.trim import TestShot
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.proving import NamedRepair
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.services.circuits import templates
from violet_dial.services.job_shutter import speeds_of
from violet_dial.stations import STATIONS
from violet_dial.stations.expose import acts, lamps_acts, shots_acts, state, table
from violet_dial.stations.expose.bench import patterns_of, speeds_judged, timed_of
from violet_dial.stations.expose.paper import paper
from violet_dial.stations.expose.shots_state import trim_of
from violet_dial.stations.expose.speeds_state import light_shown, speeds_shown
from violet_dial.stations.expose.sum import lamps_opened, opened, shots_opened, traces_opened
from violet_dial.stations.trace.acts import choose_circuit

AT = "2026-11-03T09:12:00+00:00"


def camera(fault: str = "Slow speeds hang", kind: str = "rangefinder compact") -> Job:
    return Job("j", 1, Device("Turnstone compact", kind=kind), Intake(fault))  # type: ignore[arg-type]


def said(job: Job, *lines: str) -> Job:
    for line in lines:
        job = acts.say_line(job, line, AT).job
    return job


class Speeds(unittest.TestCase):
    def test_firings_as_they_are_typed(self) -> None:
        for line, mark, times in (
            ("1/125 9.2 ms", 1 / 128, (0.0092,)), ("125 9,2 9.4ms", 1 / 128, (0.0092, 0.0094)), ("1 s 1.05 s", 1.0, (1.05,)),
            ("1/30 1/28", 1 / 32, (1 / 28,)), ("2 2.2s", 0.5, (2.2,)), ("rested 1/30 36 ms", 1 / 32, (0.036,)),
        ):  # fmt: skip
            found = acts.understand(camera(), line)
            with self.subTest(line):
                self.assertEqual((found.kind, found.marked_s), ("fired", mark))
                np.testing.assert_allclose([one.time_s for one in found.fired], times)
        self.assertTrue(acts.understand(camera(), "rested 1/30 36 ms").fired[0].rested)

    def test_what_cannot_be_understood_says_what_to_type(self) -> None:
        for line in (
            "", "1/125 9.2", "fast", "1/125 9 lx", "speeds 1", "works best", "tolerance much", "frame wide", "last 3 as 1/30",
            "1/125 900 s", "0 1 ms", "frame 36 sensors 4 90",
        ):  # fmt: skip
            with self.subTest(line), self.assertRaises(VioletDialError):
                acts.say_line(camera(), line, AT)

    def test_the_dial_the_works_and_what_is_allowed(self) -> None:
        job = said(
            camera(), "speeds 2 s to 1/30", "works electronic", "tolerance 1/4 fastest 1/3", "frame 24 sensors 2.4 12 21.6"
        )
        self.assertEqual(speeds_of(job)[:2], (2.0, 1.0))
        self.assertEqual((job.exposing.works, job.exposing.tolerance_stops), ("electronic", 0.25))
        self.assertEqual(job.exposing.sensors_mm, (2.4, 12.0, 21.6))
        self.assertEqual(speeds_of(camera())[-1], 1 / 512)
        self.assertEqual(speeds_of(Job("j", 1)), ())

    def test_a_flash_contact_on_the_second_channel(self) -> None:
        light = recorded(1 / 60)
        contact = np.full(len(light), 0.9, dtype=np.float32)
        contact[int(0.375 * 48000) : int(0.38 * 48000)] = 0.0
        job = said(camera(), "channels light,flash")
        listing, act = table.FILE_IN.read(job, "a.wav", wav(np.stack([light[:, 0], contact], axis=1)))
        assert listing is not None
        fired = act(job, AT).job.exposing.fired[0]
        self.assertIsNotNone(fired.contact_after_s)
        self.assertIn("flash contact", " ".join(speeds_shown(act(job, AT).job).seen))
        with self.assertRaises(VioletDialError):
            said(camera(), "channels lamp")

    def test_a_time_is_evidence_at_trace(self) -> None:
        text = next(one.text for one in templates() if one.stem == "silicon-shutter")
        job = choose_circuit(camera(), "magnet", text, AT).job
        job = said(job, "1/30 120 ms", "1/30 to trace")
        taken = job.tracing.now[-1].evidence
        self.assertEqual((taken.test, taken.part, round(taken.value, 6)), ("time", "Ct", 0.12))
        for line in ("1/8 to trace", "tomorrow to trace"):
            with self.assertRaises(VioletDialError):
                said(job, line)
        with self.assertRaises(VioletDialError):
            said(camera(), "1/30 120 ms", "1/30 to trace")

    def test_what_trace_is_given_is_since_the_repair_and_with_its_uncertainty(self) -> None:
        """80 ms before the repair and 31 ms after it are 31 ms, not 49.8; as the ladder beside it says."""
        circuit = next(one for one in templates() if one.stem == "silicon-shutter")
        job = choose_circuit(camera(), circuit.title, circuit.text, AT).job
        job = said(job, "1/30 80 ms", "1/30 81 ms")
        mended = (*job.proving.mends, NamedRepair("escapement cleaned", "2026-11-03T10:00:00+00:00"))
        job = replace(job, proving=replace(job.proving, mends=mended))
        for line in ("1/30 31 ms", "1/30 31.4 ms"):
            job = acts.say_line(job, line, "2026-11-03T11:00:00+00:00").job
        rung = next(one for one in speeds_judged(job).ladder.rungs if one.errors)
        evidence = acts.say_line(job, "1/30 to trace", AT).job.tracing.now[-1].evidence
        self.assertAlmostEqual(evidence.value, 1 / 32 * 2**rung.mean_stops, places=9)
        self.assertLess(abs(evidence.value - 0.0312), 0.0003)
        self.assertAlmostEqual(evidence.u, evidence.value * math.log(2) * rung.u_stops, places=9)
        self.assertIn("2 firings", speeds_shown(job).stands)

    def test_firings_are_put_elsewhere_and_left_out(self) -> None:
        job = said(camera(), "1/125 9 ms", "1/125 31 ms", "last 1 as 1/30")
        self.assertEqual([one.marked_s for one in job.exposing.fired], [1 / 128, 1 / 32])
        self.assertEqual(len(acts.drop_last(job, 1 / 32, AT).job.exposing.fired), 1)
        with self.assertRaises(InvalidInput):
            acts.drop_last(job, 1.0, AT)

    def test_rest_is_told_from_the_clock(self) -> None:
        job, now = camera(), datetime.fromisoformat(AT)
        for minutes in (0, 1, 2, 90, 91):
            at = (now + timedelta(minutes=minutes)).isoformat()
            job = acts.say_line(job, "1/30 40 ms", at).job
        self.assertEqual([one.since_rest for one in timed_of(job.exposing.fired)], [0, 1, 2, 0, 1])

    def test_kept_as_it_stands(self) -> None:
        job = said(camera(), "1/125 9 ms", "works leaf")
        self.assertEqual(job_from_json(job_to_json(job)), job)

    def test_next_says_which_speed_until_all_are_decided(self) -> None:
        job = said(camera(), "speeds 1/30 1/60 1/125")
        order = []
        for _ in range(30):
            act = next_act(job, STATIONS)
            if act.station != "Expose":
                break
            order.append(act.title)
            mark = speeds_judged(job).next
            assert mark is not None
            job = said(job, f"{time_said(mark.marked_s)} {1000 * mark.marked_s * 1.1:.3f} ms")
        self.assertEqual(order, ["Fire at 1/125", "Fire at 1/30", "Fire at 1/60"])
        self.assertEqual(state.state(job), "done")
        self.assertIn("within", str(paper(job)))
        self.assertIn("√", str(opened(job)))

    def test_the_page_says_what_is_wrong(self) -> None:
        marks = speeds_of(camera())
        times = [f"{time_said(one)} {1000 * one * (1.8 if one >= 0.25 else 1.02):.3f} ms" for one in marks]
        job = said(camera(), *times)
        self.assertEqual(speeds_shown(job).headline, "3 of 10 speeds off")  # the ladder at once, before it is weighed
        self.assertTrue(patterns_of(job))
        shown = speeds_shown(job)
        self.assertIn("1/4 and slower slow", shown.headline)
        self.assertEqual([one.state for one in shown.rungs], ["high"] * 3 + ["inside"] * 7)
        self.assertIn("escapement", shown.patterns[0].words)
        self.assertIn("not fired yet", light_shown((), 0.5).words)
        self.assertEqual(speeds_shown(Job("j", 1)).rungs, ())

    def test_a_recording_goes_to_the_nearest_speeds_and_out_as_csv(self) -> None:
        both = np.concatenate([recorded(1 / 60), recorded(1 / 8, "ratio 0.2")])
        listing, act = table.FILE_IN.read(camera(), "a.wav", wav(both))
        assert listing is not None
        self.assertEqual(listing.offered, 2)
        job = act(camera(), AT).job
        self.assertEqual([one.marked_s for one in job.exposing.fired], [1 / 64, 1 / 8])
        shown = light_shown(job.exposing.fired, 1 / 8)
        self.assertGreater(len(shown.points), 100)
        self.assertIn("efficiency", shown.words)
        written = table.FILE_OUT.write(job, "x.csv", None).decode().splitlines()
        self.assertEqual((len(written), written[0].split(",")[:3]), (3, ["marked_s", "time_s", "u_s"]))
        with self.assertRaises(InvalidInput):
            table.FILE_OUT.write(job, "x.wav", None)


class Shots(unittest.TestCase):
    def shoot(self, job: Job, *lines: str) -> Job:
        for line in lines:
            job = shots_acts.say_line(job, line, AT).job
        return job

    def test_shots_as_they_are_typed_and_film_counted(self) -> None:
        job = self.shoot(
            camera("Pictures come out dark", "instant camera"), "film 3", "5 0 -1.5", "wheel 8 slider 1 right indoors flash"
        )
        one, two = job.exposing.shots
        self.assertEqual((one.wheel, one.slider, one.stops, one.flash), (5.0, 0.0, -1.5, False))
        self.assertEqual((two.wheel, two.slider, two.stops, two.scene, two.flash), (8.0, 1.0, 0.0, "indoors", True))
        self.assertEqual(job.exposing.film_left, 1)
        for line in ("", "bright", "5 0 -30", "12 0 -1", "film x", "marks wheel 1", "marks wheel 6 to 9"):
            with self.subTest(line), self.assertRaises(VioletDialError):
                self.shoot(job, line) if line != "marks wheel 1" else self.shoot(job, line, "5 0 1")

    def test_next_is_a_frame_and_what_it_says_goes_the_right_way(self) -> None:
        job = camera("Pictures come out dark", "instant camera")
        act = next_act(job, STATIONS)
        self.assertEqual((act.station, act.kind, act.page), ("Expose", "shoot", state.SHOTS))
        dark = trim_of(self.shoot(job, "4 0 -2"))
        self.assertGreater(dark.best.wheel + dark.best.slider, 4)
        self.assertIn("Shading the cell makes the picture brighter", dark.words)

    def test_the_sum_of_each_page(self) -> None:
        empty = camera()
        for one in (opened, lamps_opened, shots_opened, traces_opened):
            self.assertEqual(one(empty)[1][0][0], "Nothing yet")
        job = self.shoot(camera(kind="instant camera"), "5 0 -1.5")
        title, sections = shots_opened(job)
        self.assertIn("test shots", title)
        self.assertIn("expected", sections[1][1][0])
        job = lamps_acts.say_line(job, "f/5.6 640 lx none", AT).job
        self.assertIn("t = N² C / (E S)", lamps_opened(job)[1][0][1][0])

    def test_csv_there_and_back(self) -> None:
        job = self.shoot(camera(kind="instant camera"), "5 0 -1.5", "8 0 -0.5 indoors")
        self.assertEqual(
            table.read_shots(table.write_shots(job.exposing.shots).encode()),
            (TestShot(5.0, 0.0, -1.5), TestShot(8.0, 0.0, -0.5, "indoors")),
        )


if __name__ == "__main__":
    unittest.main()
