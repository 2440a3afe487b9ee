"""Expose by keys alone: firings typed and heard by the sound card, a recording taken in, shots typed; nothing of the last job."""

import unittest

import numpy as np
from PIL import Image

from bench.pictures import changed, shipped
from tests.cli.test_shutter import recorded, wav
from tests.gui.test_live import Live
from tests.gui.window import ALT, CTRL, KEY
from tests.stations.expose.test_traces import CLOCK, SAW, capture
from violet_dial.core.exposure.said import time_said
from violet_dial.services.circuits import templates
from violet_dial.services.recordings import recording_of
from violet_dial.services.simulated import SHUTTER_OF
from violet_dial.stations.trace.acts import choose_circuit


class AtExpose(Live):
    def setUp(self) -> None:
        super().setUp()
        self.to_expose()

    def to_expose(self) -> None:
        self.press(KEY.Key_6, ALT)
        self.expose = self.page.at("Expose")

    @property
    def exposing(self):  # type: ignore[no-untyped-def]
        return self.page.view.job.exposing

    def say(self, text: str) -> None:
        self.type_in(text)
        self.press(KEY.Key_Return)


class Speeds(AtExpose):
    def test_typed_firings_stand_on_the_ladder_and_go_again(self) -> None:
        self.say("speeds 1 to 1/500")
        self.say("1/4 0.44 s")
        ladder = self.expose.speeds.ladder
        self.assertEqual([one.mark for one in ladder.rungs][:3], ["1 s", "1/2", "1/4"])
        self.assertEqual(ladder.rungs[2].state, "high")
        self.press(KEY.Key_F5)
        self.assertIs(self.focused, ladder)
        for _ in range(12):
            self.press(KEY.Key_Up)
        self.press(KEY.Key_Down)
        self.press(KEY.Key_Down)
        self.assertIn("1/4: 1 firings", ladder.accessibleName())
        self.press(KEY.Key_Delete)
        self.assertEqual(self.exposing.fired, ())
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(len(self.exposing.fired), 1)
        self.press(KEY.Key_Return)
        self.assertTrue(ladder.rungs[2].is_next)

    def test_a_line_that_is_not_understood_stays_and_changes_nothing(self) -> None:
        self.say("1/125 9.2")
        self.assertEqual(self.exposing.fired, ())
        self.assertIn("ms or s", self.expose.speeds.typed.said.text())
        self.assertEqual(self.expose.speeds.typed.edit.text(), "1/125 9.2")

    def test_the_sound_card_takes_what_simulated_hands_fire(self) -> None:
        self.live.start_simulated({f"{SHUTTER_OF} Gannet reflex": "ratio 0.8"})
        self.say("speeds 1/30 to 1/250")
        speeds = self.expose.speeds
        self.press(KEY.Key_F8)
        self.assertTrue(speeds.hearing.armed)
        asked = speeds._asked
        for count in (1, 2, 3):
            self.press(KEY.Key_T, CTRL)
            self.until(lambda count=count: len(self.exposing.fired) == count, speeds.listens.text())
        first = self.exposing.fired[0]
        self.assertEqual(first.marked_s, asked)
        self.assertAlmostEqual(first.time_s / first.marked_s, 2**0.8, delta=0.3)
        self.assertIn(time_said(self.exposing.fired[-1].marked_s), speeds.listens.text())
        self.assertEqual(speeds.ladder.rungs[speeds.ladder.place].marked_s, self.exposing.fired[-1].marked_s)
        self.assertTrue(speeds.light.shown.points)
        self.press(KEY.Key_F8)
        self.assertFalse(speeds.hearing.armed)
        self.press(KEY.Key_E, CTRL)
        self.name_file(self.folder / "live.wav")
        self.until((self.folder / "live.wav").exists, self.said)
        self.assertGreater(recording_of((self.folder / "live.wav").read_bytes(), "live.wav").count, 48_000)

    def test_hands_free_arms_it_and_lets_go_of_it(self) -> None:
        self.live.start_simulated({})
        self.say("speeds 1/30 to 1/250")
        self.press(KEY.Key_F10)
        self.assertTrue(self.expose.speeds.hearing.armed)
        self.press(KEY.Key_F10)
        self.assertFalse(self.expose.speeds.hearing.armed)

    def test_another_job_shows_nothing_of_the_last_one_and_is_not_listened_to(self) -> None:
        self.live.start_simulated({})
        self.say("1/125 9.2 ms")
        self.press(KEY.Key_F8)
        self.type_in("1/60 half typed")
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Escape)
        self.new_job("Tern reflex", "1/30 sounds slow")
        self.to_expose()
        speeds = self.expose.speeds
        self.assertFalse(speeds.hearing.armed)
        self.assertEqual((speeds.typed.edit.text(), speeds.ladder.rungs), ("", ()))

    def test_a_firing_before_any_speed_was_said_is_refused_with_what_to_do(self) -> None:
        self.live.start_simulated({})
        self.new_job()
        self.to_expose()
        self.press(KEY.Key_F8)
        self.expose.speeds.fire(1 / 60)
        self.until(lambda: "speeds 1 to 1/500" in self.said, self.said)
        self.assertEqual(self.exposing.fired, ())

    def test_without_a_card_that_is_said(self) -> None:
        self.press(KEY.Key_F8)
        if not self.expose.speeds.hearing.armed:  # the machine of the checks has none
            self.assertIn("simulated bench", self.said)


