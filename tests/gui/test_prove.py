"""Prove and Return by keys alone: firings counted and heard, a day ticked off, a scan taken; sheet, card, labels, a scanner."""

import unittest

import numpy as np
import pypdfium2
from PIL import Image
from PySide6.QtCore import Qt

from bench.fogs import cast
from tests.gui.test_live import Live
from tests.gui.window import ALT, CTRL, KEY, SHIFT
from violet_dial.services.circuits import templates
from violet_dial.services.simulated import SHUTTER_OF
from violet_dial.stations.trace.acts import choose_circuit


class AtProve(Live):
    def setUp(self) -> None:
        super().setUp()
        self.to_prove()

    def to_prove(self) -> None:
        self.press(KEY.Key_7, ALT)
        self.prove = self.page.at("Prove")

    @property
    def proving(self):  # type: ignore[no-untyped-def]
        return self.page.view.job.proving

    def say(self, text: str) -> None:
        self.type_in(text)
        self.press(KEY.Key_Return)

    def turn(self, times: int) -> None:
        for _ in range(times):
            self.press(KEY.Key_Tab, CTRL)


class Firings(AtProve):
    def test_a_key_each_for_clean_and_failed(self) -> None:
        self.say("1/60 clean")
        self.say("1/250")
        self.press(KEY.Key_F5)
        view = self.prove.firings.view
        self.assertIs(self.focused, view)
        self.press(KEY.Key_Return)
        self.press(KEY.Key_F)
        self.press(KEY.Key_4)
        self.press(KEY.Key_F8)
        self.press(KEY.Key_F8, SHIFT)
        self.assertEqual([one.failed for one in self.proving.log], ["", "", "failed", "mirror up", "", "failed"])
        self.press(KEY.Key_Delete)
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(len(self.proving.log), 6)
        self.press(KEY.Key_Up)
        self.assertEqual(self.proving.stand.setting, "1/60")
        self.assertIn("1/60", view.accessibleName())

    def test_a_line_that_is_not_understood_stays_and_another_job_has_nothing_of_it(self) -> None:
        self.say("1/250 perhaps")
        self.assertEqual(self.proving.log, ())
        self.assertIn("clean", self.prove.firings.typed.said.text())
        self.say("")
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_Escape)
        self.new_job("Tern reflex", "jams")
        self.to_prove()
        self.assertEqual(self.prove.firings.typed.edit.text(), "")
        self.assertEqual(self.prove.firings.view.lanes, ())

    def test_the_sound_card_counts_and_asks_for_what_did_not_come(self) -> None:
        self.live.start_simulated({f"{SHUTTER_OF} Gannet reflex": "misses 1 at 1/250"})
        self.say("1/60")
        self.press(KEY.Key_F10)
        self.assertTrue(self.prove.firings.hearing.armed)
        for count in (1, 2):
            self.press(KEY.Key_T, CTRL)
            self.until(lambda count=count: len(self.proving.log) == count, self.prove.firings.listens.text())
        self.assertEqual([(one.source, one.failed) for one in self.proving.log], [("heard", "")] * 2)
        self.assertAlmostEqual(self.proving.log[0].time_s * 64, 1.0, delta=0.15)
        self.say("1/250")
        self.press(KEY.Key_T, CTRL)
        self.until(lambda: "F counts the failure" in self.said, self.prove.firings.listens.text())
        self.assertEqual(len(self.proving.log), 2)
        self.press(KEY.Key_F5)
        self.press(KEY.Key_F)
        self.assertEqual((self.proving.log[-1].failed, self.proving.log[-1].stand.setting), ("failed", "1/250"))
        self.press(KEY.Key_F10)
        self.assertFalse(self.prove.firings.hearing.armed)


class Days(AtProve):
    def test_a_day_is_ticked_off_at_the_jobs_screen(self) -> None:
        self.turn(2)
        self.say("4 days 12 a day rest 2 from today")
        self.assertIn("due today", self.prove.exercise.table.accessibleName())
        self.press(KEY.Key_E, CTRL)
        self.name_file(self.folder / "days.ics")
        self.until((self.folder / "days.ics").exists, self.said)
        self.assertEqual((self.folder / "days.ics").read_bytes().count(b"BEGIN:VALARM"), 5)
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_X, CTRL | SHIFT)
        self.assertIn("12 fired", self.said)
        self.press(KEY.Key_X, CTRL | SHIFT)
        self.assertIn("ticked off", self.said)
        self.press(KEY.Key_Return)
        self.assertEqual([one.fired for one in self.proving.days], [12])


