"""The whole job by keys alone: from an empty workshop to a signed sheet."""

import unittest

from PySide6.QtGui import QKeySequence, QShortcut

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, wait_until
from violet_dial.gui.keys import WINDOW_KEYS, key_sheet
from violet_dial.services.light_judgement import judge
from violet_dial.stations import STATIONS


class WholeJob(WindowTest):
    def test_from_empty_bench_to_signed_sheet(self) -> None:
        self.assertIs(self.focused, self.window.jobs.first)  # first run invites the first job
        self.press(KEY.Key_Return)
        self.assertTrue(self.window.on_job)
        self.type_in("reads high outdoors")
        self.press(KEY.Key_Tab)
        self.type_in("Kittiwake hand meter")
        self.press(KEY.Key_Return)
        self.assertEqual(self.page.next.kind if self.page.next else "", "read")
        self.press(KEY.Key_F9)
        self.assertEqual(self.page.station, "Light")
        self._read_until("adjust", 0.68)
        shift = judge(self.page.view.job).assessment.shift.stops
        self.assertAlmostEqual(shift, -0.68, delta=0.02)
        self.press(KEY.Key_F9)
        self.assertEqual(len(self.page.view.job.light.runs), 2)
        self._read_until("write", 0.02)
        self.assertIn("Right from", self.page.at("Light").front.headline.text())
        self.press(KEY.Key_F9)
        self.assertEqual(self.page.station, "Return")
        self.type_in("Drum moved two notches back.")
        self.press(KEY.Key_8, ALT)  # leaving and coming back keeps what was typed
        self.assertEqual(self.page.view.job.closing.done, "Drum moved two notches back.")
        self.page.at("Return").lines["signed_by"].setFocus()
        self.type_in("M. Tystie")
        self.press(KEY.Key_Return)
        self.assertTrue(self.page.view.job.closing.signed_on)
        self.assertTrue(wait_until(lambda: bool(self.page.at("Return").sheet.view.pages)))
        target = self.folder / "sheet.pdf"
        self.press(KEY.Key_S, CTRL)
        self.name_file(target)
        self.assertTrue(target.read_bytes().startswith(b"%PDF"))
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Escape)
        self.assertFalse(self.window.on_job)
        self.assertEqual(self.window.workshop.cards()[0].waits_for, "collection")

    def _read_until(self, kind: str, error: float) -> None:
        """Follow Next with nothing but the reading and Enter."""
        for _ in range(30):
            act = self.page.next
            if act is None or act.kind != "read":
                break
            self.assertEqual(self.page.bar.value("reference"), act.reference)
            self.type_in(f"{float(act.reference) + error:.2f}")
            self.press(KEY.Key_Return)
        self.assertEqual(self.page.next.kind if self.page.next else "", kind)


