"""Power by keys alone: lanes that follow the light, a battery taken and on the sheet, cells read by hand and by the meter."""

import unittest

from PySide6.QtTest import QTest

from tests.gui.test_live import Live
from tests.gui.window import ALT, CTRL, KEY
from violet_dial.services.circuits import templates
from violet_dial.stations.trace.acts import choose_circuit

LIFTED_MS = 900  # as long as a hand takes from one step to the next


def text_of(stem: str) -> str:
    return next(one.text for one in templates() if one.stem == stem)


class AtPower(Live):
    stem = "cds-series"

    def setUp(self) -> None:
        super().setUp()
        text, name = text_of(self.stem), self.stem
        self.page.perform(lambda job, at: choose_circuit(job, name, text, at))
        self.press(KEY.Key_4, ALT)
        self.power = self.page.at("Power")
        self.until(lambda: self.power.result is not None, self.power.choices.headline.text())

    def say(self, text: str) -> None:
        self.type_in(text)
        self.press(KEY.Key_Return)
        self.until(lambda: self.power.settled)


class Lanes(AtPower):
    def test_keys_move_light_temperature_and_lane(self) -> None:
        lanes = self.power.choices.lanes
        self.assertIs(self.focused, lanes)
        light, here = lanes.shown.ev100, lanes.shown.rows[lanes.place].here
        self.press(KEY.Key_Left)
        self.assertEqual(lanes.shown.ev100, light - 1)
        self.assertNotEqual(lanes.shown.rows[lanes.place].here, here)
        self.press(KEY.Key_PageDown)
        self.assertEqual(lanes.shown.temperature_c, 5.0)
        for _ in range(20):
            self.press(KEY.Key_Left)
            self.press(KEY.Key_PageUp)
        self.assertEqual((lanes.shown.ev100, lanes.shown.temperature_c), (5.0, 40.0))
        self.press(KEY.Key_Up)
        place = lanes.place
        self.press(KEY.Key_Down)
        self.assertEqual(lanes.place, place + 1)
        self.assertIn(lanes.shown.rows[place + 1].name.split()[0], lanes.accessibleName().replace("(", " "))

    def test_enter_takes_the_battery_and_the_sheet_has_it_until_undone(self) -> None:
        while self.power.choices.lanes.shown.rows[self.power.choices.lanes.place].name != "PR44":
            self.press(KEY.Key_Up)
        self.press(KEY.Key_Return)
        chosen = self.page.view.job.power.chosen
        self.assertEqual(chosen.said, "PR44")
        self.until(lambda: self.power.settled)
        self.assertTrue(self.power.choices.lanes.shown.rows[self.power.choices.lanes.place].is_chosen)
        self.assertIn("Zinc-air", self.page.view.job.closing.battery)
        self.press(KEY.Key_Z, CTRL)
        self.assertIsNone(self.page.view.job.power.chosen)
        self.assertEqual(self.page.view.job.closing.battery, "")

    def test_another_choice_by_the_line_and_one_left_out(self) -> None:
        count = len(self.power.choices.lanes.shown.rows)
        self.press(KEY.Key_Tab)
        self.type_in("SR44 + ger")
        self.assertIn("germanium", self.power.choices.typed.offered.text)
        self.power.choices.typed.edit.clear()
        self.say("SR44 + 2k2")
        self.until(lambda: len(self.power.choices.lanes.shown.rows) == count + 1)
        self.say("SR44 + moon")
        self.assertEqual(self.power.choices.typed.edit.text(), "SR44 + moon")  # what is not understood stays
        self.assertIn("expected", self.power.choices.typed.said.text())
        self.power.choices.typed.clear()
        self.press(KEY.Key_F5)
        while self.power.choices.lanes.place < count:
            self.press(KEY.Key_Down)
        self.press(KEY.Key_Delete)
        self.until(lambda: len(self.power.choices.lanes.shown.rows) == count)

    def test_the_drawer_by_its_key(self) -> None:
        self.press(KEY.Key_Tab)
        self.say("drawer 1 k")
        self.say("drawer 10 ohm")
        self.press(KEY.Key_F5)
        while self.power.choices.lanes.shown.rows[self.power.choices.lanes.place].name != "SR44":
            self.press(KEY.Key_Down if self.power.choices.lanes.place == 0 else KEY.Key_Up)
        count = len(self.power.choices.lanes.shown.rows)
        self.press(KEY.Key_R, CTRL)
        self.until(lambda: self.power.settled and len(self.power.choices.lanes.shown.rows) == count + 1)
        self.assertIn("6 ways tried", self.power.choices.choice.design.text())

    def test_the_sum_of_the_lane_under_the_cursor(self) -> None:
        title, sections = self.power.opened()
        self.assertIn("judged", title)
        self.assertIn(self.power.choices.lanes.shown.rows[self.power.choices.lanes.place].reason, sections[0][1])


