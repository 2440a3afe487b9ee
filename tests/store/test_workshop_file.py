"""The workshop file: versions, undo, search, photos, and every fault said plainly with nothing overwritten."""

import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from tests.processes import plain_environment
from violet_dial.core.errors import (
    RecordMissing,
    SchemaTooNew,
    StoreDamaged,
    StoreError,
    StoreFull,
    StoreReadOnly,
)
from violet_dial.store import tables
from violet_dial.store.workshop_file import Card, NewVersion, WorkshopFile


def version(text: str, number: int = 1, words: str = "") -> NewVersion:
    card = Card(
        f"j{number}", number, f"title {text}", "headline", "signing", "finding", f"2026-11-03T10:00:{number:02d}"
    )
    return NewVersion(card, "Light", text, text.encode(), words or text)


class InFolder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "bench" / "w.violet"

    def opened(self) -> WorkshopFile:
        file = WorkshopFile(self.path)
        self.addCleanup(file.close)
        return file


class Versions(InFolder):
    def test_every_version_is_kept(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        for text in ("two", "three"):
            file.keep(version(text))
        self.assertEqual(file.current("j1").document, b"three")
        self.assertEqual([row.reason for row in file.log("j1")], ["three", "two", "one"])
        self.assertEqual(file.document(file.log("j1")[-1].version_id), b"one")

    def test_stepping_back_marks_the_undone(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        file.keep(version("two"))
        back = file.current("j1").parent_id or 0
        file.step("j1", back, version("one").card, "one")
        self.assertEqual(file.current("j1").document, b"one")
        self.assertTrue(file.current("j1").can_redo)
        self.assertEqual([row.undone for row in file.log("j1")], [True, False])
        file.keep(version("other"))
        self.assertEqual(
            [(row.reason, row.undone) for row in file.log("j1")], [("other", False), ("two", True), ("one", False)]
        )
        self.assertIsNone(file.forward("j1"))
        left_aside = file.log("j1")[1].version_id
        file.step("j1", left_aside, version("two").card, "two", on_line=False)
        self.assertEqual(
            [(row.reason, row.undone) for row in file.log("j1")], [("other", True), ("two", False), ("one", False)]
        )
        file.step("j1", back, version("one").card, "one")
        self.assertEqual(file.forward("j1"), left_aside)
        self.assertEqual([row.reason for row in file.log("j1", 2)], ["other", "two"])

    def test_reopened_as_it_was(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one"))
        file.close()
        self.assertEqual(self.opened().current("j1").document, b"one")

    def test_missing_records(self) -> None:
        file = self.opened()
        for call in (
            lambda: file.current("x"),
            lambda: file.document(9),
            lambda: file.photo("x"),
            lambda: file.keep(version("a")),
        ):
            with self.assertRaises(RecordMissing):
                call()
        file.add_job(version("one"))
        with self.assertRaises(StoreError):
            file.add_job(version("again"))

    def test_search_finds_beginnings_of_any_words(self) -> None:
        file = self.opened()
        file.add_job(version("a", 1, "green crust under the base plate"))
        file.add_job(version("b", 2, "sticky pointer Ærø"))
        self.assertEqual([card.number for card in file.cards("crus green")], [1])
        self.assertEqual([card.number for card in file.cards("")], [2, 1])
        for odd in ('"', "crust OR", "*", "(", "a:b", "NEAR(", "'; DROP TABLE job"):
            file.cards(odd)  # no text breaks the search
        file.keep(version("b", 2, "other words"))
        self.assertEqual(file.cards("sticky"), ())

    def test_photos_once_by_content(self) -> None:
        file = self.opened()
        for _ in range(2):
            file.keep_photo("abc", "image/png", b"content")
        self.assertEqual(file.photo("abc"), b"content")


class Faults(InFolder):
    def test_second_instance_may_only_look(self) -> None:
        self.opened().add_job(version("one"))
        second = self.opened()
        self.assertIn("another Violet Dial", second.read_only_reason)
        self.assertEqual(second.current("j1").document, b"one")
        with self.assertRaises(StoreReadOnly):
            second.keep(version("two"))

    def test_damaged_files_are_left_as_they_are(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one" * 500))
        file.close()
        whole = self.path.read_bytes()
        other = sqlite3.connect(self.path.with_name("other.db"))
        other.execute("CREATE TABLE t (x)")
        other.commit()
        other.close()
        damaged = {
            "garbage": b"this is not a database " * 100,
            "short": b"SQLite",
            "torn": whole[:8192] + b"\xff" * 12288 + whole[20480:],
            "another database": self.path.with_name("other.db").read_bytes(),
        }
        for name, content in damaged.items():
            with self.subTest(name):
                self.path.write_bytes(content)
                with self.assertRaises(StoreDamaged) as caught:
                    WorkshopFile(self.path)
                self.assertIn(
                    "left as it is", str(caught.exception).replace("was left", "left").replace("as it was", "as it is")
                )
                self.assertEqual(self.path.read_bytes(), content)

    def test_newer_schema(self) -> None:
        WorkshopFile(self.path).close()
        with sqlite3.connect(self.path) as db:
            db.execute(f"PRAGMA user_version = {tables.SCHEMA_VERSION + 1}")
        db.close()
        before = self.path.read_bytes()
        with self.assertRaises(SchemaTooNew):
            WorkshopFile(self.path)
        self.assertEqual(self.path.read_bytes(), before)

    def test_upgrade_keeps_a_copy_first(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one"))
        file.close()
        step = {1: "ALTER TABLE job ADD COLUMN mount TEXT"}
        with mock.patch.object(tables, "SCHEMA_VERSION", 2), mock.patch.object(tables, "MIGRATIONS", step):
            self.assertEqual(self.opened().current("j1").document, b"one")
        with sqlite3.connect(self.path.with_name("w.violet.before-2")) as copy:
            self.assertEqual(copy.execute("PRAGMA user_version").fetchone()[0], 1)
        copy.close()

    def test_full_disk(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        pages = file._link.db.execute("PRAGMA page_count").fetchone()[0]
        file._link.db.execute(f"PRAGMA max_page_count = {pages + 2}")  # SQLite then answers as on a full disk
        with self.assertRaises(StoreFull) as caught:
            file.keep(NewVersion(version("x").card, "Light", "big", os.urandom(100_000), "x"))
        self.assertIn("not kept", str(caught.exception))
        self.assertEqual(file.current("j1").document, b"one")

    def test_read_only_folder(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one"))
        file.close()
        script = (
            "import os, sys, pathlib\n"
            "path = pathlib.Path(sys.argv[1])\n"
            "from violet_dial.store.workshop_file import WorkshopFile\n"
            "os.geteuid() == 0 and os.setuid(65534)\n"
            "file = WorkshopFile(path)\n"
            "print(file.read_only_reason, '|', file.current('j1').document.decode())\n"
            "try: WorkshopFile(path.with_name('new.violet'))\n"
            "except Exception as error: print(type(error).__name__)\n"
        )
        for folder in (self.path.parent.parent, self.path.parent):
            folder.chmod(0o555)
            self.addCleanup(folder.chmod, 0o755)
        done = subprocess.run(
            [sys.executable, "-c", script, str(self.path)],
            capture_output=True,
            text=True,
            check=False,
            env=plain_environment(),
        )
        self.assertEqual(done.stderr, "")
        self.assertIn("may not be written", done.stdout)
        self.assertIn("| one", done.stdout)
        self.assertIn("StoreReadOnly", done.stdout)
