"""The workshop file: versions, undo, search, photos, and every fault said plainly with nothing overwritten."""

import contextlib
import fcntl
import gzip
import hashlib
import os
import random
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.processes import plain_environment
from violet_dial.core.errors import RecordMissing, SchemaTooNew, StoreDamaged, StoreError, StoreFull, StoreReadOnly
from violet_dial.store import packed, tables
from violet_dial.store.records import Card, Description, NewVersion
from violet_dial.store.workshop_file import WorkshopFile

SCHEMAS = Path(__file__).parent / "schemas"
SHA256 = hashlib.sha256(b"content").hexdigest()


def _rows(path: Path) -> dict[str, dict[Any, bytes]]:
    """Documents by version, unpacked, and photos by hash, as an older file keeps them."""
    with contextlib.closing(sqlite3.connect(path)) as db:
        leaning = "base_id" if db.execute("PRAGMA user_version").fetchone()[0] > 1 else "NULL"
        rows = db.execute(f"SELECT version_id, document, {leaning} FROM version ORDER BY version_id").fetchall()
        found: dict[int, bytes] = {}
        for version_id, document, base in rows:
            found[version_id] = packed.unpacked(document, None if base is None else found[base])
        photos = db.execute(f"SELECT sha256, content FROM {'photo' if leaning == 'NULL' else 'blob'}").fetchall()
        return {"version": found, "photo": dict(photos)}


def version(text: str, number: int = 1) -> NewVersion:
    card = Card(f"j{number}", number, f"title {text}", "headline", "signing", "finding", f"2026-11-03T10:00:{number:02d}")
    return NewVersion(card, "Light", text, text.encode())