class Others(AtPower):
    def test_cells_use_and_fitting_by_their_lines(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.say("LR44 1.52 1.31 47")
        self.assertIn("% of the charge", self.power.cell.headline.text())
        self.say("LR44 1.3 1.9 47")
        self.assertIn("no cell charges itself", self.power.cell.typed.said.text())
        self.assertEqual(len(self.page.view.job.power.cells), 1)
        self.power.cell.typed.clear()
        self.press(KEY.Key_Tab, CTRL)
        self.say("3 rolls a month")
        self.assertIn("rolls", self.power.use.headline.text())
        self.press(KEY.Key_Tab, CTRL)
        self.say("forward 0.25")
        self.assertEqual(self.page.view.job.power.fitted[0].volts, 0.25)
        self.press(KEY.Key_Tab, CTRL)
        self.say("bench supply")
        self.assertEqual(self.page.view.job.tracing.setting.supply, "bench")
        self.press(KEY.Key_Tab, CTRL)
        self.assertIs(self.focused, self.power.choices.lanes)

    def test_nothing_of_one_device_is_left_at_the_next(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.say("LR44 1.52 1.31 47")
        self.type_in("LR44 1")
        self.new_job("Kittiwake hand meter", "needle dead")
        self.press(KEY.Key_4, ALT)
        self.until(lambda: self.power.settled)
        self.assertEqual(self.power.choices.lanes.shown.rows, ())
        self.assertIn("kind of cell", self.power.choices.headline.text())
        self.press(KEY.Key_Tab, CTRL)
        self.assertEqual((self.power.cell.typed.edit.text(), self.power.cell.headline.text()), ("", "No cell read yet."))


class HandsFree(AtPower):
    stem = "silicon-shutter"

    def test_a_stack_at_rest_and_under_its_magnet(self) -> None:
        self.live.start_simulated({self.stem: "Vbat:high internal resistance:94"})
        self.until(lambda: self.shown().state == "leads in the air", self.shown())
        self.press(KEY.Key_Tab, CTRL)
        self.say("4LR44 6.0")
        self.press(KEY.Key_F10)
        self.until(lambda: self.shown().goes == "→ 4LR44 at rest", self.shown())
        self.press(KEY.Key_T, CTRL)
        self.until(lambda: self.power.cell.hands.awaits != "", self.shown())
        self.press(KEY.Key_T, CTRL)  # lifted
        QTest.qWait(LIFTED_MS)
        self.until(lambda: "under the device itself" in self.shown().goes, self.shown())
        self.press(KEY.Key_T, CTRL)
        self.until(lambda: len(self.page.view.job.power.cells) == 2, self.shown())
        read = self.page.view.job.power.cells[-1]
        self.assertAlmostEqual(read.rest_v, 6.0, delta=0.05)
        ohm = read.load_ohm * (read.rest_v / read.load_v - 1)
        self.assertAlmostEqual(ohm, 94, delta=12)
        self.until(lambda: self.power.settled)
        self.assertIn("at the clips", self.power.cell.device.text())


if __name__ == "__main__":
    unittest.main()
