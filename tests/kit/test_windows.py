"""Windows over a page, as they open: Enter, Esc and single keys by real key events; nothing typed goes unasked."""

import unittest
from typing import TypeVar

import shiboken6
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from tests.gui.window import CTRL, KEY, application, sweep, wait_until
from violet_dial.kit.ask import AskYes, ask_text, ask_yes, open_over
from violet_dial.kit.form import line_edit, text_edit
from violet_dial.kit.form_window import FormWindow
from violet_dial.kit.text_window import ImportWindow, TextWindow
from violet_dial.kit.theme.look import Look
from violet_dial.services.station import Listing

D = TypeVar("D", bound=QDialog)


class TwoFields(FormWindow):
    """A line, a longer text, and what keeps them."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Two fields")
        self.kept: list[str] = []
        self.name, self.notes = line_edit("Name", "Gannet"), text_edit("Notes")
        self.help, self.keep_button = QPushButton("What is this?"), QPushButton("Keep")
        self.helped = 0
        self.keep_button.clicked.connect(self._keep)
        self.help.clicked.connect(self._help)
        layout = QVBoxLayout(self)
        for item in (self.name, self.notes, self.help, self.keep_button):
            layout.addWidget(item)

    def _keep(self) -> None:
        self.kept.append(self.name.text())
        self.note_kept()
        self.accept()

    def _help(self) -> None:
        self.helped += 1


class Over(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.look = Look()
        self.page = QWidget()
        self.page.resize(900, 700)
        self.page.show()
        self.addCleanup(sweep)

    def opened(self, dialog: D) -> D:
        self.assertTrue(wait_until(dialog.isVisible))
        dialog.activateWindow()
        self.assertTrue(wait_until(dialog.isActiveWindow))
        return dialog

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(application().focusWidget() or self.page, key, modifier)

    def gone(self, dialog: QDialog) -> bool:
        return wait_until(lambda: not shiboken6.isValid(dialog) or not dialog.isVisible())

    # questions

    def test_enter_is_no_and_a_letter_answers(self) -> None:
        for key, answer in ((KEY.Key_Return, False), (KEY.Key_Escape, False), (KEY.Key_N, False), (KEY.Key_Y, True)):
            with self.subTest(key):
                said: list[bool] = []
                dialog = self.opened(ask_yes(self.page, "Delete", "Delete it?", "Delete it", said.append))
                self.press(key)
                self.assertTrue(self.gone(dialog))
                self.assertEqual(said, [answer])

    def test_a_text_that_is_refused_keeps_the_window_and_the_text(self) -> None:
        given: list[str] = []

        def then(text: str) -> bool:
            given.append(text)
            return text != "taken"

        dialog = self.opened(ask_text(self.page, "Name", "Its name?", "old", then))
        QTest.keyClicks(dialog.edit, "taken")  # the old one is chosen, and goes
        self.press(KEY.Key_Return)
        self.assertTrue(dialog.isVisible())
        self.assertEqual(dialog.edit.text(), "taken")
        QTest.keyClicks(dialog.edit, " by another ")
        self.press(KEY.Key_Return)
        self.assertTrue(self.gone(dialog))
        self.assertEqual(given, ["taken", "taken by another"])

    def test_esc_leaves_a_text_as_it_was(self) -> None:
        given: list[str] = []

        def then(text: str) -> bool:
            given.append(text)
            return True

        dialog = self.opened(ask_text(self.page, "Name", "Its name?", "old", then))
        QTest.keyClicks(dialog.edit, "new")
        self.press(KEY.Key_Escape)
        self.assertTrue(self.gone(dialog))
        self.assertEqual(given, [])

    # forms

    def form(self) -> TwoFields:
        window = TwoFields(self.page)
        open_over(window)
        window.name.setFocus()
        return self.opened(window)

    def test_enter_goes_from_field_to_field_and_keeps_at_the_button(self) -> None:
        window = self.form()
        self.press(KEY.Key_Return)
        self.assertTrue(window.notes.hasFocus())
        self.press(KEY.Key_Tab)
        self.press(KEY.Key_Return)
        self.assertEqual((window.helped, window.kept, window.isVisible()), (1, [], True))
        self.press(KEY.Key_Tab)
        kept = window.kept
        self.press(KEY.Key_Return)
        self.assertEqual(kept, ["Gannet"])
        self.assertTrue(self.gone(window))

    def test_ctrl_enter_keeps_from_anywhere(self) -> None:
        window = self.form()
        kept = window.kept
        QTest.keyClicks(window.name, " reflex")
        self.press(KEY.Key_Return, CTRL)
        self.assertEqual(kept, ["Gannet reflex"])
        self.assertTrue(self.gone(window))

    def test_esc_asks_first_where_something_typed_would_be_lost(self) -> None:
        window = self.form()
        QTest.keyClicks(window.name, " reflex")
        self.press(KEY.Key_Escape)
        asked = self.opened(next(iter(window.findChildren(AskYes))))
        self.press(KEY.Key_Return)  # without thought: no
        self.assertTrue(self.gone(asked))
        self.assertEqual((window.isVisible(), window.name.text()), (True, "Gannet reflex"))
        window.activateWindow()
        self.assertTrue(wait_until(window.isActiveWindow))
        window.name.setFocus()
        self.press(KEY.Key_Escape)
        self.opened(next(dialog for dialog in window.findChildren(AskYes) if dialog.isVisible()))
        self.press(KEY.Key_Y)
        self.assertTrue(self.gone(window))

    def test_esc_leaves_at_once_where_nothing_was_typed(self) -> None:
        window = self.form()
        self.press(KEY.Key_Escape)
        self.assertTrue(self.gone(window))

    # what is read

    def test_a_text_is_closed_by_enter_or_esc(self) -> None:
        for key in (KEY.Key_Return, KEY.Key_Escape):
            window = TextWindow(self.page, self.look, "The sum", (("Reading 1", ("error\t+0.68 stop",)),))
            open_over(window)
            self.opened(window)
            self.assertIn("+0.68 stop", window.text.toPlainText())
            self.press(key)
            self.assertTrue(self.gone(window))

    def test_nothing_of_a_file_is_taken_until_it_is_said(self) -> None:
        listing = Listing("readings.csv", "2 readings", (("Rejected", ("line 4\tno light",)),), 2, "readings")
        for key, taken in ((KEY.Key_Escape, 0), (KEY.Key_Return, 1)):
            window = ImportWindow(self.page, self.look, listing)
            codes: list[int] = []
            window.finished.connect(codes.append)
            open_over(window)
            self.opened(window)
            self.assertIn("no light", window.findChild(QTextBrowser).toPlainText())
            self.press(key)
            self.assertTrue(self.gone(window))
            self.assertEqual(codes, [taken])

    def test_where_nothing_is_offered_nothing_can_be_taken(self) -> None:
        window = ImportWindow(self.page, self.look, Listing("x.csv", "nothing of use", (), 0, "readings"))
        self.addCleanup(sweep)
        self.assertFalse(window.take.isEnabled())


if __name__ == "__main__":
    unittest.main()
