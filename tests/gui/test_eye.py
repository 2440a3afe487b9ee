"""The eye at Light by keys: marks put on the camera's picture, the needle read into the bar, a check that runs by itself."""

import unittest

from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, wait_until
from violet_dial.core.eye.needle import NeedleReading
from violet_dial.core.records.light import Chain, LuxMeter, TrustedMeter
from violet_dial.gui.instruments_window import InstrumentsWindow
from violet_dial.instruments.simulated.dial import DialLook, DialShot, SimulatedDial
from violet_dial.instruments.simulated.meter import LAMPS_AT
from violet_dial.job.document import Job
from violet_dial.job.light import LightSetup
from violet_dial.report.blocks import Lines
from violet_dial.services.light_judgement import judge
from violet_dial.stations.light.acts import change_setup
from violet_dial.stations.light.by_itself import ByItself
from violet_dial.stations.light.eye_run import wanted_of
from violet_dial.stations.light.eyes import unpacked
from violet_dial.stations.light.paper import paper

MINUTES_MS = 300_000
TRUTH = {"meter of Kittiwake hand meter": "offset 0.8"}


class Eyes(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job()
        self.page.perform(lambda job, at: change_setup(job, LightSetup(chain=Chain(LuxMeter(u_relative=0.03))), at))

    def to_eye(self, hidden: dict[str, str] | None = None) -> None:
        if hidden is not None:
            self.window.live.start_simulated(hidden)
        self.press(KEY.Key_5, ALT)
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Tab, CTRL)
        self.assertTrue(self.eye.isVisible())

    @property
    def eye(self):  # type: ignore[no-untyped-def]
        return self.page.at("Light").eye

    @property
    def job(self) -> Job:
        found: Job = self.page.view.job
        return found

    @property
    def camera(self):  # type: ignore[no-untyped-def]
        return self.window.live.simulated.camera(self.job).camera

    def picture_comes(self) -> None:
        self.until(lambda: self.eye.view.size_px != (0, 0))

    def set_up_dial(self, places: tuple[int, ...] = (0, 3, 5, 8, 10)) -> None:
        """Marks by keys: the cross near each by the pointer, onto it by arrows, its value, Enter."""
        self.picture_comes()
        view = self.eye.view
        for place in places:
            mark = self.camera.dial.marks[place]
            box = view._box()
            scale = box.width() / view.size_px[0]
            at = QPoint(round(box.left() + mark.x * scale), round(box.top() + mark.y * scale))
            QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
            for key, off in ((KEY.Key_Right, mark.x - view.cross.x()), (KEY.Key_Down, mark.y - view.cross.y())):
                back = {KEY.Key_Right: KEY.Key_Left, KEY.Key_Down: KEY.Key_Up}[key]
                for _step in range(round(abs(off) / 0.2)):
                    self.press(key if off > 0 else back, CTRL)
            self.type_in(f"{mark.value:g}")
            self.press(KEY.Key_Return)
        self.assertEqual(len(self.job.light.dial.marks), len(places), self.said)

    def test_marks_then_the_needle_with_one_key(self) -> None:
        self.to_eye(TRUTH)
        self.set_up_dial()
        self.assertIn("5 marks", self.eye.check.text())
        self.until(lambda: isinstance(self.eye.looking.read, NeedleReading), self.eye.headline.text())
        self.until(lambda: self.page.at("Light").aimed_lx > 0)
        self.window.live.set_light()
        wanted = self.page.at("Light").aimed_lx
        self.until(lambda: abs((self.window.live.bench.lux or 0) / wanted - 1) < 0.01)
        shown = self.camera.meter
        self.until(
            lambda: isinstance(self.eye.looking.read, NeedleReading) and abs(self.eye.looking.read.value - shown.shows) < 0.1
        )
        self.assertIn("±", self.eye.headline.text())
        self.press(KEY.Key_F8)
        taken = self.job.light.current.readings[0]
        self.assertAlmostEqual(taken.reading.indicated_ev100 - taken.reading.reference_ev100, 0.8, delta=0.15)
        self.assertTrue(unpacked(taken.picture).startswith(b"\x89PNG"))
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.job.light.current.readings, ())
        self.press(KEY.Key_F5)
        self.type_in("zero")
        self.press(KEY.Key_Return)
        self.assertIn("the cell capped", self.said)
        self.press(KEY.Key_A, CTRL)
        self.type_in("settle")
        self.press(KEY.Key_Return)
        self.assertIn("trial", self.eye.reason.text())
        self.until(lambda: bool(self.job.light.needle), self.eye.reason.text())
        self.assertIn("Follows a step", self.eye.notes.text())
        sheet = [line for block in paper(self.job) if isinstance(block, Lines) for line in block.items]
        self.assertIn(self.job.light.needle[-1].words, sheet)
        self.press(KEY.Key_F3)
        self.assertIn("needle", self.dialog.windowTitle())
        self.press(KEY.Key_Escape)

    def test_it_runs_by_itself_until_nothing_is_asked(self) -> None:
        self.to_eye(TRUTH)
        self.set_up_dial()
        self.until(lambda: isinstance(self.eye.looking.read, NeedleReading), self.eye.headline.text())
        self.press(KEY.Key_F10)
        self.assertIsNotNone(self.eye.looking.run, self.said)
        run: ByItself = self.eye.looking.run
        self.assertTrue(wait_until(lambda: run.stands.stage in ("done", "waits"), MINUTES_MS), run.stands)
        self.assertEqual(run.stands.stage, "done", run.stands.words)
        self.assertGreaterEqual(len(self.job.light.current.readings), 5)
        self.assertEqual(judge(self.job).verdict.kind, "adjust")
        self.assertAlmostEqual(judge(self.job).assessment.shift.stops, -0.8, delta=0.12)
        self.assertTrue(all(one.picture for one in self.job.light.current.readings))
        self.press(KEY.Key_F10)
        self.assertIsNone(self.eye.looking.run)

    def test_a_person_sets_the_light_by_another_reference(self) -> None:
        self.page.perform(lambda job, at: change_setup(job, LightSetup(chain=Chain(TrustedMeter())), at))
        self.to_eye(TRUTH)
        self.set_up_dial()
        self.until(lambda: isinstance(self.eye.looking.read, NeedleReading), self.eye.headline.text())
        self.press(KEY.Key_F10)
        run: ByItself = self.eye.looking.run
        self.assertIsNotNone(run, self.said)
        for taken in range(2):
            self.until(lambda: "then Enter" in run.stands.words, run.stands)
            wanted = wanted_of(self.job)
            assert wanted is not None
            self.window.live.bench.set_lux(2.5 * 2**wanted.lux)
            self.until(lambda ev100=wanted.lux: abs(self.camera.meter.now() - ev100 - 0.8) < 0.05)
            self.press(KEY.Key_Return)
            self.assertTrue(wait_until(lambda count=taken: run.stands.taken == count + 1, MINUTES_MS), run.stands)
        for one in self.job.light.current.readings:
            self.assertAlmostEqual(one.reading.indicated_ev100 - one.reading.reference_ev100, 0.8, delta=0.12)
        self.until(lambda: "then Enter" in run.stands.words, run.stands)
        self.window.live.simulated.camera(self.job).camera.is_there = False
        self.press(KEY.Key_Return)
        self.until(lambda: run.stands.stage == "waits", run.stands)
        self.assertIn("Enter on the picture goes on", self.eye.reason.text())
        self.window.live.simulated.camera(self.job).camera.is_there = True
        self.press(KEY.Key_Return)
        self.until(lambda: run.stands.stage == "light", run.stands)

    def test_a_run_is_left_and_another_job_has_its_own_dial(self) -> None:
        self.to_eye(TRUTH)
        self.set_up_dial()
        self.until(lambda: isinstance(self.eye.looking.read, NeedleReading), self.eye.headline.text())
        self.press(KEY.Key_F10)
        self.press(KEY.Key_Tab, CTRL | SHIFT)
        self.assertIsNone(self.eye.looking.run)
        self.assertIn("has ended", self.said)
        self.press(KEY.Key_F10)
        marks = self.job.light.dial.marks
        self.new_job()
        self.to_eye()
        self.picture_comes()
        self.assertEqual(self.job.light.dial.marks, ())
        self.assertIn("not set up", self.eye.headline.text())
        self.assertIn("known puts its dial", self.eye.reason.text())
        self.type_in("known")
        self.press(KEY.Key_Return)
        self.assertEqual(self.job.light.dial.marks, marks)
        self.until(lambda: isinstance(self.eye.looking.read, NeedleReading), self.eye.headline.text())

    def test_wrong_marks_the_empty_dial_and_a_mark_taken_away(self) -> None:
        self.to_eye(TRUTH)
        self.set_up_dial((0, 5, 10))
        self.type_in("3")  # the cross is still on the last mark: 3 does not rise there
        self.press(KEY.Key_Return)
        self.assertEqual(len(self.job.light.dial.marks), 3)
        self.assertTrue(self.said)
        self.press(KEY.Key_A, CTRL)
        self.type_in("clear")
        self.press(KEY.Key_Return)
        self.assertEqual(self.job.light.dial.marks, ())
        self.press(KEY.Key_Z, CTRL)
        self.press(KEY.Key_F5)
        self.press(KEY.Key_Delete)
        self.assertEqual(len(self.job.light.dial.marks), 2)
        self.type_in("empty")
        self.press(KEY.Key_Return)
        self.assertTrue(self.job.light.dial.empty)
        self.type_in("nonsense")
        self.assertIn("value of the mark", self.eye.typed.said.text())
        self.press(KEY.Key_Return)
        self.assertEqual(self.eye.typed.edit.text(), "nonsense")

    def test_a_ring_is_turned_to_meet_the_needle(self) -> None:
        self.to_eye({})
        self.set_up_dial()
        self.until(lambda: isinstance(self.eye.looking.read, NeedleReading), self.eye.headline.text())
        self.eye.typed.edit.setFocus()
        self.type_in("ring")
        self.press(KEY.Key_Return)
        self.assertTrue(self.job.light.dial.has_ring)
        self.until(lambda: "alone" in self.eye.headline.text(), self.eye.headline.text())
        needle = self.camera.meter.now()
        self.camera.ring = needle - 3.0
        self.until(lambda: "above the pointer" in self.eye.headline.text(), self.eye.headline.text())
        self.assertAlmostEqual(float(self.eye.headline.text().split()[3]), 3.0, delta=0.15)
        self.camera.ring = needle
        self.until(lambda: "meet" in self.eye.headline.text(), self.eye.headline.text())
        self.assertFalse(self.eye.looking.needle)

    def test_lamps_are_looked_at_in_all_lights_and_fill_the_map(self) -> None:
        self.to_eye({"meter of Kittiwake hand meter": "lamps 0.5"})
        self.picture_comes()
        self.type_in("f/8")
        self.press(KEY.Key_Return)
        self.assertIn("lamp slow", self.said)
        self.window.live.bench.set_lux(20_000)
        self.until(lambda: not any(self.camera.meter.lit()))
        wait_until(lambda: False, 800)  # the pictures are behind
        for name, (x, y) in zip(("slow", "over"), LAMPS_AT, strict=True):
            self.eye.view.move_cross(x, y)
            self.eye.typed.edit.setFocus()
            self.press(KEY.Key_A, CTRL)
            self.type_in(f"lamp {name}")
            self.press(KEY.Key_Return)
        self.assertEqual([one.name for one in self.job.light.dial.lamps], ["slow", "over"], self.said)
        self.until(lambda: self.eye.looking.lamps.said == "slow lamp off · over lamp off", self.eye.stands.text())
        self.type_in("f/8")
        self.press(KEY.Key_Return)
        self.until(lambda: len(self.job.exposing.lamps) == 3, self.eye.reason.text())
        self.until(lambda: "3 noted" in self.eye.reason.text(), self.eye.reason.text())
        for one in self.job.exposing.lamps:
            self.assertEqual((one.f_number, one.seen, self.camera.meter.truth.lit(one.lux)), (8.0, "slow", (True, False)))
        self.eye.typed.edit.setFocus()
        self.type_in("stop")
        self.press(KEY.Key_Return)
        self.assertIsNone(self.eye.looking.walk)
        self.until(lambda: not any(self.camera.meter.lit()))  # the light as it was

    def test_a_camera_is_chosen_beside_the_meters_and_let_go(self) -> None:
        pictures = self.folder / "pictures"
        pictures.mkdir()
        Image.fromarray(SimulatedDial(DialLook(320, 240)).frame((9.0,), DialShot())).save(pictures / "one.png")
        self.press(KEY.Key_F12)
        window = self.dialog
        assert isinstance(window, InstrumentsWindow)
        window.speaks.setFocus()
        self.type_in("camera")
        self.assertFalse(window.accuracy.isVisible())
        window.typed_address.setFocus()
        self.type_in("/nowhere")
        self.press(KEY.Key_Return)
        self.assertIn("/dev/video0", window.said.text())
        self.press(KEY.Key_A, CTRL)
        self.type_in(str(pictures))
        self.press(KEY.Key_Return)
        self.until(lambda: window.shows.text() == "320 x 240", window.said.text())
        self.press(KEY.Key_Return)
        self.assertEqual(window.model.rows[-1][4], str(pictures), window.said.text())
        self.press(KEY.Key_Escape)
        self.assertTrue(self.no_dialog)
        self.to_eye()
        self.until(lambda: self.eye.view.size_px == (320, 240), self.eye.reason.text())
        self.press(KEY.Key_F12)
        again = self.dialog
        assert isinstance(again, InstrumentsWindow)
        again.table.setFocus()
        self.press(KEY.Key_End)
        self.press(KEY.Key_Delete)
        self.press(KEY.Key_Escape)
        self.assertEqual(self.window.live.camera_address, "")
        self.until(lambda: self.eye.headline.text() == "No picture", self.eye.headline.text())

    def test_no_camera_and_one_that_is_none(self) -> None:
        self.to_eye()
        self.assertEqual(self.eye.headline.text(), "No picture")
        self.assertIn("camera /dev/video0", self.eye.reason.text())
        self.eye.typed.edit.setFocus()
        self.type_in("camera /nowhere")
        self.press(KEY.Key_Return)
        self.assertIn("/dev/video0", self.said)
        self.press(KEY.Key_A, CTRL)
        self.type_in("camera /dev/video177")
        self.press(KEY.Key_Return)
        self.until(lambda: "does not open" in self.eye.reason.text(), self.eye.reason.text())
        self.press(KEY.Key_F10)
        self.assertIsNone(self.eye.looking.run)
        self.assertTrue(self.said)
        self.press(KEY.Key_A, CTRL)
        self.type_in("camera")
        self.press(KEY.Key_Return)
        self.until(lambda: "camera /dev/video0" in self.eye.reason.text())
        self.window.live.start_simulated({})
        self.picture_comes()


if __name__ == "__main__":
    unittest.main()
