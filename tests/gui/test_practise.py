"""An exercise by keys: begun, measured, said, mended, looked back over on the real stations; nothing of it shows before, and
nothing of it gets among the jobs."""

import json
import unittest
from dataclasses import replace

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, wait_until
from violet_dial.core.practice.exercise import ExerciseWish
from violet_dial.gui.exercise_window import ExerciseWindow
from violet_dial.gui.making_window import MakingWindow
from violet_dial.gui.start import to_practice
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.job.schema import job_to_json
from violet_dial.practise.begun import drawn
from violet_dial.practise.exercise import secret_of
from violet_dial.practise.files import Given, exercises_in, set_file
from violet_dial.practise.state import PROGRESS, REPLAY
from violet_dial.services.circuits import templates
from violet_dial.stations.trace.acts import choose_circuit

WORKED_MS = 240_000
SEED = "2"  # level 1: a meter switch of some kilohms
LINES = ("clip+ to gnd volts", "lead to sw volts", "sw to swo volts")


class Practised(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.window.practice_asked.connect(lambda: to_practice(self.window))

    def to_practice(self) -> None:
        self.press(KEY.Key_P, CTRL | SHIFT)
        self.until(lambda: self.window.jobs.title.text() == "Practise")

    def begun(self) -> None:
        """An exercise by keys: Enter through the fields, the seed typed."""
        self.press(KEY.Key_N, CTRL)
        window = self.dialog
        assert isinstance(window, ExerciseWindow)
        for _field in range(3):
            self.press(KEY.Key_Return)
        self.type_in(SEED)
        self.press(KEY.Key_Return)
        self.press(KEY.Key_Return)
        self.until(lambda: self.window.on_job, window.said.text())
        self.press(KEY.Key_F9)

    @property
    def at_practise(self):  # type: ignore[no-untyped-def]
        return self.page.at("Practise")

    @property
    def job(self) -> Job:
        found: Job = self.page.view.job
        return found

    def line(self, text: str) -> None:
        self.at_practise.bench.typed.edit.setFocus()
        self.type_in(text)
        self.press(KEY.Key_Return)

    def worked_out(self) -> None:
        """What came of it is worked out beside: long on a busy machine."""
        self.assertTrue(wait_until(lambda: self.job.practising.outcome is not None, WORKED_MS))

    def settled(self) -> None:
        self.assertTrue(wait_until(lambda: self.at_practise.settled, WORKED_MS))

    def test_an_exercise_from_the_jobs_screen_to_its_replay(self) -> None:
        self.to_practice()
        self.begun()
        self.assertEqual(self.job.device.name, f"Practice {SEED}, level 1")
        for text in LINES:
            self.line(text)
        self.assertEqual(len(self.job.tracing.now), len(LINES))
        self.settled()
        self.assertIn("bit", self.at_practise.bench.reason.text())
        self.line("say plus clip open 55 %")
        self.line("say meter switch high resistance 85 %")
        self.line("mend meter switch high resistance")
        self.assertEqual(self.job.practising.ended, "found")
        self.worked_out()
        outcome = self.job.practising.outcome
        assert outcome is not None
        self.assertEqual([one.player for one in outcome.paths], ["next", "few", "halves"])
        self.press(KEY.Key_F9)  # to the replay
        self.assertEqual(self.at_practise.pages.place, REPLAY)
        self.assertIn("points", self.page.at("Practise").replay.view.shown.headline)
        self.at_practise.replay.view.setFocus()
        self.press(KEY.Key_Right)
        self.press(KEY.Key_Return)  # the stations as they stood after the second test
        self.assertEqual(len(self.job.tracing.now), 2)
        self.press(KEY.Key_3, ALT)
        self.until(lambda: self.page.settled and bool(self.page.at("Trace").suspects.shown.bars))
        self.press(KEY.Key_F9)  # the replay is left: all of it is back
        self.assertFalse(self.job.practising.is_replayed)
        self.assertEqual([len(one) for one in self.job.tracing.epochs], [3, 0])
        self.press(KEY.Key_9, ALT)
        self.at_practise.turn_to(PROGRESS)
        self.settled()
        self.assertIn("1 exercise · 1 found", self.at_practise.progress.headline.text())
        self.assertEqual([one.name for one in self.at_practise.progress.progress.skills], ["switch, meter"])
        self.press(KEY.Key_F3)
        self.assertIn("points = ", self.text_of(self.dialog))
        self.press(KEY.Key_Escape)

    def text_of(self, window: object) -> str:
        return window.text.toPlainText()  # type: ignore[attr-defined]

    def test_what_is_hidden_is_not_to_be_read(self) -> None:
        self.to_practice()
        self.begun()
        self.line(LINES[0])
        secret = secret_of(self.job.practising.sealed)
        hidden = secret.exercise.faults[0]
        plain = job_to_json(replace(self.job, tracing=replace(self.job.tracing, circuit_text=""))).decode()
        for word in (hidden.name, hidden.mode, f"{hidden.figure:.0f}"):
            self.assertNotIn(word, plain)
        bundle = self.window.workshop.export_bundle(self.job.job_id)
        self.assertNotIn(hidden.mode.encode(), bundle)
        for row in self.page.view.log:
            self.assertNotIn(hidden.part, row.reason)
        self.press(KEY.Key_3, ALT)
        self.until(lambda: self.page.settled)
        trace = self.page.at("Trace")
        self.assertEqual(
            (trace.suspects.shown.bars, trace.suspects.shown.summary, trace.suspects.shown.next.test), ((), HIDDEN, None)
        )
        self.press(KEY.Key_9, ALT)
        self.line("coach everything")
        self.press(KEY.Key_3, ALT)
        self.until(lambda: bool(trace.suspects.shown.bars) and trace.settled)
        self.press(KEY.Key_9, ALT)
        self.line("give up")
        self.assertEqual(self.job.practising.faults, (hidden,))
        self.worked_out()

    def test_a_broken_seal_is_said_and_harms_nothing(self) -> None:
        self.to_practice()
        self.begun()
        sealed = self.job.practising.sealed
        broken = sealed[:40] + ("A" if sealed[40] != "A" else "B") + sealed[41:]

        def hurt(job: Job, at: str) -> ActResult:
            return ActResult(replace(job, practising=replace(job.practising, sealed=broken)), "Job", "hurt")

        self.page.perform(hurt)
        self.assertIn("cannot be opened", self.at_practise.bench.headline.text())
        self.line("clip+ to gnd volts")
        self.assertEqual(self.job.tracing.now, ())
        self.at_practise.bench.typed.clear()
        for key in (KEY.Key_3, KEY.Key_5, KEY.Key_6, KEY.Key_9):
            self.press(key, ALT)
        self.press(KEY.Key_F3)
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.job.practising.sealed, sealed)
        self.line("clip+ to gnd volts")
        self.assertEqual(len(self.job.tracing.now), 1)

    def test_next_is_said_after_a_minute_of_thought(self) -> None:
        self.to_practice()
        self.begun()
        self.line("coach next")
        self.settled()
        self.assertEqual(self.at_practise.bench.next_words, "")
        self.at_practise.bench.thinking_s = 1.5
        self.until(lambda: "bit" in self.at_practise.side_panel.words.text(), self.at_practise.side_panel.words.text())

    def test_slips_have_their_price_and_wrong_lines_are_refused(self) -> None:
        self.to_practice()
        self.begun()
        for wrong in ("clip+ to gnd 1.3 V", "nowhere to gnd volts", "say red wire open", "say red wire open 100 %",
                      "say R99 open 50 %", "mend everything", "coach me", "motor"):  # fmt: skip
            with self.subTest(wrong):
                self.line(wrong)
                self.assertEqual(self.job.practising.said, ())
                self.assertEqual(self.at_practise.bench.typed.edit.text(), wrong)
                self.at_practise.bench.typed.clear()
        self.assertEqual(self.job.tracing.now, ())
        self.line("clip+ to lead ohms")
        self.assertEqual(self.job.practising.slips[0].kind, "ohms with the supply in")
        self.line("cells out")
        self.line("clip+ to lead ohms")
        self.assertEqual(len(self.job.tracing.now), 1)
        self.assertIn("min", self.at_practise.bench.headline.text())

    def test_exercises_and_jobs_never_mix(self) -> None:
        self.new_job()
        job_bundle = self.window.workshop.export_bundle(self.job.job_id)
        self.press(KEY.Key_Escape)
        made = self.folder / "set.json"
        several = tuple(Given(f"Lesson {n}", drawn(ExerciseWish(n, 1))) for n in (1, 2))
        made.write_bytes(set_file("First week", several))
        self.assertNotIn("high resistance", made.read_text(encoding="utf-8"))
        self.window.jobs_acts.take([str(made)])
        self.until(lambda: "never lie among jobs" in self.said, self.said)
        self.to_practice()
        self.window.jobs_acts.take([str(made)])
        self.until(lambda: self.window.jobs.model.rowCount() == 2, self.said)
        found = [self.window.workshop.view(card.job_id).job for card in self.window.jobs.model.cards]
        found.sort(key=lambda one: one.number)
        said = [(one.device.name, one.practising.set_name, one.practising.set_place) for one in found]
        self.assertEqual(said, [("Lesson 1", "First week", 1), ("Lesson 2", "First week", 2)])
        (self.folder / "job.zip").write_bytes(job_bundle)
        self.window.jobs_acts.take([str(self.folder / "job.zip")])
        self.until(lambda: "take it in at the jobs" in self.said, self.said)
        exercise = self.folder / "exercise.zip"
        exercise.write_bytes(self.window.workshop.export_bundle(found[0].job_id))
        self.press(KEY.Key_P, CTRL | SHIFT)
        self.until(lambda: self.window.jobs.title.text() == "Jobs")
        self.assertEqual([card.title for card in self.window.workshop.cards()], ["Kittiwake hand meter"])
        self.window.jobs_acts.take([str(exercise)])
        self.until(lambda: "take it in at practice" in self.said, self.said)
        self.assertEqual(self.window.jobs.model.rowCount(), 1)
        self.assertEqual(json.loads(made.read_text())["title"], "First week")

    def begun_under_light(self) -> None:
        self.to_practice()
        self.press(KEY.Key_N, CTRL)
        window = self.dialog
        assert isinstance(window, ExerciseWindow)
        window.kind.setFocus()
        while window.kind.currentText() != "meter under light":
            self.press(KEY.Key_Down)
        window.seed.setFocus()
        self.type_in("1")
        self.press(KEY.Key_Return)
        self.press(KEY.Key_Return)
        self.until(lambda: self.window.on_job, window.said.text())
        self.press(KEY.Key_F9)

    def test_a_meter_under_light_by_readings_alone(self) -> None:
        self.begun_under_light()
        for text in ("12 Ev", "6 Ev falling", "clip+ to gnd volts"):
            self.line(text)
        self.assertEqual([one.test for one in self.job.practising.readings], ["12 Ev rising", "6 Ev falling"])
        self.at_practise.bench.typed.clear()
        self.press(KEY.Key_5, ALT)
        self.press(KEY.Key_F6)
        self.type_in("9")
        self.press(KEY.Key_F7)
        self.type_in("9.2")
        self.press(KEY.Key_F8)
        light = self.page.at("Light")
        self.until(lambda: light.front.shown.headline == "3 readings", light.front.shown.headline)
        self.assertEqual(light.front.shown.reason, HIDDEN)
        self.press(KEY.Key_9, ALT)
        self.assertEqual([one.test for one in self.job.practising.readings][2], "9 Ev rising")
        fault = secret_of(self.job.practising.sealed).exercise.faults[0]
        self.line("say sings 90 %")
        self.at_practise.bench.typed.clear()
        self.line(f"say {fault.mode} 90 %")
        self.line(f"mend {fault.mode}")
        self.assertEqual(self.job.practising.ended, "found")
        self.assertEqual(len(self.job.light.current.readings), 3)
        self.worked_out()
        self.press(KEY.Key_F9)
        self.at_practise.replay.view.setFocus()
        self.press(KEY.Key_Return)
        self.assertEqual(len(self.job.light.current.readings), 1)
        self.press(KEY.Key_F9)
        self.assertEqual(len(self.job.light.current.readings), 3)
        self.until(lambda: bool(self.at_practise.progress.progress.skills))
        self.assertIn("meter under light", self.at_practise.progress.progress.skills[0].name)

    def test_exercises_of_one_s_own_from_a_job_s_circuit(self) -> None:
        self.new_job()
        text = next(one.text for one in templates() if one.stem == "cds-bridge")
        self.page.perform(lambda job, at: choose_circuit(job, "mine", text, at))
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_M, CTRL | SHIFT)
        self.assertIn("Ctrl+Shift+P", self.said)
        self.to_practice()
        self.press(KEY.Key_M, CTRL | SHIFT)
        window = self.dialog
        assert isinstance(window, MakingWindow)
        self.until(lambda: window.circuit.count() == len(templates()) + 3)
        window.circuit.setFocus()
        self.press(KEY.Key_End)
        self.assertIn("Kittiwake", window.circuit.currentText())
        for number, fault in enumerate(("red wire open", "plus clip high resistance"), 1):
            window.fault.edit.setFocus()
            self.type_in("R99 open")
            self.press(KEY.Key_Return)
            self.assertFalse(window.add.isEnabled())
            self.press(KEY.Key_A, CTRL)
            self.type_in(fault)
            self.press(KEY.Key_Return)
            window.add.setFocus()
            self.press(KEY.Key_Return)
            self.until(lambda number=number: f"Exercise {number} is in the file" in window.said.text(), window.said.text())
        window.circuit.setFocus()
        while window.circuit.currentText() != "shutter speeds":
            self.press(KEY.Key_Up)
        window.fault.edit.setFocus()
        self.type_in("slow speeds hang")
        self.press(KEY.Key_Return)
        window.add.setFocus()
        self.press(KEY.Key_Return)
        self.until(lambda: "Exercise 3 is in the file" in window.said.text(), window.said.text())
        window.write.setFocus()
        self.press(KEY.Key_Return)
        self.name_file(self.folder / "mine.json")
        data = (self.folder / "mine.json").read_bytes()
        self.assertEqual([one.secret.exercise.faults[0].part for one in exercises_in(data)], ["Rwred", "Rclip", "shutter"])
        self.assertIn("3 exercises written", self.said)


if __name__ == "__main__":
    unittest.main()
