"""Beside the work: the file whole at rest, a lost file said at once, words kept while one types, an orderly end, backups by
keys, shelves by keys; real windows."""

import os
import random
import shutil
import signal
import string
import subprocess
import sys
import tempfile
import time
import unittest
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from tests.gui.window import CTRL, KEY, SHIFT, WindowTest, application
from tests.processes import plain_environment
from tests.services.test_workshop import png
from tests.workshops import open_workshop
from violet_dial.gui.jobs_acts import BackupsWindow
from violet_dial.gui.trouble_window import TroubleWindow
from violet_dial.kit.ask import AskYes
from violet_dial.store.backups import back_up, backups_of

TYPING = """
import sys
from datetime import datetime
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtTest import QTest
from violet_dial.gui import start
from violet_dial.gui.main_window import MainWindow
made = MainWindow.__init__
def make(self, *arguments):
    made(self, *arguments)
    self.warming.warm.connect(lambda: begin(self))
def begin(window):
    window.new_job()
    window.job_page.go("Return")
    field = window.job_page.page.texts["done"]
    field.setFocus()
    typed = []
    def key():
        if not window.isVisible():  # a key reaches no window that is closed
            return
        typed.append("x")
        QTest.keyClicks(field, "x")
        print(len(typed), flush=True)
    timer = QTimer(window, interval=40)
    timer.timeout.connect(key)
    timer.start()
MainWindow.__init__ = make
sys.exit(start.start(start.StartOptions(Path(sys.argv[1]))))
"""


class Keeping(WindowTest):
    def notes(self) -> str:
        assert self.page.view is not None
        other = open_workshop(self.window.workshop.path)
        try:
            return other.view(self.page.view.job.job_id).job.closing.done
        finally:
            other.close()

    def test_the_file_is_whole_when_nothing_is_done_for_a_moment(self) -> None:
        self.new_job("Puffin reflex")
        copy = self.folder / "copy.violet"

        def whole() -> bool:
            shutil.copy(self.window.workshop.path, copy)
            other = open_workshop(copy)
            try:
                return [card.title for card in other.cards()] == ["Puffin reflex"]
            finally:
                other.close()

        self.until(whole, "one file is the whole workshop")

    def test_a_lost_file_is_said_at_once_and_work_goes_on(self) -> None:
        self.new_job("Puffin reflex")
        path = self.window.workshop.path
        path.rename(path.with_name("elsewhere.violet"))
        self.until(lambda: "while it was open" in self.said, "without any act")
        self.take("8", "8.6")
        self.assertIn("while it was open", self.said)
        self.assertTrue(path.exists())
        self.assertEqual(len(self.page.view.job.light.current.readings), 1)
        self.window.message.findChild(QPushButton).click()  # understood
        self.take("9", "9.6")
        self.assertEqual(self.said, "")

    def test_words_are_kept_while_one_types_and_are_one_act(self) -> None:
        self.new_job()
        self.press(KEY.Key_8, Qt.KeyboardModifier.AltModifier)
        acts = len(self.page.view.log)
        self.page.page.texts["done"].setFocus()
        for _ in range(12):
            self.type_in("word ")
            began = time.monotonic()
            self.until(lambda at=began: time.monotonic() - at > 0.15)
        self.assertGreater(len(self.notes()), 20, "without a pause in typing")
        self.press(KEY.Key_5, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.notes(), "word " * 12)
        self.assertEqual(len(self.page.view.log), acts + 1)

    def test_what_a_full_disk_refuses_is_held_and_asked_about(self) -> None:
        self.new_job()
        self.press(KEY.Key_8, Qt.KeyboardModifier.AltModifier)
        db = self.window.workshop._file._link.db
        pages = db.execute("PRAGMA page_count").fetchone()[0]
        db.execute(f"PRAGMA max_page_count = {pages}")  # SQLite then answers as on a full disk
        done = self.page.page.texts["done"]
        done.setFocus()
        application().clipboard().setText("".join(random.Random(1).choices(string.printable[:90], k=19_000)))
        self.press(KEY.Key_V, CTRL)
        for _ in range(3):
            self.press(KEY.Key_Escape)
            self.assertIn("disk is full", self.said)
            self.assertTrue(self.window.on_job)
        self.assertEqual(len(done.toPlainText()), 19_000)
        self.window.close()
        self.assertIsInstance(self.dialog, AskYes)
        self.press(KEY.Key_Escape)
        db.execute("PRAGMA max_page_count = 100000")
        self.press(KEY.Key_Escape)
        self.assertFalse(self.window.on_job)
        self.assertEqual(len(self.notes()), 19_000)

    def test_backups_by_two_keys(self) -> None:
        self.new_job("Puffin reflex")
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_B, CTRL | SHIFT)
        self.assertIsInstance(self.dialog, BackupsWindow)
        self.press(KEY.Key_N, Qt.KeyboardModifier.AltModifier)
        self.until(lambda: "Backup written" in self.said, self.said)
        self.new_job("Auk meter")
        self.press(KEY.Key_Escape)
        self.press(KEY.Key_B, CTRL | SHIFT)
        self.assertIsInstance(self.dialog, BackupsWindow)
        self.press(KEY.Key_Return)
        self.assertTrue(self.no_dialog)
        self.assertIn("Brought back", self.said)
        self.assertEqual([card.title for card in self.window.jobs.model.cards], ["Puffin reflex"])
        self.window.keeping.begin(backs_up=True)
        self.assertEqual(len(backups_of(self.window.workshop.path)), 1)

    def test_shelves_by_keys_and_a_new_job_left_alone_leaves_nothing(self) -> None:
        for name in ("Puffin reflex", "Auk meter"):
            self.new_job(name)
            self.press(KEY.Key_Escape)
        self.press(KEY.Key_N, CTRL)
        self.press(KEY.Key_Escape)
        jobs = self.window.jobs
        self.assertEqual(len(jobs.model.cards), 2)
        for key, shelf in ((KEY.Key_C, "collected"), (KEY.Key_A, "put away")):
            jobs.view.setFocus()
            self.press(key, CTRL | SHIFT)
            self.assertIn(shelf, self.said)
        self.assertEqual(
            [jobs.groups.item(row).text() for row in range(3)], ["On the bench   0", "collected   1", "put away   1"]
        )
        jobs.groups.setCurrentRow(1)
        self.press(KEY.Key_C, CTRL | SHIFT)
        self.assertIn("back on the bench", self.said)
        jobs.groups.setCurrentRow(0)
        jobs.view.setFocus()
        self.press(KEY.Key_Delete)
        self.assertIsInstance(self.dialog, AskYes)
        self.press(KEY.Key_Return)  # Enter is no
        self.assertEqual(len(jobs.model.cards), 1)
        self.press(KEY.Key_Delete)
        self.press(KEY.Key_Y)
        self.assertTrue(self.no_dialog)
        self.assertEqual(len(jobs.model.cards), 0)
        self.assertIn("wastebasket   1", jobs.groups.item(jobs.groups.count() - 1).text())

    def test_old_notes_come_in_by_keys(self) -> None:
        notes = self.folder / "notes"
        notes.mkdir()
        (notes / "Auk.txt").write_text("green crust")
        (notes / "Auk.png").write_bytes(png())
        self.press(KEY.Key_I, CTRL | SHIFT)
        self.name_file(notes)
        self.until(lambda: self.window.on_job, self.said)
        self.assertEqual(self.page.view.job.intake.noticed, "green crust")
        self.assertEqual(len(self.page.view.job.photos), 1)


