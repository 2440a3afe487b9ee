"""Receive and Open by keys alone: findings, the walk, a long strip-down, the way back."""

import unittest

from tests.gui.window import ALT, CTRL, KEY, WindowTest
from violet_dial.core.opening.tally import tally
from violet_dial.job.document import Job
from violet_dial.job.opening import Opening
from violet_dial.job.receiving import Receiving
from violet_dial.kit.ask import AskYes
from violet_dial.stations.open.step_form import StepForm
from violet_dial.stations.open.table import read_strip

LINES = (
    "screw x3 top cover M1.4x3 cross chrome rh -> A1",
    "knob counter dial -> A2; hides counter spring",
    "top cover -> A3; hides meter lead",
    "wire meter lead; wire red clip+ to pin 1; under top cover",
    "shim x12 lens mount -> B1",
)


class Bench(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Shearwater compact", "needle dead")

    @property
    def job(self) -> Job:
        assert self.page.view is not None
        return self.page.view.job

    @property
    def receiving(self) -> Receiving:
        return self.job.receiving

    @property
    def opening(self) -> Opening:
        return self.job.opening

    def go_open(self, lines: tuple[str, ...] = ()) -> None:
        self.press(KEY.Key_2, ALT)
        for line in lines:
            self.type_in(line)
            self.press(KEY.Key_Return)


class Receive(Bench):
    def test_finding_is_placed_where_the_arrows_went(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        outline = self.page.at("Receive").look_over.outline
        self.assertIs(self.focused, outline)
        first = outline.spot.name
        self.press(KEY.Key_Down)
        self.assertNotEqual(outline.spot.name, first)
        self.press(KEY.Key_PageDown)
        self.press(KEY.Key_PageDown)
        self.press(KEY.Key_Return)
        self.type_in("green crust a patch: under the screw")
        self.press(KEY.Key_Return)
        found = self.receiving.findings[0]
        self.assertEqual(
            (found.kind, found.view, found.extent, found.note), ("green crust", "back", "a patch", "under the screw")
        )
        self.assertIn("suspect", self.page.at("Receive").look_over.meaning.text())
        self.assertIn("caustic", self.page.at("Receive").look_over.caution.text())
        self.assertIn("green crust", outline.accessibleName())
        self.press(KEY.Key_Delete)
        self.assertEqual(self.receiving.findings, ())
        self.press(KEY.Key_Z, CTRL)
        self.assertEqual(self.receiving.findings, (found,))

    def test_enter_in_the_list_says_a_finding_better(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Return)
        self.type_in("sticky: lever")
        self.press(KEY.Key_Return)
        before = self.receiving.findings[0]
        page = self.page.at("Receive").look_over
        page.outline.setFocus()
        self.press(KEY.Key_Down)  # the cursor elsewhere does not move it
        page.list.setFocus()
        page.list.setCurrentRow(0)
        self.press(KEY.Key_Return)
        self.assertEqual(page.typed.edit.text(), "sticky a spot: lever")
        self.assertIn("stays at the", page.typed.said.text())
        self.type_in(" and ring")
        self.press(KEY.Key_Return)
        (after,) = self.receiving.findings
        self.assertEqual(after.note, "lever and ring")
        self.assertEqual((after.x, after.y, after.finding_id), (before.x, before.y, before.finding_id))
        self.assertIs(self.focused, page.list)
        self.press(KEY.Key_Return)
        page.typed.edit.clear()  # thought better of: the line is free for a new one
        self.type_in("dent")
        self.press(KEY.Key_Return)
        self.assertEqual(len(self.receiving.findings), 2)

    def test_what_is_no_finding_is_said_and_kept_in_its_field(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Return)
        self.type_in("blue fluff")
        self.press(KEY.Key_Return)
        typed = self.page.at("Receive").look_over.typed
        self.assertEqual(typed.edit.text(), "blue fluff")
        self.assertIn("green crust", typed.said.text())

    def test_missing_screw_is_hunted(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Return)
        self.type_in("missing screw: cross, chrome")
        self.press(KEY.Key_Return)
        page = self.page.at("Receive").look_over
        self.assertTrue(page.hunt_card.isVisible())
        page.hunt.setFocus()
        self.press(KEY.Key_Down)
        self.press(KEY.Key_Return)
        self.assertEqual(len(self.receiving.missing[0].looked), 1)
        page.found.click()
        self.assertTrue(self.receiving.missing[0].found)

    def test_walk_letters_record_and_clashes_show(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Tab, CTRL)
        walk = self.page.at("Receive").walk
        self.assertIs(self.focused, walk.table)
        rows = [row[0] for row in walk.model.rows]
        for act, letter in (("needle under light Ev 6", KEY.Key_W), ("battery test", KEY.Key_D)):
            walk.table.choose(rows.index(act))
            self.press(letter)
        self.assertEqual([one.result for one in self.receiving.trials], ["works", "dead"])
        self.assertIn("battery test is dead", walk.clashes.text())
        self.press(KEY.Key_S)
        self.assertEqual(walk.supply.currentText(), "no battery")

    def test_gate_figures_are_typed_and_a_wrong_one_is_marked(self) -> None:
        self.press(KEY.Key_Tab, CTRL)
        self.press(KEY.Key_Tab, CTRL)
        gate = self.page.at("Receive").walk.gate
        gate.flash.click()
        self.assertTrue(self.receiving.gate.has_flash)
        for key, text in (("capacitance_f", "220 uF"), ("measured_v", "12")):
            gate.fields[key].setFocus()
            gate.fields[key].selectAll()
            self.type_in(text)
            self.press(KEY.Key_Return)
        self.assertAlmostEqual(self.receiving.gate.capacitance_f, 220e-6)
        self.assertEqual(self.receiving.gate.measured_v, 12.0)
        gate.fields["resistor_ohm"].setText("two")
        gate.fields["resistor_ohm"].setFocus()
        self.press(KEY.Key_Return)
        self.assertTrue(gate.fields["resistor_ohm"].property("wrong"))
        self.assertEqual(self.receiving.gate.resistor_ohm, 2000.0)


class Off(Bench):
    def test_sixty_steps_by_keys_one_line_each(self) -> None:
        self.go_open(tuple(f"screw x{1 + n % 4} plate {n} M1.4x3 cross -> A{1 + n % 9}" for n in range(60)))
        self.assertEqual(len(self.opening.steps), 60)
        self.assertEqual(self.opening.steps[7].count, 4)
        self.assertEqual(len(self.page.at("Open").off.model.rows), 60)

    def test_completion_and_caution_before_the_act(self) -> None:
        self.go_open(LINES[:1])
        typed = self.page.at("Open").off.typed
        self.type_in("screw x2 top c")
        self.press(KEY.Key_Tab)
        self.assertEqual(typed.edit.text(), "screw x2 top cover")
        typed.edit.setText("")
        self.type_in("knob counter dial")
        self.assertIn("never force", typed.said.text())
        self.assertEqual(len(self.opening.steps), 1)

    def test_form_changes_a_step_and_says_what_is_wrong(self) -> None:
        self.go_open(LINES[:2])
        self.press(KEY.Key_F5)
        self.press(KEY.Key_Return)
        form = self.dialog
        assert isinstance(form, StepForm)
        for text in ("many", "2"):
            form.lines["count"].setFocus()
            form.lines["count"].selectAll()
            self.type_in(text)
            if text == "many":
                self.press(KEY.Key_Return, CTRL)
                self.assertIn("Count", form.fault.text())
        form.lines["tray"].setFocus()
        self.press(KEY.Key_Return)  # Enter goes on to the next field, in the order in which they are seen
        self.assertIs(self.focused, form.lines["preset"])
        self.press(KEY.Key_Return)
        self.assertIs(self.focused, form.lines["marks"])
        self.type_in("dot to index")
        self.press(KEY.Key_Escape)  # something would be lost: it is asked first
        self.assertIsInstance(self.dialog, AskYes)
        self.press(KEY.Key_Escape)
        self.assertTrue(form.isVisible())
        self.press(KEY.Key_Return, CTRL)
        self.assertTrue(self.no_dialog)
        self.assertEqual((self.opening.steps[1].count, self.opening.steps[1].marks), (2, "dot to index"))
        self.press(KEY.Key_Delete)
        self.assertEqual(len(self.opening.steps), 1)

    def test_out_as_csv_and_in_again_as_a_plan(self) -> None:
        self.go_open(LINES)
        target = self.folder / "steps.csv"
        self.press(KEY.Key_E, CTRL)
        self.name_file(target)
        self.assertEqual(len(read_strip(target.read_bytes()).steps), 5)
        paper = self.folder / "list.pdf"
        self.press(KEY.Key_S, CTRL)
        self.name_file(paper)
        self.assertTrue(paper.read_bytes().startswith(b"%PDF"))
        self.press(KEY.Key_Escape)
        self.new_job("Another", "jams")
        self.press(KEY.Key_2, ALT)
        self.press(KEY.Key_I, CTRL)
        self.name_file(target)
        self.assertIn("Take 5 steps", self.dialog.take.text())  # type: ignore[attr-defined]
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertEqual([step.planned for step in self.opening.steps], [True] * 5)
        self.press(KEY.Key_F5)
        self.page.at("Open").off.table.choose(0)
        self.press(KEY.Key_P)
        self.assertFalse(self.opening.steps[0].planned)

    def test_typing_what_is_planned_takes_it_as_planned(self) -> None:
        self.go_open(LINES)
        self.press(KEY.Key_Escape)
        self.new_job("Shearwater compact", "again")
        self.press(KEY.Key_2, ALT)
        self.press(KEY.Key_L, CTRL)
        self.page.at("Open").pages.turn_to(0)
        self.page.at("Open").off.typed.edit.setFocus()
        self.type_in("shim lens mount")
        self.assertIn("as planned · 12 shims of lens mount", self.page.at("Open").off.typed.said.text())
        self.press(KEY.Key_Return)
        self.assertEqual([step.planned for step in self.opening.steps], [False, True, True, True, True])
        self.assertEqual(self.opening.steps[0].tray, "B1")

    def test_the_next_of_the_model_begins_from_this_one(self) -> None:
        self.go_open(LINES)
        self.press(KEY.Key_Escape)
        self.new_job("Shearwater compact", "again")
        self.press(KEY.Key_2, ALT)
        for _ in range(2):
            self.press(KEY.Key_Tab, CTRL)
        self.assertIn("5 steps", self.page.at("Open").way.learned.text())
        self.press(KEY.Key_L, CTRL)
        self.assertEqual(len(self.opening.steps), 5)


class Back(Bench):
    def setUp(self) -> None:
        super().setUp()
        self.go_open(LINES)
        self.press(KEY.Key_Tab, CTRL)
        self.back = self.page.at("Open").back

    def state(self, name: str) -> str:
        return tally(next(step for step in self.opening.steps if step.name == name)).words

    def choose(self, name: str) -> None:
        self.back.table.choose([row[1] for row in self.back.model.rows].index(name))

    def test_all_the_way_by_enter(self) -> None:
        for _ in range(8):
            self.press(KEY.Key_Return)
        self.assertTrue(all(tally(step).state == "whole" for step in self.opening.steps))
        self.assertEqual(self.receiving.trials[0].act, "test before closing")
        self.assertEqual(self.back.sum.text(), "18 of 18 things have an end.")

    def test_eleven_of_twelve_is_shown_where_it_happened(self) -> None:
        self.choose("12 shims of lens mount")
        self.back.count.setText("11")
        self.press(KEY.Key_Return)
        self.assertEqual(self.state("12 shims of lens mount"), "11 of 12, one short")
        self.assertEqual(self.back.model.rows[0][2], "11 of 12, one short")
        self.choose("12 shims of lens mount")
        self.press(KEY.Key_R)
        self.press(KEY.Key_Return)  # replaced by nothing: refused, and the question stays
        self.assertTrue(self.dialog.isVisible())
        self.type_in("torn, renewed")
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertEqual(self.state("12 shims of lens mount"), "12 of 12")

    def test_closing_over_an_open_tally_asks_once_and_logs(self) -> None:
        self.choose("top cover")
        self.press(KEY.Key_Return)
        self.assertIn("meter lead (0 of 1)", self.dialog.accessibleName())
        self.press(KEY.Key_Return)  # Enter without thought is no
        self.assertTrue(self.no_dialog)
        self.assertEqual(self.state("top cover"), "0 of 1")
        self.assertIn("not closed", self.said)
        self.press(KEY.Key_Return)
        self.assertTrue(self.dialog.isVisible())
        self.press(KEY.Key_Y)
        self.assertTrue(self.no_dialog)
        self.assertEqual(self.state("top cover"), "1 of 1")
        self.assertIn("closed over meter lead", self.page.view.log[0].reason)

    def test_a_wrong_count_is_said(self) -> None:
        self.back.count.setText("2,5")
        self.press(KEY.Key_Return)
        self.assertIn("whole number", self.said)


if __name__ == "__main__":
    unittest.main()
