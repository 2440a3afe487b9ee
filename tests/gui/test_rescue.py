"""A job that cannot be read: listed as such, hiding no other, and brought back as it stood after an older act."""

import sqlite3
import unittest
import zlib

from PySide6.QtCore import Qt

from tests.gui.window import WindowTest
from tests.workshops import open_workshop
from violet_dial.gui.trouble_window import RescueWindow

KEY = Qt.Key


class Rescue(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.new_job("Guillemot pocket meter")
        self.press(KEY.Key_Escape)
        self.new_job("Puffin reflex")
        self.take("8", "8.6")
        assert self.page.view is not None
        self.broken = self.page.view.job.job_id
        newest = self.page.view.version_id
        self.press(KEY.Key_Escape)
        path = self.window.workshop.path
        self.window.workshop.close()
        with sqlite3.connect(path) as db:  # a field of a later version of the application
            (document,) = db.execute("SELECT document FROM version WHERE version_id = ?", (newest,)).fetchone()
            del document
            future = zlib.compress(b'{"format_version": 99, "field_of_the_future": true}')
            db.execute("UPDATE version SET document = ?, base_id = NULL WHERE version_id = ?", (future, newest))
        db.close()
        self.window.change_workshop(lambda: open_workshop(path))

    def open_broken(self) -> None:
        """By keys: Enter on its card."""
        self.window.jobs.select(self.broken)
        self.window.jobs.view.setFocus()
        self.press(KEY.Key_Return)

    def foot(self, name: str) -> str:
        cards = {card.title: card for card in self.window.jobs.model.cards}
        return cards[name].waits_for

    def test_it_is_listed_before_it_is_wanted_and_hides_no_other(self) -> None:
        self.until(lambda: "read" in self.foot("Puffin reflex"), "it is read beside the work")
        self.assertEqual(len(self.window.jobs.model.cards), 2)
        self.assertNotIn("cannot", self.foot("Guillemot pocket meter"))
        other = next(card.job_id for card in self.window.workshop.cards() if card.title.startswith("Guillemot"))
        self.window.open_job(other)
        self.assertTrue(self.window.on_job)

    def test_esc_changes_nothing_and_enter_brings_it_back(self) -> None:
        self.open_broken()
        window = self.dialog
        assert isinstance(window, RescueWindow)
        self.assertGreater(window.list.count(), 0)
        self.press(KEY.Key_Escape)
        self.assertTrue(self.no_dialog)
        self.assertFalse(self.window.on_job)
        self.open_broken()
        self.assertIsInstance(self.dialog, RescueWindow)
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertTrue(self.window.on_job)
        assert self.page.view is not None
        self.assertEqual(self.page.view.job.device.name, "Puffin reflex")
        self.assertEqual(self.window.workshop.trouble(self.broken), "")


if __name__ == "__main__":
    unittest.main()
