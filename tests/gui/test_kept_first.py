"""An act at the window is kept and drawn whatever a station then fails to say; Next is for the version in view."""

import logging
import unittest
from dataclasses import replace
from typing import Any, NoReturn

from tests.gui.window import KEY, WindowTest, application
from tests.workshops import open_workshop
from violet_dial.gui.main_window import MainWindow
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import PagedStation, StationPage
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS
from violet_dial.store.workshop_file import WorkshopFile


def fails(*given: Any) -> NoReturn:
    raise ValueError("what is shown went wrong")


class FailingPage(PagedStation):
    """A page that can draw nothing."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context, (("Nothing", StationPage(context)),))

    def show_job(self, job: Job) -> None:
        fails()


def renamed(job: Job, at: str) -> ActResult:
    return ActResult(replace(job, device=replace(job.device, name=f"Fulmar {at}")), "Receive", "Renamed")


class KeptFirst(WindowTest):
    def opened_with(self, name: str, **faces: Any) -> None:
        """The window anew, one station of the line with other faces."""
        self.window.close()
        stations = tuple(replace(one, **faces) if one.name == name else one for one in STATIONS)
        self.window = MainWindow(self.look, Workshop(WorkshopFile(self.folder / f"{name}.violet"), lambda: stations))
        self.window.show()
        self.window.activateWindow()
        application().processEvents()
        self.window.new_job()

    def test_a_station_that_fails_stops_nothing(self) -> None:
        log = logging.getLogger("violet_dial")
        log.propagate, log.handlers = False, [logging.NullHandler()]
        self.addCleanup(setattr, log, "propagate", True)
        for station in STATIONS:
            with self.subTest(station.name):
                self.opened_with(station.name, next=fails, state=fails, words=fails, finding=fails, paper=fails)
                before = self.page.view.version_id
                self.assertTrue(self.page.perform(renamed))
                self.assertIn("Fulmar", self.page.title.text())
                self.until(lambda: not self.page.appraising)
                self.assertGreater(self.page.view.version_id, before)
                self.assertIn(f"{station.name} could not say", self.page.next_card.faults.text())
                self.assertTrue(self.page.next_card.faults.isVisible())
                self.assertTrue(self.page.next_card.title.text())
                self.press(KEY.Key_Escape)
                self.assertIn("Fulmar", self.window.workshop.cards()[0].title)

    def test_a_page_that_cannot_draw_stops_nothing(self) -> None:
        log = logging.getLogger("violet_dial")
        log.propagate, log.handlers = False, [logging.NullHandler()]
        self.addCleanup(setattr, log, "propagate", True)
        self.opened_with("Power", page="tests.gui.test_kept_first:FailingPage")
        self.page.go("Power")
        self.assertIn("Power could not say what it shows", self.said)
        self.assertTrue(self.page.perform(renamed))
        self.until(lambda: not self.page.appraising)
        self.assertIn("Fulmar", self.page.title.text())
        self.page.go("Receive")
        self.assertTrue(self.page.perform(renamed))

    def test_a_job_that_was_left_is_judged_no_more(self) -> None:
        """What a page has still to say after its workshop was closed is no damage of the file."""
        self.new_job()
        page = self.page
        self.assertTrue(page.perform(renamed))
        other = self.folder / "other.violet"
        self.assertTrue(self.window.change_workshop(lambda: open_workshop(other)))
        page.page.changed.emit()
        self.assertFalse(page.appraising)
        for _ in range(20):
            application().processEvents()
        self.assertEqual(self.said, "")

    def test_next_pressed_at_once_is_of_the_act_just_kept(self) -> None:
        self.new_job()
        self.take("12", "12.6")
        self.page.go("Receive")
        act = self.page.next
        self.page.perform(lambda job, at: ActResult(replace(job, waits_for=""), "Receive", "Looked at again"))
        self.page.perform(lambda job, at: ActResult(replace(job, device=replace(job.device, name="")), "Receive", "No name"))
        self.assertTrue(self.page.appraising)
        self.page.go("Light")
        self.page.do_next()  # while it is worked out: it waits, and does what comes of the act
        self.assertEqual(self.page.station, "Light")
        self.until(lambda: not self.page.appraising)
        self.assertEqual(self.page.appraisal.version_id, self.page.view.version_id)
        self.assertNotEqual(self.page.next.title, act.title)
        self.assertEqual(self.page.station, self.page.next.station)


if __name__ == "__main__":
    unittest.main()
