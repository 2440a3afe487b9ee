"""Trace by keys alone: circuit chosen, evidence typed, the next test taken, the fault put right."""

import unittest

from PySide6.QtGui import QTextCursor

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, wait_until
from violet_dial.job.tracing import Tracing
from violet_dial.kit.ask import AskYes
from violet_dial.kit.text_window import ImportWindow
from violet_dial.services.circuits import circuit_text_of
from violet_dial.stations.trace.circuit_window import CircuitWindow


class Trace(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Gannet reflex", "needle dead")
        self.press(KEY.Key_3, ALT)

    @property
    def tracing(self) -> Tracing:
        assert self.page.view is not None
        return self.page.view.job.tracing

    def settle(self) -> None:
        self.assertTrue(wait_until(lambda: self.page.at("Trace").settled), self.page.at("Trace").suspects.summary.text())

    def choose(self, place: int = 1, title: str = "CdS series meter") -> None:
        """By keys: the window, down to the circuit, Enter puts it in, Enter keeps it."""
        self.press(KEY.Key_F4)
        window = self.dialog
        assert isinstance(window, CircuitWindow)
        self.assertIs(self.focused, window.list)
        for _ in range(place):
            self.press(KEY.Key_Down)
        self.assertEqual(window.list.currentItem().text(), title)
        self.press(KEY.Key_Return)
        self.assertTrue(window.isVisible())
        self.until(lambda: self.focused is window.keep, "it is understood first")
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertEqual(self.tracing.circuit_name, title)
        self.settle()

    def type_line(self, line: str) -> None:
        self.page.at("Trace").suspects.typed.edit.setFocus()
        self.type_in(line)
        self.press(KEY.Key_Return)
        self.settle()

    def test_from_nothing_to_the_fault_and_past_it(self) -> None:
        self.choose()
        self.assertEqual(self.page.next.kind if self.page.next else "", "test")
        for line in ("clip+ to gnd 1.36 V", "needle dead", "sw to gnd 0.08 V"):
            self.type_line(line)
        trace = self.page.at("Trace")
        assert trace.result is not None
        self.assertEqual(len(self.tracing.now), 3)
        self.assertIn("high resistance", trace.result.diagnosis.suspects[0].name)
        self.assertIn("in series", trace.suspects.why.text())
        self.press(KEY.Key_F9)  # Next: to the figure of the test that parts them
        self.assertIs(self.focused, trace.suspects.next.figure)
        ask = trace.suspects.next.test.ask if trace.suspects.next.test else None
        self.type_in("0.00")
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual(self.tracing.now[-1].evidence.test, ask.test if ask else "")
        first = trace.result.diagnosis.suspects[0]
        self.assertGreater(first.probability, 0.35)
        trace.suspects.bars.setFocus()
        self.press(KEY.Key_R)
        self.settle()
        self.assertEqual(self.tracing.repairs[0].fault.part, first.faults[0].part)
        self.type_line("sw to gnd 1.35 V")
        self.assertIn("before:", trace.suspects.why.text())
        self.press(KEY.Key_Z, CTRL)
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.tracing.repairs, ())

    def test_evidence_out_as_csv_and_in_again(self) -> None:
        self.choose()
        for line in ("clip+ to gnd 1.36 V", "needle dead", "sister m+ to gnd 0.3 V"):
            self.type_line(line)
        before = [taken.evidence for taken in self.tracing.now]
        target = self.folder / "evidence.csv"
        self.press(KEY.Key_E, CTRL)
        self.name_file(target)
        self.assertIn("Written", self.said)
        for _ in before:
            self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.tracing.now, ())
        self.press(KEY.Key_I, CTRL)
        self.name_file(target)
        self.assertIsInstance(self.dialog, ImportWindow)
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.settle()
        self.assertEqual([taken.evidence for taken in self.tracing.now], before)
        target.write_text("test,plus,value\nvolt,nowhere,1\n", encoding="utf-8")
        self.press(KEY.Key_I, CTRL)
        self.name_file(target)
        self.assertIn("Take 0 pieces", self.dialog.take.text())  # type: ignore[attr-defined]
        self.press(KEY.Key_Escape)
        target.write_bytes(b"\0\0")
        self.press(KEY.Key_I, CTRL)
        self.name_file(target)
        self.until(lambda: "expected a CSV text file" in self.said, self.said)

    def test_what_is_not_understood_stays_in_its_field(self) -> None:
        self.choose()
        self.page.at("Trace").suspects.typed.edit.setFocus()
        self.type_in("nowhere to gnd 3 V")
        self.press(KEY.Key_Return)
        self.assertEqual(self.page.at("Trace").suspects.typed.edit.text(), "nowhere to gnd 3 V")
        self.assertIn("expected", self.page.at("Trace").suspects.typed.said.text())
        self.assertEqual(self.tracing.now, ())

    def test_evidence_is_struck_out_and_the_map_is_walked_and_pinned(self) -> None:
        self.choose()
        self.type_line("S1 off")
        self.type_line("clip+ 1.36 V")
        self.page.at("Trace").suspects.table.setFocus()
        self.page.at("Trace").suspects.table.choose(0)
        self.press(KEY.Key_Delete)
        self.assertEqual(self.tracing.now, ())
        self.press(KEY.Key_F5)
        view = self.page.at("Trace").suspects.map
        self.assertIs(self.focused, view)
        before = view.accessibleName()
        self.press(KEY.Key_Right)
        self.assertNotEqual(view.accessibleName(), before)
        self.press(KEY.Key_Down, SHIFT)
        self.assertEqual(len(self.tracing.pinned), 1)

    def test_a_circuit_without_a_solution_is_said(self) -> None:
        path = self.folder / "bad.cir"
        path.write_text("bad\nV1 a 0 1\nV2 a 0 2\nR1 a 0 1k\n.end\n", encoding="utf-8")
        self.press(KEY.Key_I, CTRL)
        self.name_file(path)
        self.assertTrue(wait_until(lambda: "contradict" in self.page.at("Trace").suspects.summary.text()))
        self.assertIsNone(self.page.at("Trace").result)

    def test_window_edits_by_lines_with_completion(self) -> None:
        self.choose()

        self.press(KEY.Key_F4)
        window = self.dialog
        assert isinstance(window, CircuitWindow)
        window.line.edit.setFocus()
        self.type_in("R9 coi")
        self.press(KEY.Key_Tab)  # the completion
        self.assertEqual(window.line.edit.text(), "R9 coil+")
        self.type_in(" 0 47k")
        self.press(KEY.Key_Return)
        self.assertTrue(window.isVisible())  # Enter in the line adds the line
        window.text.setFocus()
        before = window.text.toPlainText()
        window.text.moveCursor(QTextCursor.MoveOperation.End)
        self.type_in("Q9 oops")
        self.assertFalse(window.keep.isEnabled())
        self.until(lambda: "Line" in window.fault.text())
        window.text.setPlainText(before)
        self.until(window.keep.isEnabled)
        window.keep.setFocus()
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertIn("R9 coil+ 0 47k", circuit_text_of(self.page.view.job))

    def test_leaving_the_window_keeps_nothing(self) -> None:
        self.press(KEY.Key_F4)
        self.press(KEY.Key_Return)
        self.press(KEY.Key_Escape)
        self.assertIsInstance(self.dialog, AskYes)  # a text would be lost
        self.press(KEY.Key_Y)
        self.assertTrue(self.no_dialog)
        self.assertEqual(self.tracing.circuit_text, "")


if __name__ == "__main__":
    unittest.main()
