"""A hundred damaged workshop files of twenty kinds: each a clear sentence or read rightly, nothing overwritten, and every
job of which anything can be read brought to a new file."""

import random
import shutil
import sqlite3
import unittest
from collections.abc import Callable

from tests.store.test_workshop_file import InFolder, version
from violet_dial.core.errors import StoreError, VioletDialError
from violet_dial.services.upkeep import examine, salvage
from violet_dial.store.records import NewVersion
from violet_dial.store.workshop_file import WorkshopFile

FILES, JOBS, PAGE = 100, 8, 4096
SQLITE_WORDS = r"(?i)sqlite|malformed|disk image|b-?tree|traceback"
Damage = Callable[[bytearray, random.Random], None]


def zeroed(first: int, count: int) -> Damage:
    def hurt(data: bytearray, draw: random.Random) -> None:
        data[first : first + count] = bytes(len(data[first : first + count]))

    return hurt


def page(kind: Callable[[bytearray, int, random.Random], None]) -> Damage:
    """Damage in one page drawn at random, but the first."""

    def hurt(data: bytearray, draw: random.Random) -> None:
        kind(data, draw.randrange(1, len(data) // PAGE) * PAGE, draw)

    return hurt


def _bits(data: bytearray, draw: random.Random, count: int) -> None:
    for _ in range(count):
        data[draw.randrange(100, len(data))] ^= 1 << draw.randrange(8)


def _filled(data: bytearray, at: int, draw: random.Random) -> None:
    data[at : at + PAGE] = draw.randbytes(PAGE)


def _doubled(data: bytearray, at: int, draw: random.Random) -> None:
    other = draw.randrange(1, len(data) // PAGE) * PAGE
    data[at : at + PAGE] = data[other : other + PAGE]


def _kind(data: bytearray, at: int, draw: random.Random) -> None:
    data[at] = draw.randrange(256)


def _count(data: bytearray, at: int, draw: random.Random) -> None:
    data[at + 3 : at + 5] = draw.randbytes(2)


def _cut(data: bytearray, draw: random.Random) -> None:
    del data[draw.randrange(600, len(data)) :]


def _shifted(data: bytearray, draw: random.Random) -> None:
    del data[draw.randrange(100, len(data) - 10)]


KINDS: dict[str, Damage] = {
    "magic": zeroed(0, 16), "head": zeroed(0, 100), "page size": zeroed(16, 2), "version": zeroed(60, 4),
    "application": zeroed(68, 4), "first page": zeroed(0, PAGE), "schema": zeroed(100, 400),
    "freelist": lambda data, draw: data.__setitem__(slice(32, 40), draw.randbytes(8)),
    "length": lambda data, draw: data.__setitem__(slice(28, 32), draw.randbytes(4)),
    "one bit": lambda data, draw: _bits(data, draw, 1), "ten bits": lambda data, draw: _bits(data, draw, 10),
    "thousand bits": lambda data, draw: _bits(data, draw, 1000), "a page of noise": page(_filled),
    "a page twice": page(_doubled), "kind of a page": page(_kind), "cells of a page": page(_count),
    "a page of zeros": page(lambda data, at, draw: data.__setitem__(slice(at, at + PAGE), bytes(PAGE))),
    "cut off": _cut, "a byte lost": _shifted, "noise behind": lambda data, draw: data.extend(draw.randbytes(9000)),
}  # fmt: skip


class Damaged(InFolder):
    def whole(self) -> bytes:
        file = WorkshopFile(self.path)
        for number in range(1, JOBS + 1):
            file.add_job(version(f"job {number}", number))
            for count in range(30):
                words = " ".join(random.Random(number * 100 + count).choices("abcdefgh", k=200))
                card = version("x", number).card
                file.keep(NewVersion(card, "Light", f"act {count}", f"job {number} act {count} {words}".encode()))
        file.close()
        return self.path.read_bytes()

    def readable_by_sql(self) -> int:
        """Jobs of which the database itself still gives a version: what salvage must not fall behind."""
        try:
            with sqlite3.connect(f"file:{self.path}?mode=ro&immutable=1", uri=True) as db:
                found = {row[0] for row in db.execute("SELECT job_id FROM version WHERE length(document) > 0")}
        except (sqlite3.Error, UnicodeDecodeError):
            found = set()
        return sum(1 for one in found if isinstance(one, str) and one.startswith("j") and one[1:].isdigit())

    def test_each_is_said_and_all_that_can_be_read_is_saved(self) -> None:
        whole, saved, refused = self.whole(), 0, 0
        self.assertEqual(len(KINDS), 20)
        for number in range(FILES):
            name, kind = list(KINDS.items())[number % len(KINDS)]
            with self.subTest(f"{name} {number}"):
                draw, data = random.Random(number), bytearray(whole)
                kind(data, draw)
                self.path.write_bytes(bytes(data))
                refused += self.opened_or_said(bytes(data))
                least = self.readable_by_sql()
                try:
                    found = salvage(self.path, self.path.with_name("saved.violet"), ())
                except VioletDialError as error:
                    self.assertEqual(least, 0, str(error))
                    continue
                self.assertEqual(self.path.read_bytes(), bytes(data))
                self.assertGreaterEqual(found.jobs, min(least, JOBS))
                new = WorkshopFile(self.path.with_name("saved.violet"))
                for card in new.cards():
                    self.assertTrue(new.document(new.current(card.job_id).version_id))
                saved += len(new.cards())
                new.close()
                shutil.os.unlink(self.path.with_name("saved.violet"))  # type: ignore[attr-defined]
        self.assertGreater(refused, FILES // 3)
        self.assertGreater(saved, FILES * JOBS * 0.9, "of all jobs in all files")

    def opened_or_said(self, data: bytes) -> bool:
        """Whether it was refused; in a sentence of the product's own, the file left as it is."""
        try:
            file = WorkshopFile(self.path)
        except StoreError as error:
            self.assertNotRegex(str(error), SQLITE_WORDS)
            self.assertIn(str(self.path.name), str(error))
            self.assertEqual(self.path.read_bytes(), data)
            return True
        try:
            for card in file.cards():
                file.document(file.current(card.job_id).version_id)
        except StoreError as error:
            self.assertNotRegex(str(error), SQLITE_WORDS)
        finally:
            file._link.leave()
        for left in self.path.parent.glob("w.violet-*"):
            left.unlink()
        self.path.write_bytes(data)
        return False

    def test_a_sound_file_is_called_sound(self) -> None:
        self.whole()
        found = examine(self.path)
        self.assertEqual((found.jobs, found.versions), (JOBS, JOBS * 31))
        self.assertFalse([one for one in found.hurt if "cannot be read as it stands" not in one])


if __name__ == "__main__":
    unittest.main()
