"""The window itself: restyled once for many presses, F9 that says when it waits for hands, printing and writing by their own
keys, leaving, and another workshop on the bench."""

import time
import unittest

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, application, wait_until
from tests.hostile.peers import peer
from tests.workshops import open_workshop
from violet_dial.core.steady.samples import Function
from violet_dial.instruments.kept import Kept
from violet_dial.kit.ask import AskYes
from violet_dial.kit.printing import PrintWindow
from violet_dial.services.evidence import type_evidence
from violet_dial.services.live import figure_text
from violet_dial.stations.trace.acts import choose_circuit


class Window(WindowTest):
    def test_many_presses_are_one_restyling(self) -> None:
        self.new_job()
        styled: list[str] = []
        self.look.changed.connect(lambda: styled.append(self.look.theme))
        for _ in range(9):  # keys that came while the window was at work
            QTest.keyClick(self.focused, KEY.Key_F2)
        QTest.keyClick(self.focused, KEY.Key_Plus, CTRL)
        self.until(lambda: bool(styled))
        application().processEvents()
        self.assertEqual((styled, self.look.percent), (["night"], 110))

    def test_the_log_of_a_workshop_that_was_closed_is_not_drawn_again(self) -> None:
        self.new_job()
        self.press(KEY.Key_Escape)
        self.window.change_workshop(lambda: open_workshop(self.folder / "other.violet"))
        application().processEvents()
        self.press(KEY.Key_F2)  # a deleted card would raise here
        self.assertEqual(self.look.theme, "night")

    def test_f9_with_nothing_for_a_key_to_do_says_so(self) -> None:
        self.press(KEY.Key_F9)
        self.assertIn("Open a job first", self.said)
        self.new_job()
        self.press(KEY.Key_F9)
        self.press(KEY.Key_F9)
        self.assertIn("waits for your hands", self.said)
        self.assertIn(self.page.next.title, self.said)

    def test_printing_and_writing_are_two_keys(self) -> None:
        self.new_job()
        self.press(KEY.Key_8, ALT)
        self.press(KEY.Key_P, CTRL)
        self.assertIsInstance(self.dialog, PrintWindow)
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_P, CTRL)
        window = self.dialog
        assert isinstance(window, PrintWindow)
        window.list.setCurrentRow(window.list.count() - 1)  # after the printers, if any: a PDF
        self.press(KEY.Key_Return)
        self.name_file(self.folder / "printed.pdf")
        self.until(lambda: "Written" in self.said, self.said)
        self.press(KEY.Key_S, CTRL)
        self.name_file(self.folder / "sheet.html")
        self.assertTrue((self.folder / "printed.pdf").read_bytes().startswith(b"%PDF"))
        self.assertIn("<html", (self.folder / "sheet.html").read_text(encoding="utf-8"))

    def test_ctrl_q_leaves_with_everything_kept(self) -> None:
        self.new_job()
        self.press(KEY.Key_8, ALT)
        self.page.page.texts["done"].setFocus()
        self.type_in("contacts wiped")
        self.press(KEY.Key_Q, CTRL)
        self.assertFalse(self.window.isVisible())
        kept = open_workshop(self.folder / "w.violet")
        self.assertEqual(kept.view(kept.cards()[0].job_id).job.closing.done, "contacts wiped")
        kept.close()

    def test_the_map_and_the_list_give_one_part_one_figure(self) -> None:
        from violet_dial.services.circuits import templates

        self.new_job()
        text = next(one.text for one in templates() if one.stem == "cds-series")
        self.page.perform(lambda job, at: choose_circuit(job, "meter", text, at))
        self.page.perform(lambda job, at: type_evidence(job, "clip+ to gnd 1.36 V", at))
        self.press(KEY.Key_3, ALT)
        self.until(lambda: self.page.settled and self.page.page.result is not None)
        result = self.page.page.result
        suspects = [one for one in result.diagnosis.suspects if one.probability > 0.03]
        shown = self.page.page.suspects.map._state.suspicion
        self.assertTrue(shown)
        for part, figure in shown.items():
            mine = [one.probability for one in suspects if part in {fault.part for fault in one.faults}]
            if mine:
                self.assertEqual(figure, max(mine))

    def test_one_figure_has_one_shape(self) -> None:
        lux: Function = "lux"
        shapes = {figure_text(value, lux).replace("\u00a0", " ") for value in (999.96, 1000.0, 1000.3)}
        self.assertEqual(shapes, {"1 000 lx"})

    def test_a_search_of_any_length_is_answered_at_once(self) -> None:
        for name in ("Puffin reflex", "Auk meter"):
            self.new_job(name)
            self.press(KEY.Key_Escape)
        began = time.monotonic()
        self.window.jobs.search.setText("p " * 1_000 + "auk")
        self.until(lambda: len(self.window.jobs.model.cards) == 1, "its first words are searched for")
        self.assertLess(time.monotonic() - began, 10)
        self.assertEqual(self.window.jobs.model.cards[0].title, "Puffin reflex")

    def test_an_end_from_outside_is_not_held_up_by_a_form(self) -> None:
        self.new_job()
        self.press(KEY.Key_5, ALT)
        self.press(KEY.Key_F4)
        form = self.dialog
        self.type_in("x")
        form.findChild(QLineEdit).setText("typed")
        for _ in range(3):
            form.close()  # it asks, once
        self.assertEqual(len(self.window.findChildren(AskYes)), 1)
        self.window.end()
        self.assertFalse(self.window.isVisible())
        self.assertIsNone(application().activeModalWidget())

    def test_closing_does_not_wait_for_an_instrument_that_says_nothing(self) -> None:
        with peer(1) as address:  # it takes what is sent and says nothing
            for number in range(3):
                self.window.live.bench.connect(Kept(f"silent {number}", address, "SCPI multimeter"))
            wait_until(lambda: False, 500)
            began = time.monotonic()
            self.window.close()
            self.assertLess(time.monotonic() - began, 3.0, "far below what three answers are waited for")

    def test_the_demo_is_set_back_only_in_the_demo(self) -> None:
        self.press(KEY.Key_D, CTRL | SHIFT)
        self.assertIn("no demo", self.said)
        self.assertNotIsInstance(application().activeModalWidget(), AskYes)


if __name__ == "__main__":
    unittest.main()