def standing(file: WorkshopFile) -> bytes:
    """The document of the first job as it stands."""
    return file.document(file.current("j1").version_id)


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
        self.assertEqual(standing(file), b"three")
        self.assertEqual([row.reason for row in file.log("j1")], ["three", "two", "one"])
        self.assertEqual(file.document(file.log("j1")[-1].version_id), b"one")

    def test_stepping_back_marks_the_undone(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        file.keep(version("two"))
        back = file.current("j1").parent_id or 0
        file.step("j1", back, version("one").card)
        self.assertEqual(standing(file), b"one")
        self.assertTrue(file.current("j1").can_redo)
        self.assertEqual([row.undone for row in file.log("j1")], [True, False])
        file.keep(version("other"))
        self.assertEqual([(row.reason, row.undone) for row in file.log("j1")], [("other", False), ("two", True), ("one", False)])
        self.assertIsNone(file.forward("j1"))
        left_aside = file.log("j1")[1].version_id
        file.step("j1", left_aside, version("two").card, on_line=False)
        self.assertEqual([(row.reason, row.undone) for row in file.log("j1")], [("other", True), ("two", False), ("one", False)])
        file.step("j1", back, version("one").card)
        self.assertEqual(file.forward("j1"), left_aside)
        self.assertEqual([row.reason for row in file.log("j1", 2)], ["other", "two"])

    def test_reopened_as_it_was(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one"))
        file.close()
        self.assertEqual(standing(self.opened()), b"one")

    def test_missing_records(self) -> None:
        file = self.opened()
        for call in (
            lambda: file.current("x"),
            lambda: file.document(9),
            lambda: file.blob("x"),
            lambda: file.keep(version("a")),
        ):
            with self.assertRaises(RecordMissing):
                call()
        file.add_job(version("one"))
        with self.assertRaises(StoreError):
            file.add_job(version("again"))

    def test_search_finds_beginnings_of_any_words(self) -> None:
        file = self.opened()
        for number, words in ((1, "green crust under the base plate"), (2, "sticky pointer Ærø")):
            file.add_job(version("a", number))
            self.assertEqual(file.undescribed(), (f"j{number}",))
            told = Description("signing", "finding", words)
            self.assertTrue(file.describe(f"j{number}", file.current(f"j{number}").version_id, told))
        self.assertEqual(file.undescribed(), ())
        self.assertEqual([card.number for card in file.cards("crus green")], [1])
        self.assertEqual([card.number for card in file.cards("")], [2, 1])
        for odd in ('"', "crust OR", "*", "(", "a:b", "NEAR(", "'; DROP TABLE job"):
            file.cards(odd)  # no text breaks the search
        version_id = file.keep(version("b", 2))
        self.assertEqual([card.number for card in file.cards("sticky")], [2])  # kept; not described yet
        self.assertEqual(file.undescribed(), ("j2",))
        self.assertFalse(file.describe("j2", version_id - 1, Description("", "", "of a version before")))
        self.assertTrue(file.describe("j2", version_id, Description("tracing", "", "other words")))
        self.assertEqual(file.cards("sticky"), ())
        self.assertEqual(file.card("j2").waits_for, "tracing")

    def test_photos_once_by_content(self) -> None:
        file = self.opened()
        for _ in range(2):
            file.keep_blob(SHA256, "image/png", b"content")
        self.assertEqual(file.blob(SHA256), b"content")

    def test_content_that_is_not_what_was_kept_is_noticed(self) -> None:
        file = self.opened()
        file.keep_blob(SHA256, "image/png", b"content")
        file._link.db.execute("UPDATE blob SET content = ?", (b"contemt",))
        with self.assertRaisesRegex(StoreDamaged, "not what was kept"):
            file.blob(SHA256)


class Faults(InFolder):
    def test_second_instance_may_only_look(self) -> None:
        self.opened().add_job(version("one"))
        second = self.opened()
        self.assertIn("another Violet Dial", second.read_only_reason)
        self.assertEqual(standing(second), b"one")
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
            "nothing": b"",
            "schema 0": whole[:60] + bytes(4) + whole[64:],
            "schema -5": whole[:60] + (-5).to_bytes(4, "big", signed=True) + whole[64:],
            "garbage": b"this is not a database " * 100,
            "short": b"SQLite",
            "torn": whole[:8192] + b"\xff" * 12288 + whole[20480:],
            "another database": self.path.with_name("other.db").read_bytes(),
        }
        for name, content in damaged.items():
            with self.subTest(name):
                self.path.write_bytes(content)
                with self.assertRaisesRegex(StoreDamaged, "left as it is") as caught:
                    WorkshopFile(self.path)
                self.assertNotRegex(str(caught.exception), "(?i)database disk|malformed|sqlite|tree")
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

    def test_every_older_schema_is_brought_up_to_date_after_a_whole_copy(self) -> None:
        """Real files of older schemas, frozen; they are never made again."""
        frozen = sorted(SCHEMAS.glob("*.violet.gz"))
        self.assertEqual([int(one.name.split(".")[0]) for one in frozen], list(range(1, tables.SCHEMA_VERSION)))
        for one in frozen:
            with self.subTest(one.name):
                old = int(one.name.split(".")[0])
                self.path = self.path.parent / one.name.removesuffix(".gz")
                self.path.parent.mkdir(parents=True, exist_ok=True)
                content = gzip.decompress(one.read_bytes())
                self.path.write_bytes(content)
                before = _rows(self.path)
                file = self.opened()
                cards = file.cards()
                self.assertEqual(len(cards), 2)
                for version_id, document in before["version"].items():
                    self.assertEqual(file.document(version_id), document)
                for sha256, photo in before["photo"].items():
                    self.assertEqual(file.blob(str(sha256)), photo)
                file.keep(NewVersion(cards[0], "Light", "an act after it", file.document(1) + b" "))
                copy = self.path.with_name(f"{self.path.name}.before-{tables.SCHEMA_VERSION}")
                self.assertEqual(_rows(copy), before)
                with contextlib.closing(sqlite3.connect(copy)) as db:
                    self.assertEqual(db.execute("PRAGMA user_version").fetchone()[0], old)

    def test_an_upgrade_that_fails_changes_nothing(self) -> None:
        content = gzip.decompress((SCHEMAS / "1.violet.gz").read_bytes())
        self.path.parent.mkdir(parents=True)
        self.path.write_bytes(content)
        with contextlib.closing(sqlite3.connect(self.path)) as db:
            db.execute("CREATE TABLE blob (x)")  # in the way of the one to be made
        before = _rows(self.path)
        with self.assertRaises(StoreError):
            WorkshopFile(self.path)
        self.assertEqual(_rows(self.path), before)

    def test_an_older_file_that_may_not_be_written_can_be_looked_at(self) -> None:
        self.path.parent.mkdir(parents=True)
        self.path.write_bytes(gzip.decompress((SCHEMAS / "1.violet.gz").read_bytes()))
        lock = open(self.path, "rb")  # noqa: SIM115
        self.addCleanup(lock.close)
        fcntl.flock(lock, fcntl.LOCK_EX)
        file = self.opened()
        self.assertIn("another Violet Dial", file.read_only_reason)
        self.assertEqual(len(file.cards()), 2)
        self.assertTrue(file.document(1).startswith(b"{"))

    def test_full_disk(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        pages = file._link.db.execute("PRAGMA page_count").fetchone()[0]
        file._link.db.execute(f"PRAGMA max_page_count = {pages + 2}")  # SQLite then answers as on a full disk
        with self.assertRaises(StoreFull) as caught:
            file.keep(NewVersion(version("x").card, "Light", "big", os.urandom(100_000)))
        self.assertIn("not kept", str(caught.exception))
        self.assertEqual(standing(file), b"one")

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
            "print(file.read_only_reason, '|', file.document(file.current('j1').version_id).decode())\n"
            "try: WorkshopFile(path.with_name('new.violet'))\n"
            "except Exception as error: print(type(error).__name__)\n"
        )
        self.path.chmod(0o444)
        for folder in (self.path.parent.parent, self.path.parent):
            folder.chmod(0o555)
            self.addCleanup(folder.chmod, 0o755)
        done = subprocess.run(
            [sys.executable, "-c", script, str(self.path)], capture_output=True, text=True, check=False, env=plain_environment()
        )
        self.assertEqual(done.stderr, "")
        self.assertIn("may not be written", done.stdout)
        self.assertIn("| one", done.stdout)
        self.assertIn("StoreReadOnly", done.stdout)


class Packed(InFolder):
    """Versions kept as what changed: the very bytes come back, in a fraction of the room."""

    def test_any_two_documents(self) -> None:
        rng = random.Random(5)
        for _ in range(400):
            base = bytes(rng.choices(b"ab{}", k=rng.randrange(0, 60)))
            at, gone = rng.randrange(len(base) + 1), rng.randrange(4)
            document = base[:at] + bytes(rng.choices(b"abc", k=rng.randrange(5))) + base[at + gone :]
            self.assertEqual(packed.unpacked(packed.change(document, base), base), document)
            self.assertEqual(packed.unpacked(packed.packed(document)), document)

    def test_a_long_job_stays_small_and_every_act_is_there(self) -> None:
        rng, file = random.Random(3), self.opened()
        readings = [f'{{"ev":{rng.random():.12f},"note":"{rng.random():.9f}"}}' for _ in range(150)]
        documents = []
        for act in range(400):
            readings.append(f'{{"ev":{rng.random():.12f},"act":{act}}}')
            if act % 7 == 0:
                del readings[rng.randrange(len(readings))]
            documents.append(('{"job":[' + ",".join(readings) + "]}").encode())
        first = NewVersion(version("0").card, "Light", "0", documents[0])
        file.add_job(first)
        for act, document in enumerate(documents[1:], 1):
            file.keep(NewVersion(first.card, "Light", str(act), document))
        for row in file.log("j1"):
            self.assertEqual(file.document(row.version_id), documents[int(row.reason)])
        kept = file._link.db.execute("SELECT sum(length(document)), sum(base_id IS NULL) FROM version").fetchone()
        whole = sum(len(packed.packed(document)) for document in documents)
        self.assertLess(kept[0], 0.25 * whole)
        self.assertGreater(kept[1], 5)  # whole ones come again and again: damage stays where it is

    def test_what_is_tried_again_and_again_from_one_place_is_kept_whole_once(self) -> None:
        rng, file = random.Random(4), self.opened()
        long = rng.randbytes(3000)
        card = version("").card
        file.add_job(NewVersion(card, "Light", "first", long))
        for trial in range(6):
            document = b"at both ends" + long[:-9] + rng.randbytes(9)
            kept = file.keep(NewVersion(card, "Light", str(trial), document))
            self.assertEqual(file.document(kept), document)
            file.step("j1", 1, card)
        self.assertEqual(file._link.db.execute("SELECT sum(base_id IS NULL) FROM version").fetchone()[0], 2)

    def test_damage_costs_what_leans_on_it_and_no_more(self) -> None:
        file = self.opened()
        long = random.Random(1).randbytes(3000)
        file.add_job(NewVersion(version("").card, "Light", "first", long))
        file.keep(NewVersion(version("").card, "Light", "a", long + b"a"))
        file.keep(NewVersion(version("").card, "Light", "b", os.urandom(4000)))  # a whole one
        file.add_job(version("other", 2))
        file._link.db.execute("UPDATE version SET document = x'00ff' WHERE version_id = 1")
        for version_id, readable in ((1, False), (2, False), (3, True), (4, True)):
            if readable:
                file.document(version_id)
            else:
                with self.assertRaises(StoreDamaged):
                    file.document(version_id)
        file.step("j1", 2, version("").card)
        self.assertGreater(file.keep(NewVersion(version("").card, "Light", "c", b"anew")), 4)
        self.assertEqual(standing(file), b"anew")
