"""Typed fields by real keys: what was understood is said before it is taken, and nothing typed is lost unsaid."""

import unittest

from PySide6.QtCore import QObject, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from tests.gui.window import CTRL, KEY, application, sweep, wait_until
from violet_dial.core.errors import InvalidInput
from violet_dial.kit.form import NumberField, add_row, combo, fill_text, line_edit, text_edit
from violet_dial.kit.kept_fields import KeptFields
from violet_dial.kit.typed_line import MOST_SHOWN, TypedLine

COLOURS = ("red", "rose", "ruby", "russet", "rust", "raspberry", "rufous", "green")


class Shown(unittest.TestCase):
    """A page with what is tried on it, in a window that has the keys."""

    def setUp(self) -> None:
        application()
        self.page = QWidget()
        self.page.resize(600, 400)
        self.layout = QVBoxLayout(self.page)
        self.addCleanup(sweep)

    def open(self, *widgets: QWidget) -> None:
        for widget in widgets:
            self.layout.addWidget(widget)
        self.page.show()
        self.page.activateWindow()
        self.assertTrue(wait_until(self.page.isActiveWindow))

    def press(self, *keys: Qt.Key) -> None:
        for key in keys:
            QTest.keyClick(application().focusWidget() or self.page, key)

    def type_in(self, text: str) -> None:
        QTest.keyClicks(application().focusWidget() or self.page, text)


class Typed(Shown):
    def setUp(self) -> None:
        super().setUp()
        self.taken: list[str] = []
        self.refuses = False
        self.line = TypedLine("A colour", self.offers, self.understand, self.take)
        self.open(self.line)
        self.line.edit.setFocus()

    def offers(self, text: str) -> tuple[str, ...]:
        return tuple(f"wire {colour}" for colour in COLOURS if f"wire {colour}".startswith(text.lower()))

    def understand(self, text: str) -> str:
        colour = text.removeprefix("wire ")
        if colour not in COLOURS:
            raise InvalidInput("Colour", colour, "a colour of a wire")
        return f"a {colour} wire"

    def take(self, text: str) -> bool:
        self.taken.append(text)
        return not self.refuses

    def test_what_is_understood_stands_under_it_and_enter_takes_it(self) -> None:
        self.type_in("wire green")
        self.assertEqual((self.line.said.text(), self.line.right), ("a green wire", True))
        self.press(KEY.Key_Return)
        self.assertEqual((self.taken, self.line.edit.text()), (["wire green"], ""))

    def test_what_is_not_understood_is_not_taken(self) -> None:
        self.type_in("wire mauve")
        self.assertEqual(self.line.said.text(), "expected a colour of a wire")
        self.assertEqual(self.line.said.property("role"), "fault")
        self.press(KEY.Key_Return)
        self.assertEqual((self.taken, self.line.edit.text()), ([], "wire mauve"))

    def test_what_is_refused_stays_in_the_line(self) -> None:
        self.refuses = True
        self.type_in("wire red")
        self.press(KEY.Key_Return)
        self.assertEqual((self.taken, self.line.edit.text()), (["wire red"], "wire red"))

    def test_tab_takes_the_marked_completion(self) -> None:
        self.type_in("wire r")
        shown = self.line.offered.text
        self.assertEqual(shown.count("·") + 1, MOST_SHOWN)
        self.assertTrue(shown.startswith("⇥ red  ·  rose"), shown)
        self.press(KEY.Key_Down, KEY.Key_Down)
        self.assertEqual(self.line.offered.accessibleName(), "Tab: wire ruby")
        self.press(KEY.Key_Up, KEY.Key_Tab)
        self.assertEqual(self.line.edit.text(), "wire rose")
        self.assertTrue(self.line.edit.hasFocus())

    def test_nothing_is_offered_in_the_middle_of_a_text(self) -> None:
        self.type_in("wire r")
        self.press(KEY.Key_Home)
        self.type_in("x")
        self.assertEqual(
            (self.line.offered.text, self.line.offered.isVisible()), ("", True)
        )  # its room stays: no key moves the page

    def test_an_offer_is_drawn_as_it_stands_and_cut_where_there_is_no_room(self) -> None:
        self.line._offers_for = lambda text: ("wire <i>red</i>", "wire " + 300 * "x")
        self.type_in("wire ")
        self.assertTrue(self.line.offered.text.startswith("⇥ <i>red</i>  ·  xxx"))
        narrow = self.line.offered.grab().toImage()
        self.assertFalse(narrow.isNull())
        self.assertEqual(self.line.offered.minimumSizeHint().width(), -1)  # it never makes the page wider


