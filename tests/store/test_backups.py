"""Backups: made whole while the workshop is open, kept by the rule, brought back with nothing lost."""

import unittest
from datetime import datetime, timedelta
from pathlib import Path

from tests.store.test_workshop_file import InFolder, standing, version
from violet_dial.core.errors import StoreDamaged, StoreError
from violet_dial.store.backups import Backup, back_up, backups_of, is_due, restore, superfluous
from violet_dial.store.workshop_file import WorkshopFile

NOW = datetime(2026, 11, 26, 12, 0)


class Backups(InFolder):
    def test_made_while_open_and_brought_back(self) -> None:
        file = self.opened()
        file.add_job(version("one"))
        self.assertTrue(is_due(self.path, NOW))
        made = back_up(self.path, NOW)
        self.assertFalse(is_due(self.path, NOW))
        file.keep(version("two"))
        with self.assertRaisesRegex(StoreError, "another Violet Dial"):
            restore(self.path, made, NOW)
        file.close()
        aside = restore(self.path, made, NOW)
        again = self.opened()
        self.assertEqual(standing(again), b"one")
        assert aside is not None
        before = WorkshopFile(aside)
        self.assertEqual(standing(before), b"two")
        before.close()

    def test_a_hurt_backup_changes_nothing(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one"))
        made = back_up(self.path, NOW)
        file.close()
        made.write_bytes(made.read_bytes()[:3000])
        before = self.path.read_bytes()
        with self.assertRaises(StoreDamaged):
            restore(self.path, made, NOW)
        self.assertEqual(self.path.read_bytes(), before)

    def test_a_hurt_workshop_is_put_beside_as_it_is(self) -> None:
        file = WorkshopFile(self.path)
        file.add_job(version("one"))
        made = back_up(self.path, NOW)
        file.close()
        self.path.write_bytes(b"hurt" * 1000)
        aside = restore(self.path, made, NOW)
        assert aside is not None
        self.assertEqual(aside.read_bytes(), b"hurt" * 1000)
        self.assertEqual(standing(self.opened()), b"one")

    def test_two_of_one_second_and_names_of_others(self) -> None:
        self.opened().add_job(version("one"))
        made = [back_up(self.path, NOW) for _ in range(11)]
        self.assertEqual(len(set(made)), 11)
        self.assertEqual([one.path for one in backups_of(self.path)], made[::-1], "the newest first, by number too")
        (self.path.parent / "backups" / "other.20261126-120000.violet").write_bytes(b"x")
        (self.path.parent / "backups" / "w.20269999-120000.violet").write_bytes(b"x")
        self.assertEqual(len(backups_of(self.path)), 11)


class Rule(unittest.TestCase):
    def kept(self, made: list[datetime], now: datetime) -> list[datetime]:
        backups = [Backup(Path(f"{at:%Y%m%d%H}"), at, 1) for at in made]
        gone = {one.path for one in superfluous(backups, now)}
        return [one.made_at for one in backups if one.path not in gone]

    def test_days_weeks_and_months(self) -> None:
        """A backup each day for two years, the rule applied each day: what stays is what the rule says."""
        there: list[datetime] = []
        day = NOW - timedelta(days=730)
        while day <= NOW:
            there = self.kept([*there, day], day)
            day += timedelta(days=1)
        days = [NOW - timedelta(days=back) for back in range(7)]
        self.assertEqual([one for one in there if one > NOW - timedelta(days=7)], days[::-1])
        self.assertGreaterEqual(len({one.isocalendar()[:2] for one in there if one > NOW - timedelta(weeks=4)}), 4)
        self.assertEqual(len({(one.year, one.month) for one in there}), 12)
        self.assertLessEqual(len(there), 7 + 4 + 12)

    def test_a_clock_set_back_loses_no_backup(self) -> None:
        ahead = NOW + timedelta(days=400)
        self.assertIn(ahead, self.kept([ahead, *(NOW - timedelta(hours=one) for one in range(30))], NOW))


if __name__ == "__main__":
    unittest.main()
