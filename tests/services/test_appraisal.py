"""Kept first, judged after: a station that fails stops no act, hides no other station, and its fault is said."""

import logging
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any, NoReturn

from tests.workshops import demo_at
from violet_dial.core.task import SilentTask
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.practise import PRACTICE_LINE
from violet_dial.report.blocks import Words
from violet_dial.services.appraisal import appraise
from violet_dial.services.describing import describe_pending
from violet_dial.services.sheet import card_of, sheet_of
from violet_dial.services.station import Station
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile

FACES = ("next", "state", "words", "finding")
PAPERS = ("paper", "card")


def fails(*given: Any) -> NoReturn:
    raise ValueError("the arithmetic of a face went wrong")


def failing(station: Station, *faces: str) -> Station:
    return replace(station, **dict.fromkeys(faces, fails))  # type: ignore[arg-type]


def noticed(job: Job, at: str) -> ActResult:
    return ActResult(replace(job, intake=replace(job.intake, noticed=f"seen {at}")), "Receive", "Noticed")


class AStationFails(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "demo.violet"
        demo_at(self.path)
        log = logging.getLogger("violet_dial")  # the faults are meant
        log.addHandler(quiet := logging.NullHandler())
        log.propagate = False
        self.addCleanup(log.removeHandler, quiet)
        self.addCleanup(setattr, log, "propagate", True)

    def line(self, station: Station, *faces: str) -> tuple[Station, ...]:
        return tuple(failing(one, *faces) if one is station else one for one in PRACTICE_LINE)

    def test_every_act_is_kept_the_others_show_and_the_fault_is_said(self) -> None:
        for station in PRACTICE_LINE:
            stations = self.line(station, *FACES, *PAPERS)
            with self.subTest(station.name):
                shop = Workshop(WorkshopFile(self.path), lambda stations=stations: stations)
                try:
                    self.failing_line(shop, station)
                finally:
                    shop.close()

    def failing_line(self, shop: Workshop, station: Station) -> None:
        job_id = shop.cards()[0].job_id
        before = shop.view(job_id)
        view = shop.perform(job_id, noticed)
        self.assertGreater(view.version_id, before.version_id)
        self.assertEqual(shop.read(job_id), view.job)
        found = appraise(view.job, view.version_id, shop.stations)
        self.assertEqual({fault.split(" could not say ")[0] for fault in found.faults}, {station.name})
        others = appraise(view.job, view.version_id, tuple(one for one in PRACTICE_LINE if one is not station))
        self.assertEqual(found.next, others.next)
        self.assertEqual({**found.states, station.name: ""}, {**others.states, station.name: ""})
        self.assertTrue(shop.describe(job_id, found))
        card = next(one for one in shop.cards() if one.job_id == job_id)
        self.assertIn(station.name, card.finding)
        sheet, short = (make(view.job, shop.stations, "today") for make in (sheet_of, card_of))
        said = [block.text for block in sheet.blocks if isinstance(block, Words)]
        self.assertTrue(any(text.startswith(f"{station.name} could not say") for text in said), said)
        self.assertGreater(len(sheet.blocks), 5)
        self.assertGreaterEqual(len(short.blocks), 3)
        self.assertNotEqual(shop.undo(job_id).version_id, view.version_id)

    def test_where_all_fail_there_is_still_something_to_do(self) -> None:
        shop = Workshop(WorkshopFile(self.path), lambda: STATIONS)
        self.addCleanup(shop.close)
        job = shop.read(shop.cards()[0].job_id)
        found = appraise(job, 1, tuple(failing(one, *FACES) for one in STATIONS))
        self.assertEqual(len(found.faults), len(STATIONS) * len(FACES))
        self.assertTrue(found.next.title and found.told.waits_for)


class Described(unittest.TestCase):
    def test_what_was_kept_and_not_described_is_described_by_a_worker(self) -> None:
        """As after a power cut between the act and what is worked out of it."""
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "w.violet"
            shop = Workshop(WorkshopFile(path), lambda: STATIONS)
            self.addCleanup(shop.close)
            job_id = shop.new_job().job.job_id
            view = shop.perform(job_id, noticed)
            stale = appraise(view.job, view.version_id - 1, STATIONS)
            self.assertFalse(shop.describe(job_id, stale))  # of a version that is not on the bench
            self.assertEqual(shop.undescribed(), (job_id,))
            self.assertEqual(describe_pending(path, STATIONS, SilentTask()), 1)
            self.assertEqual((shop.undescribed(), shop.cards("seen")[0].job_id), ((), job_id))

    def test_the_job_at_work_is_not_the_one_that_was_looked_up(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "w.violet"
            shop = Workshop(WorkshopFile(path), lambda: STATIONS)
            at_work, other = (shop.new_job().job.job_id for _ in range(2))
            shop.perform(at_work, noticed)
            shop.read(other)  # lessons of a sibling
            path.write_bytes(b"somebody else's file" * 4000)
            shop.settle()
            self.addCleanup(shop.close)
            self.assertIn("written", shop.notice)
            self.assertTrue(shop.read(at_work).intake.noticed.startswith("seen"))


if __name__ == "__main__":
    unittest.main()