class Ends(unittest.TestCase):
    def test_words_outlive_the_signals_that_end_a_process(self) -> None:
        for number, least in ((signal.SIGTERM, 0), (signal.SIGHUP, 0), (signal.SIGKILL, 30)):
            with self.subTest(number.name), tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "w.violet"
                environment = {**plain_environment(), "QT_QPA_PLATFORM": "offscreen", "HOME": folder}
                environment |= {f"XDG_{one}_HOME": folder for one in ("DATA", "STATE", "CONFIG")}
                command = [sys.executable, "-c", TYPING, str(path)]
                with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment) as typist:
                    assert typist.stdout is not None
                    typed = 0
                    while typed < 60:
                        typed = int(typist.stdout.readline())
                    os.kill(typist.pid, number)
                    rest, _ = typist.communicate(timeout=60)
                    typed = int([str(typed), *rest.split()][-1])
                kept = open_workshop(path)
                job = kept.view(kept.cards()[0].job_id).job
                kept.close()
                self.assertGreaterEqual(len(job.closing.done), typed - least)


class Trouble(WindowTest):
    """A workshop that cannot be opened: a window says what is wrong, and brings it back."""

    def setUp(self) -> None:
        super().setUp()
        self.new_job("Puffin reflex")
        self.press(KEY.Key_Escape)
        self.path = self.window.workshop.path
        back_up(self.path, datetime(2026, 11, 20, 12))
        self.window.workshop.close()
        self.path.write_bytes(b"hurt" + self.path.read_bytes()[4:])

    def opened(self) -> TroubleWindow:
        window = TroubleWindow(self.look, self.path, "It is damaged.", open_workshop)
        window.open()
        window.activateWindow()
        self.until(lambda: application().activeModalWidget() is window and application().activeWindow() is window)
        return window

    def test_a_backup_is_brought_back_by_enter(self) -> None:
        window = self.opened()
        self.press(KEY.Key_Return)
        assert window.workshop is not None
        self.assertEqual([card.title for card in window.workshop.cards()], ["Puffin reflex"])
        window.workshop.close()
        self.assertEqual(len(list(self.path.parent.glob("*before-restore*"))), 1)

    def test_what_can_be_read_is_saved(self) -> None:
        window = self.opened()
        self.press(KEY.Key_S, Qt.KeyboardModifier.AltModifier)
        self.until(lambda: window.workshop is not None, window.why.text())
        assert window.workshop is not None
        self.assertIn("salvaged", window.workshop.path.name)
        self.assertEqual([card.title for card in window.workshop.cards()], ["Puffin reflex"])
        window.workshop.close()

    def test_esc_leaves_all_as_it_is(self) -> None:
        before = self.path.read_bytes()
        window = self.opened()
        self.press(KEY.Key_T, Qt.KeyboardModifier.AltModifier)
        self.until(lambda: f"{self.path} is damaged" in window.why.text())
        self.press(KEY.Key_Escape)
        self.assertIsNone(window.workshop)
        self.assertEqual(self.path.read_bytes(), before)


if __name__ == "__main__":
    unittest.main()