class Keys(WindowTest):
    def test_undo_and_redo(self) -> None:
        self.new_job()
        self.take("8", "8.6")
        self.take("12", "12.6")
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(len(self.page.at("Light").front.dial._readings), 1)
        self.assertTrue(self.page.log.list.item(0).font().strikeOut())
        self.press(KEY.Key_Z, CTRL | SHIFT)
        self.assertEqual(len(self.page.at("Light").front.dial._readings), 2)
        self.assertFalse(self.page.log.list.item(0).font().strikeOut())

    def test_the_same_reading_taken_back_and_again_is_judged_again(self) -> None:
        """What was judged is known; the page must not wait for an answer that will not come."""
        self.new_job()
        for _ in range(2):
            self.take("8", "8.6")
            self.assertEqual(len(self.page.at("Light").front.dial._readings), 1)
            self.assertEqual(self.page.bar.value("reference"), self.page.next.reference)
            self.press(KEY.Key_Z, CTRL)
            self.assertEqual(self.page.at("Light").front.headline.text(), "No readings yet")

    def test_no_reading_is_taken_while_the_light_that_is_next_is_not_known(self) -> None:
        self.new_job()
        self.page.go("Light")
        page = self.page.page
        page._follows = True  # as for the blink that judging takes
        self.page.bar.put("reference", "8")
        self.page.bar.put("reading", "8.6")
        page.take_typed()
        self.assertIn("which light is next", self.said)
        self.assertEqual((self.job_readings(), self.page.bar.value("reading")), (0, "8.6"))

    def job_readings(self) -> int:
        return len(self.page.view.job.light.current.readings)

    def test_the_log_brings_back_what_was_undone_and_left_aside(self) -> None:
        self.new_job()
        self.take("8", "8.6")
        self.press(KEY.Key_Z, CTRL)
        self.take("9", "9.1")

        def readings() -> list[float]:
            assert self.page.view is not None
            return [one.reading.indicated_ev100 for one in self.page.view.job.light.current.readings]

        self.assertEqual(readings(), [9.1])
        shown = [self.page.log.list.item(row) for row in range(self.page.log.list.count())]
        self.assertEqual([item.font().strikeOut() for item in shown[:2]], [False, True])
        self.press(KEY.Key_G, CTRL)
        self.assertIs(self.focused, self.page.log.list)
        self.press(KEY.Key_Down)
        self.press(KEY.Key_Return)
        self.assertEqual(readings(), [8.6])
        self.assertIn("stands as after: Ev 8.0 read 8.6", self.said)
        shown = [self.page.log.list.item(row) for row in range(self.page.log.list.count())]
        self.assertEqual([item.font().strikeOut() for item in shown[:2]], [True, False])
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(readings(), [])
        self.press(KEY.Key_3, ALT)  # at Trace the log comes when it is asked for
        self.assertFalse(self.page.log.isVisible())
        self.press(KEY.Key_G, CTRL)
        self.assertTrue(self.page.log.isVisible())

    def test_take_key_works_from_any_station(self) -> None:
        self.new_job()
        self.press(KEY.Key_F6)
        self.type_in("8")
        self.press(KEY.Key_F7)
        self.type_in("8,6")
        self.press(KEY.Key_1, ALT)
        self.press(KEY.Key_F8)
        readings = self.page.view.job.light.current.readings
        self.assertEqual([round(one.reading.indicated_ev100, 3) for one in readings], [8.6])

    def test_dial_is_walked_and_a_reading_struck(self) -> None:
        self.new_job()
        for ev100 in (12, 8, 10):
            self.take(f"{ev100}", f"{ev100}.5")
        dial = self.page.at("Light").front.dial
        self.press(KEY.Key_5, ALT)
        self.press(KEY.Key_F5)
        self.press(KEY.Key_Home)
        self.assertIn("Reading 1 of 3. At Ev 8.0", dial.accessibleName())
        self.press(KEY.Key_Right)
        self.assertIn("At Ev 10.0", dial.accessibleName())
        self.assertIn("10.50 − 10.00 = +0.50", self.page.at("Light").front.sum.text())
        self.press(KEY.Key_End)
        self.press(KEY.Key_Right)
        self.assertIn("At Ev 12.0", dial.accessibleName())
        self.press(KEY.Key_Delete)
        left = [one.reading.reference_ev100 for one in self.page.view.job.light.current.readings]
        self.assertEqual(left, [8.0, 10.0])

    def test_look(self) -> None:
        self.press(KEY.Key_F2)
        self.assertEqual(self.look.theme, "night")
        for _ in range(12):
            self.press(KEY.Key_Plus, CTRL)
        self.assertEqual(self.look.percent, 200)
        for _ in range(12):
            self.press(KEY.Key_Minus, CTRL)
        self.assertEqual(self.look.percent, 90)

    def test_key_sheet_and_sum(self) -> None:
        self.press(KEY.Key_F1)
        sheet = self.dialog
        self.assertIn("foot switches", sheet.text.toPlainText())  # type: ignore[attr-defined]
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.new_job()
        self.take("8", "8.6")
        self.press(KEY.Key_F3)
        self.assertIn("8.60 − 8.00 = +0.60", self.dialog.text.toPlainText())  # type: ignore[attr-defined]
        self.press(KEY.Key_Escape)
        self.assertTrue(self.no_dialog)
        self.assertTrue(self.window.on_job)

    def test_every_key_of_the_table_does_something_and_stands_on_the_sheet(self) -> None:
        """Shortcuts and sheet come from one table: what is on it acts, and what acts is on it."""
        self.new_job()
        said = "\n".join(line for _, lines in key_sheet(STATIONS) for line in lines)
        owners = {"window": self.window, "page": self.page, "acts": self.window._acts}
        owners |= {"live": self.window.live, "jobs": self.window.jobs_acts}
        for key in WINDOW_KEYS:
            self.assertIn(key.words, said)
            if key.act:
                owner, _, method = key.act.partition(".")
                self.assertTrue(callable(getattr(owners[owner], method)), key.act)
        for station in STATIONS:
            for key in station.keys:
                self.assertIn(key.words, said)
                if key.act:
                    self.assertTrue(callable(getattr(self.page.at(station.name), key.act)), key.act)
        made = [one.key().toString() for one in self.window.findChildren(QShortcut)]
        wanted = [
            pressed for key in (*WINDOW_KEYS, *(key for one in STATIONS for key in one.keys)) if key.act for pressed in key.keys
        ]
        wanted += [f"Alt+{number}" for number in range(1, len(STATIONS) + 1)]
        one_each = {QKeySequence(one).toString() for one in wanted}  # the same key may be another act at each station
        self.assertEqual(sorted(made), sorted(one_each))
        self.assertEqual(len(made), len(set(made)))


class SmallestWindow(WindowTest):
    def test_all_text_sizes_keep_to_1280_by_800(self) -> None:
        self.new_job()
        self.take("8", "8.6")
        for percent in (90, 100, 150, 200):
            self.look.set_look("day", percent)
            self.window.resize(1280, 800)
            for number in range(9):
                self.page.go_number(min(number // 2, 4))
                self.page.turn_on()
                wait_until(lambda: True)
                self.assertLessEqual(self.window.minimumSizeHint().width(), 1280, (percent, number))
                self.assertLessEqual(self.window.minimumSizeHint().height(), 800, (percent, number))


if __name__ == "__main__":
    unittest.main()