class Lamps(AtExpose):
    def test_a_time_the_automatic_chose_is_heard_at_what_is_typed(self) -> None:
        self.live.start_simulated({f"{SHUTTER_OF} Gannet reflex": "ratio 1"})
        self.press(KEY.Key_Tab, CTRL)
        self.say("iso 400")
        self.type_in("f/5.6 2560 lx")
        self.press(KEY.Key_F8)
        self.assertTrue(self.expose.speeds.hearing.armed)
        self.press(KEY.Key_T, CTRL)
        self.until(lambda: len(self.exposing.auto) == 1, self.said)
        chosen = self.exposing.auto[0]
        self.assertAlmostEqual(chosen.time_s * 128, 2.0, delta=0.4)
        self.assertEqual(self.exposing.fired, ())
        self.press(KEY.Key_Return)
        self.assertEqual(self.exposing.lamps, ())
        self.type_in(" none")
        self.press(KEY.Key_Return)
        self.assertEqual(len(self.exposing.lamps), 1)


class Files(AtExpose):
    def test_a_recording_is_read_said_and_taken_by_enter(self) -> None:
        self.say("speeds 1/8 to 1/500")
        path = self.folder / "shutter.wav"
        path.write_bytes(wav(recorded(1 / 60)))
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.assertIn("Take 1 firings", self.dialog.take.text())  # type: ignore[attr-defined]
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertEqual(len(self.exposing.fired), 1)
        self.assertEqual(self.exposing.fired[0].marked_s, 1 / 64)


class Shots(AtExpose):
    def test_shots_by_keys(self) -> None:
        for _ in range(2):
            self.press(KEY.Key_Tab, CTRL)
        self.say("film 4")
        self.say("4 0 -2")
        self.assertEqual((len(self.exposing.shots), self.exposing.film_left), (1, 3))
        shown = self.expose.shots.view.shown
        self.assertTrue(any(one.is_next for one in shown.steps))
        self.assertIn("Shading the cell makes the picture brighter", self.expose.shots.rule.text())
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.exposing.shots, ())

    def test_two_pictures_are_laid_over_each_other(self) -> None:
        for _ in range(2):
            self.press(KEY.Key_Tab, CTRL)
        first, second = changed(dict(shipped())["coins"], 1.0, np.random.default_rng(2))
        self.say("card 0.6 0.4 0.2 0.2")
        for name, codes in (("a.png", first), ("b.png", second)):
            Image.fromarray(np.round(codes * 255).astype(np.uint8)).save(self.folder / name)
        self.press(KEY.Key_R, CTRL)
        self.name_file(self.folder / "a.png", self.folder / "b.png")
        self.until(lambda: bool(self.expose.shots.compared), self.said)
        self.assertIn("brighter as a picture", self.expose.shots.compared[1])
        self.assertIn("The card of b.png", self.expose.shots.compared[-1])
        self.press(KEY.Key_R, CTRL)
        self.press(KEY.Key_Escape)
        self.assertTrue(self.no_dialog)


class Traces(AtExpose):
    def test_a_capture_is_taken_zoomed_and_moved_by_keys(self) -> None:
        for _ in range(3):
            self.press(KEY.Key_Tab, CTRL)
        path = self.folder / "rail.csv"
        path.write_bytes(capture(SAW, CLOCK))
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.assertIn("Take 2 traces", self.dialog.take.text())  # type: ignore[attr-defined]
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        view = self.expose.traces.view
        self.assertEqual((len(view.rows), len(view.pyramids)), (2, 2))
        self.press(KEY.Key_F5)
        self.assertIs(self.focused, view)
        self.press(KEY.Key_Up)
        self.assertIn("sawtooth", view.accessibleName())
        for _ in range(3):
            self.press(KEY.Key_Plus)
        self.press(KEY.Key_Right)
        self.assertGreater(view.first, 0.3)
        self.press(KEY.Key_0)
        self.assertEqual((view.first, view.last), (0.0, 1.0))

    def test_the_trace_of_the_simulated_oscilloscope(self) -> None:
        text = next(one.text for one in templates() if one.stem == "regulator-clock")
        self.page.perform(lambda job, at: choose_circuit(job, "clock", text, at))
        self.live.start_simulated({"clock": "Cstab:open"})
        self.live.aim()
        for _ in range(3):
            self.press(KEY.Key_Tab, CTRL)
        self.type_in("vreg to gnd")
        self.press(KEY.Key_T, CTRL)
        self.press(KEY.Key_F8)
        self.until(lambda: len(self.exposing.traces) == 1, self.said)
        taken = self.exposing.traces[0]
        self.assertEqual((taken.name, taken.shape), ("vreg to gnd", "sawtooth"))
        self.assertAlmostEqual(taken.mean, 2.6, delta=0.1)
        self.say("1 to trace")
        self.assertEqual(self.page.view.job.tracing.now[-1].evidence.test, "ripple")


if __name__ == "__main__":
    unittest.main()