class Numbers(Shown):
    def check(self, value: float) -> None:
        if not 0 <= value <= 10:
            raise InvalidInput("Length", value, "0 to 10 mm")

    def test_a_number_is_read_back_or_said_to_be_wrong(self) -> None:
        field = NumberField("Length", "mm|not known", 0.0, self.check)
        self.open(field)
        self.assertEqual(field.said.text(), "not known")
        field.edit.setFocus()
        field.edit.selectAll()
        self.type_in("2,5")
        self.assertEqual((field.value, field.said.text()), (2.5, "= 2.5 mm"))
        self.type_in("0")  # 2,50
        self.assertEqual(field.value, 2.5)
        self.type_in("x")
        self.assertIsNone(field.value)
        self.press(KEY.Key_Backspace)
        field.edit.selectAll()
        self.type_in("11")
        self.assertEqual((field.value, field.said.text()), (None, "expected 0 to 10 mm"))

    def test_a_field_that_was_not_touched_keeps_its_last_digit(self) -> None:
        field = NumberField("Offset", "stop", 0.123456789)
        self.assertEqual((field.value, field.edit.text()), (0.123456789, "0.1235"))

    def test_labels_lead_to_their_fields(self) -> None:
        grid = QGridLayout()
        edit, choice = line_edit("Name"), combo("Kind", ("a", "b"))
        self.assertIs(add_row(grid, "Name", edit).buddy(), edit)
        self.assertIsNone(add_row(grid, "Kind", choice).buddy())  # it brings one of its own
        self.assertEqual([edit.accessibleName(), choice.accessibleName()], ["Name", "Kind"])

    def test_letters_with_ctrl_go_to_the_window_but_for_those_of_editing(self) -> None:
        edit, text = line_edit("Name", "abc"), text_edit("Notes")
        self.open(edit, text)
        for field in (edit, text):
            field.setFocus()
            self.type_in("d")
            QTest.keyClick(field, KEY.Key_D, CTRL)  # on X11 a field would delete by it
            self.assertIn("d", edit.text() if field is edit else text.toPlainText())
        QTest.keyClick(edit, KEY.Key_A, CTRL)
        self.assertEqual(edit.selectedText(), edit.text())


class Kept(Shown):
    def setUp(self) -> None:
        super().setUp()
        self.kept: list[dict[str, str]] = []
        self.refuses = False
        self.owner = QObject()
        self.fields = KeptFields(self.owner, self.keep)
        self.name, self.notes = self.fields.line("name", "Name"), self.fields.text("notes", "Notes")
        self.open(self.name, self.notes)
        self.name.setFocus()

    def keep(self, values: dict[str, str]) -> bool:
        self.kept.append(values)
        return not self.refuses

    def test_enter_keeps_and_goes_on(self) -> None:
        self.type_in("Gannet")
        self.press(KEY.Key_Return)
        self.assertEqual(self.kept, [{"name": "Gannet", "notes": ""}])
        self.assertTrue(self.notes.hasFocus())

    def test_what_is_typed_on_and_on_is_kept_each_second_as_one_act(self) -> None:
        burst = self.fields.burst
        self.notes.setFocus()
        self.type_in("corroded")
        self.assertTrue(wait_until(lambda: len(self.kept) == 1))
        self.type_in(" clip")
        self.assertTrue(wait_until(lambda: len(self.kept) == 2))
        self.assertEqual(self.fields.burst, burst)
        self.assertTrue(wait_until(lambda: self.fields.burst == burst + 1))  # a rest: what comes next is another act
        self.assertEqual(self.kept[-1]["notes"], "corroded clip")

    def test_what_was_refused_stays_whatever_is_drawn(self) -> None:
        self.refuses = True
        self.type_in("Gannet")
        self.assertFalse(self.fields.keep())
        self.fields.fill({"name": "as it was", "notes": "from the job"})
        self.assertEqual(self.fields.values(), {"name": "Gannet", "notes": "from the job"})
        self.refuses = False
        self.assertTrue(self.fields.keep())
        self.fields.fill({"name": "as it was", "notes": ""})
        self.assertEqual(self.name.text(), "as it was")

    def test_filling_writes_nothing_back(self) -> None:
        self.fields.fill({"name": "Gannet", "notes": "dead"})
        fill_text(self.notes, "dead, and corroded")
        self.assertTrue(self.fields.keep())
        self.assertEqual(self.kept, [])

    def test_another_job_begins_with_nothing_typed(self) -> None:
        self.type_in("Gannet")
        self.fields.begin()
        self.fields.fill({"name": "", "notes": ""})
        self.assertTrue(self.fields.keep())
        self.assertEqual((self.kept, self.name.text()), ([], ""))


if __name__ == "__main__":
    unittest.main()