class Meter(AtProve):
    """The connected meter fills the rows of Contacts and Soak."""

    def setUp(self) -> None:
        super().setUp()
        text = next(one.text for one in templates() if one.stem == "cds-series")
        self.page.perform(lambda job, at: choose_circuit(job, "meter", text, at))
        self.live.start_simulated({})
        self.to_prove()

    def test_ohms_of_each_position_of_the_circuits_switch(self) -> None:
        self.turn(1)
        self.say("switch s1")
        self.assertEqual(self.prove.slot.words, "ohms at off")
        for count, where in ((1, "off"), (2, "on")):
            self.until(lambda: self.shown().kind == "open", self.shown())
            self.press(KEY.Key_F8)
            self.until(lambda count=count: self.proving.rounds and len(self.proving.rounds[0].readings) == count, self.said)
            read = self.proving.rounds[0].readings[-1]
            self.assertEqual((read.where, read.ohm), (where, 1e9))  # leads in the air
            self.assertEqual(read.capture.function, "ohm")  # what the meter gave is kept with it
        self.assertIsNone(self.prove.slot)
        self.assertIn("every position is read", self.prove.slot_missing)

    def test_a_reading_over_time_when_it_is_due(self) -> None:
        self.turn(4)
        self.say("every 2 s")
        self.say("0.013 V")
        self.assertEqual(self.prove.slot.function, "volt")
        self.press(KEY.Key_F10)
        self.assertIsNone(self.prove.slot)
        self.until(lambda: self.prove.slot is not None, "due")
        self.press(KEY.Key_F10)


class Scans(AtProve):
    def test_a_scan_of_the_negative_is_a_frame(self) -> None:
        self.turn(3)
        self.say("roll 24")
        light = cast("hinge", np.random.default_rng(4))[::-1, ::-1]  # as the picture would be, upright
        path = self.folder / "frame-3.png"
        Image.fromarray((255 * (0.9 - 0.8 * light)).clip(0, 255).astype(np.uint8)).save(path)
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.until(lambda: bool(self.proving.frames), self.said)
        frame = self.proving.frames[0]
        self.assertEqual((frame.number, frame.open, frame.side.split()[-1], frame.source), (3, "all", "left", "frame-3.png"))
        self.assertIn("hinge", self.prove.seals.view.accessibleName())
        broken = self.folder / "frame-4.png"
        broken.write_bytes(b"no picture")
        self.press(KEY.Key_I, CTRL)
        self.name_file(broken)
        self.until(lambda: "frame-4.png" in self.said, self.said)
        self.assertEqual(len(self.proving.frames), 1)


class Returned(AtProve):
    def setUp(self) -> None:
        super().setUp()
        self.press(KEY.Key_8, ALT)
        self.sheet = self.page.at("Return").sheet
        self.until(lambda: bool(self.sheet.view.pages), "drawn")

    def test_a_field_is_pointed_at_on_the_sheet_and_zoom_keeps_it(self) -> None:
        self.type_in("Contacts cleaned.")
        self.until(lambda: "done" in self.sheet._spots and self.sheet.settled, self.sheet._spots)
        spot = self.sheet.view._sheets.spot
        self.assertEqual(spot, self.sheet._spots["done"])
        self.press(KEY.Key_F5)
        self.assertIs(self.focused, self.sheet.view)
        wide = self.sheet.view.page_wide
        self.type_in("+")
        self.until(lambda: self.sheet.settled and self.sheet.view.pages[0].width() > wide, "drawn larger")
        self.assertAlmostEqual(self.sheet.view.page_wide / wide, 1.25, delta=0.02)
        self.type_in("0")
        self.assertLess(self.sheet.view.page_wide, wide)

    def test_card_letter_and_labels(self) -> None:
        self.press(KEY.Key_R, CTRL)
        self.until(lambda: self.sheet.settled and self.sheet.shown.size == "A4 card", "the card")
        self.press(KEY.Key_L, CTRL)
        self.until(lambda: self.sheet.settled and self.sheet.shown.size == "Letter card", "of Letter")
        self.press(KEY.Key_S, CTRL)
        self.name_file(self.folder / "card.pdf")
        self.until((self.folder / "card.pdf").exists, self.said)
        page = pypdfium2.PdfDocument((self.folder / "card.pdf").read_bytes())[0]
        self.assertEqual((round(page.get_width()), round(page.get_height())), (612, 264))
        self.press(KEY.Key_L, CTRL | SHIFT)
        window = self.dialog
        window.list.setCurrentRow(window.list.count() - 1)  # type: ignore[attr-defined]
        self.press(KEY.Key_Return)
        self.name_file(self.folder / "labels.pdf")
        self.until((self.folder / "labels.pdf").exists, self.said)
        self.press(KEY.Key_Escape)
        self.type_in("VD9999")
        self.press(KEY.Key_Return)
        self.assertIn("No job 9999", self.said)
        self.window.jobs.view.setFocus(Qt.FocusReason.OtherFocusReason)
        self.type_in(f"VD{self.window.workshop.cards()[0].number:04d}")
        self.press(KEY.Key_Return)
        self.assertTrue(self.window.on_job)

    def test_the_bench_and_the_workshop(self) -> None:
        self.turn(1)
        self.say("part 2 LR44")
        self.assertEqual(self.page.view.job.closing.parts[0].count, 2)
        self.turn(1)
        page = self.page.at("Return")
        self.until(lambda: page.settled and "1 job," in page.workshop.headline.text(), page.workshop.headline.text())
        self.say("learn")
        self.assertEqual(self.page.view.job.tracing.weights, ())
        self.assertIn("ten or more", page.workshop.typed.said.text())


if __name__ == "__main__":
    unittest.main()
