"""Trace by keys alone: circuit chosen, evidence typed, the next test taken, the fault put right."""

import unittest
from unittest import mock

from PySide6.QtWidgets import QFileDialog

from tests.gui.window import ALT, CTRL, KEY, SHIFT, WindowTest, wait_until
from violet_dial.gui.stations.trace.circuit_window import CircuitWindow
from violet_dial.job.document import Tracing


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
        self.assertTrue(wait_until(lambda: self.page.trace.settled), self.page.trace.summary.text())

    def choose(self, title: str = "CdS series meter") -> None:
        def inside(window: CircuitWindow) -> int:
            names = [window.list.item(row).text() for row in range(window.list.count())]
            window.list.setCurrentRow(names.index(title))
            window.take_template(names.index(title))
            self.assertTrue(window.keep.isEnabled())
            return 1

        with mock.patch.object(CircuitWindow, "exec", inside):
            self.press(KEY.Key_F4)
        self.settle()

    def type_line(self, line: str) -> None:
        self.page.trace.typed.edit.setFocus()
        self.type_in(line)
        self.press(KEY.Key_Return)
        self.settle()

    def test_from_nothing_to_the_fault_and_past_it(self) -> None:
        self.choose()
        self.assertEqual(self.page.next.kind if self.page.next else "", "test")
        for line in ("clip+ to gnd 1.36 V", "needle dead", "sw to gnd 0.08 V"):
            self.type_line(line)
        trace = self.page.trace
        assert trace.result is not None
        self.assertEqual(len(self.tracing.now), 3)
        self.assertIn("high resistance", trace.result.diagnosis.suspects[0].name)
        self.assertIn("in series", trace.why.text())
        self.press(KEY.Key_F9)  # Next: to the figure of the test that parts them
        self.assertIs(self.focused, trace.next.figure)
        ask = trace.next.test.ask if trace.next.test else None
        self.type_in("0.00")
        self.press(KEY.Key_Return)
        self.settle()
        self.assertEqual(self.tracing.now[-1].evidence.test, ask.test if ask else "")
        first = trace.result.diagnosis.suspects[0]
        self.assertGreater(first.probability, 0.5)
        trace.bars.setFocus()
        self.press(KEY.Key_R)
        self.settle()
        self.assertEqual(self.tracing.repairs[0].fault.part, first.faults[0].part)
        self.type_line("sw to gnd 1.35 V")
        self.assertIn("before:", trace.why.text())
        self.press(KEY.Key_Z, CTRL)
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.tracing.repairs, ())

    def test_evidence_out_as_csv_and_in_again(self) -> None:
        self.choose()
        for line in ("clip+ to gnd 1.36 V", "needle dead", "sister m+ to gnd 0.3 V"):
            self.type_line(line)
        before = [taken.evidence for taken in self.tracing.now]
        target = self.folder / "evidence.csv"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(target), "")):
            self.press(KEY.Key_E, CTRL)
        self.assertIn("Written", self.said)
        for _ in before:
            self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.tracing.now, ())
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(target), "")):
            self.in_dialog(lambda: self.press(KEY.Key_I, CTRL), lambda dialog: 1)
        self.settle()
        self.assertEqual([taken.evidence for taken in self.tracing.now], before)
        target.write_text("test,plus,value\nvolt,nowhere,1\n", encoding="utf-8")
        offered: list[str] = []
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(target), "")):
            self.in_dialog(lambda: self.press(KEY.Key_I, CTRL), lambda dialog: offered.append(dialog.take.text()) or 0)  # type: ignore[attr-defined]
        self.assertIn("Take 0 pieces", offered[0])
        target.write_bytes(b"\0\0")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(target), "")):
            self.press(KEY.Key_I, CTRL)
        self.assertIn("expected a CSV text file", self.said)

    def test_what_is_not_understood_stays_in_its_field(self) -> None:
        self.choose()
        self.page.trace.typed.edit.setFocus()
        self.type_in("nowhere to gnd 3 V")
        self.press(KEY.Key_Return)
        self.assertEqual(self.page.trace.typed.edit.text(), "nowhere to gnd 3 V")
        self.assertIn("expected", self.page.trace.typed.said.text())
        self.assertEqual(self.tracing.now, ())

    def test_evidence_is_struck_out_and_the_map_is_walked_and_pinned(self) -> None:
        self.choose()
        self.type_line("S1 off")
        self.type_line("clip+ 1.36 V")
        self.page.trace.table.setFocus()
        self.page.trace.table.choose(0)
        self.press(KEY.Key_Delete)
        self.assertEqual(self.tracing.now, ())
        self.press(KEY.Key_F5)
        view = self.page.trace.map
        self.assertIs(self.focused, view)
        before = view.accessibleName()
        self.press(KEY.Key_Right)
        self.assertNotEqual(view.accessibleName(), before)
        self.press(KEY.Key_Down, SHIFT)
        self.assertEqual(len(self.tracing.pinned), 1)

    def test_a_circuit_without_a_solution_is_said(self) -> None:
        path = self.folder / "bad.cir"
        path.write_text("bad\nV1 a 0 1\nV2 a 0 2\nR1 a 0 1k\n.end\n", encoding="utf-8")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.press(KEY.Key_I, CTRL)
        self.assertTrue(wait_until(lambda: "contradict" in self.page.trace.summary.text()))
        self.assertIsNone(self.page.trace.result)

    def test_window_edits_by_lines_with_completion(self) -> None:
        self.choose()

        def inside(window: CircuitWindow) -> int:
            self.assertIn("R9 clip+", window._offers("R9 cli"))
            window.line.edit.setText("R9 coil+ 0 47k")
            window.line._take()
            window.text.setPlainText(window.text.toPlainText() + "Q9 oops\n")
            self.assertFalse(window.keep.isEnabled())
            self.assertIn("Line", window.fault.text())
            window.text.setPlainText(window.text.toPlainText().replace("Q9 oops\n", ""))
            return 1

        with mock.patch.object(CircuitWindow, "exec", inside):
            self.press(KEY.Key_F4)
        self.assertIn("R9 coil+ 0 47k", self.tracing.circuit_text)


if __name__ == "__main__":
    unittest.main()
