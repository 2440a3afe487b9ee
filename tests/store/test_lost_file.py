"""The workshop file lost, moved, replaced or overwritten while it is open: no kept act is lost, nothing written over."""

import contextlib
import os
import shutil
import sqlite3
import stat
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from unittest import mock

from tests.store.test_workshop_file import InFolder, standing, version
from violet_dial.core.errors import StoreDamaged, StoreError, StoreFull, StoreReadOnly
from violet_dial.store.records import NewVersion
from violet_dial.store.workshop_file import WorkshopFile

ACTS = 6


def replaced(path: Path) -> None:
    other = path.with_name("other")
    shutil.copy(path, other)
    other.replace(path)


WAYS: dict[str, Callable[[Path], object]] = {
    "deleted": lambda path: path.unlink(),
    "renamed": lambda path: path.rename(path.with_name("old.violet")),
    "replaced": replaced,
    "emptied": lambda path: os.truncate(path, 0),
    "cut short": lambda path: os.truncate(path, path.stat().st_size // 2),
    "overwritten": lambda path: path.write_bytes(os.urandom(path.stat().st_size)),
    "all files deleted": lambda path: tuple(map(Path.unlink, path.parent.iterdir())),
    "folder deleted": lambda path: shutil.rmtree(path.parent),
}


class Lost(InFolder):
    def begin(self, settled: bool) -> tuple[WorkshopFile, list[NewVersion]]:
        file, held = self.opened(), [version("text 0")]
        file.unsaved_job = lambda: held[-1]
        file.add_job(version("other", 2))
        file.add_job(held[0])
        for count in range(1, ACTS):
            held.append(version(f"text {count} {'abc' * 300}"))
            file.keep(held[-1])
        if settled:
            file.settle()
        return file, held

    def test_no_act_called_kept_is_lost(self) -> None:
        for name, hurt in WAYS.items():
            with self.subTest(name):
                file, held = self.begin(settled=False)
                hurt(self.path)
                held.append(version("after"))
                file.keep(held[-1])
                self.assertIn("while it was open", file.notice)
                self.assertEqual(standing(file), b"after")
                path, left = file.path, self.path.read_bytes() if self.path.exists() and self.path != file.path else b""
                file.close()
                again = WorkshopFile(path)
                self.assertEqual(standing(again), b"after")
                self.assertEqual(len(again.cards()), 2)
                self.assertGreaterEqual(len(again.log("j1")), ACTS + 1)
                again.close()
                if left:
                    self.assertEqual(self.path.read_bytes(), left, "what stands at the path now is not ours")
                shutil.rmtree(self.path.parent, ignore_errors=True)

    def test_the_job_in_hand_outlives_its_file(self) -> None:
        """Nothing is left of the file, and its log was emptied before: what is in memory is kept all the same."""
        file, _ = self.begin(settled=True)
        file.close()
        file, _ = self.opened(), None
        file.unsaved_job = lambda: version("in hand")
        self.path.write_bytes(b"\0" * self.path.stat().st_size)
        file.make_sure()
        self.assertEqual(standing(file), b"in hand")

    def test_a_file_that_moved_holds_all_until_then(self) -> None:
        file, _ = self.begin(settled=False)
        old = self.path.with_name("old.violet")
        self.path.rename(old)
        file.keep(version("after"))
        file.close()
        moved = WorkshopFile(old)
        self.addCleanup(moved.close)
        self.assertEqual(standing(moved)[:6], b"text 5")

    def test_opening_the_old_name_leaves_the_others_log_alone(self) -> None:
        file, _ = self.begin(settled=False)
        self.path.rename(self.path.with_name("old.violet"))
        other = WorkshopFile(self.path)
        other.add_job(version("a new workshop", 7))
        file.keep(version("after"))
        self.assertNotEqual(file.path, self.path)
        file.close()
        self.assertEqual([card.number for card in other.cards()], [7])
        other.close()
        again = self.opened()
        self.assertEqual([card.number for card in again.cards()], [7])

    def test_where_nothing_can_be_written_nothing_is_called_kept(self) -> None:
        file, _ = self.begin(settled=False)
        shutil.rmtree(self.path.parent)
        self.path.parent.write_bytes(b"a file where the folder was")
        with self.assertRaises(StoreError):
            file.keep(version("after"))
        self.path.parent.unlink()
        file.keep(version("after"))
        self.assertEqual(standing(file), b"after")


class OneFile(InFolder):
    def test_the_one_file_is_whole_at_rest_and_alone_after_closing(self) -> None:
        file = self.opened()
        for count in range(1, 40):
            file.add_job(version("x" * 500, count))
        file.settle()
        copy = self.path.parent.parent / "copy.violet"
        shutil.copy(self.path, copy)
        other = WorkshopFile(copy)
        self.assertEqual(len(other.cards()), 39)
        other.close()
        file.close()
        self.assertEqual([one.name for one in self.path.parent.iterdir()], ["w.violet"])

    def test_what_cannot_be_settled_now_is_later_and_is_no_fault(self) -> None:
        file = self.opened()
        for number in range(1, 4):
            file.add_job(version("x", number))
        reading = file._link.db.execute("SELECT job_id FROM job")  # as a search that is still open
        reading.fetchone()
        file.settle()
        file.add_job(version("x", 9))
        self.assertEqual(file.notice, "")
        reading.close()
        file.settle()
        copy = self.path.with_name("copy.violet")
        shutil.copy(self.path, copy)
        other = WorkshopFile(copy)
        self.assertEqual(len(other.cards()), 4)
        other.close()

    def test_the_lock_holds_through_links_and_leaves_nothing(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        linked, named = (self.path.with_name(f"{name}.violet") for name in ("linked", "named"))
        linked.symlink_to(self.path)
        os.link(self.path, named)
        second = WorkshopFile(linked)
        self.assertIn("another Violet Dial", second.read_only_reason)
        with self.assertRaises(StoreReadOnly):
            second.keep(version("two"))
        second.close()
        with self.assertRaisesRegex(StoreError, "another name"):  # its log lies under the other
            WorkshopFile(named)
        file.keep(version("three"))
        self.assertEqual((standing(file), file.notice), (b"three", ""))
        self.assertFalse(list(self.path.parent.glob("*.lock")))

    def test_where_files_cannot_be_locked_they_are_looked_at_and_it_is_said(self) -> None:
        self.opened().add_job(version("one"))
        with mock.patch("fcntl.flock", side_effect=OSError(95, "Operation not supported")):  # as some network disks answer
            other = WorkshopFile(self.path)
        self.assertIn("cannot be locked", other.read_only_reason)
        self.assertEqual(standing(other), b"one")
        with self.assertRaises(StoreReadOnly):
            other.keep(version("two"))
        other.close()

    def test_taking_a_job_on_a_full_disk_leaves_nothing_of_it(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        pages = file._link.db.execute("PRAGMA page_count").fetchone()[0]
        file._link.db.execute(f"PRAGMA max_page_count = {pages + 8}")  # SQLite then answers as on a full disk
        photos = {str(number): ("image/png", os.urandom(9_000)) for number in range(9)}
        with self.assertRaises(StoreFull):
            file.add_job(replace(version("two", 2), contents=photos))
        self.assertEqual(file._link.db.execute("SELECT count(*) FROM blob").fetchone()[0], 0)
        self.assertEqual(len(file.cards()), 1)

    def test_for_the_owners_eyes_alone(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        self.assertEqual(stat.S_IMODE(self.path.stat().st_mode), 0o600)
        self.assertEqual(stat.S_IMODE(self.path.parent.stat().st_mode), 0o700)
        made = file.copy_to(self.path.with_name("copy.violet"))
        self.assertEqual(stat.S_IMODE(made.stat().st_mode), 0o600)

    def test_links_are_not_written_through(self) -> None:
        self.path.parent.mkdir(parents=True)
        victim = self.path.with_name("victim")
        victim.write_bytes(b"mine")
        for name in (f".{self.path.name}.new", ".copy.violet.part"):
            self.path.with_name(name).symlink_to(victim)
        file = self.opened()
        file.copy_to(self.path.with_name("copy.violet"))
        self.assertEqual(victim.read_bytes(), b"mine")

    def test_odd_names_and_files_are_refused_before_anything_is_written(self) -> None:
        self.path.parent.mkdir(parents=True)
        for odd in (self.path.parent, self.path.with_name("x" * 300 + ".violet")):
            with self.subTest(odd.name[:9]), self.assertRaises(StoreError):
                WorkshopFile(odd)
        pipe = self.path.with_name("pipe.violet")
        os.mkfifo(pipe)
        with self.assertRaises(StoreDamaged):
            WorkshopFile(pipe)
        self.assertEqual([one.name for one in self.path.parent.iterdir()], ["pipe.violet"])

    def test_a_ring_of_versions_ends(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        file.keep(version("two"))
        db = file._link.db
        db.execute("UPDATE version SET parent_id = 2 WHERE version_id = 1")
        self.assertEqual(len(file.log("j1")), 2)
        self.assertTrue(file.on_line("j1", 1))
        db.execute("UPDATE version SET document = 'text' WHERE version_id = 2")
        with self.assertRaisesRegex(StoreDamaged, "no packed document"):
            file.document(2)

    def test_a_file_in_use_elsewhere_is_said_at_once(self) -> None:
        file = self.opened()
        with contextlib.closing(sqlite3.connect(self.path, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            with self.assertRaisesRegex(StoreError, "in use by another program"):
                file.add_job(version("one"))
            other.execute("ROLLBACK")
        file.add_job(version("one"))


if __name__ == "__main__":
    unittest.main()
