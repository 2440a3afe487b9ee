"""The screen shows this job and nothing else: pages of every station of the demo's jobs, in a shuffled order, say what they say
by any other way to them, and look as they do in a fresh window, pixel for pixel."""

import random
import tempfile
import time
import unittest
from pathlib import Path
from typing import Any

import shiboken6
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QLineEdit, QPlainTextEdit, QWidget

from tests.gui.window import application, wait_until
from tests.workshops import demo_at, open_workshop
from violet_dial.gui.job_page import JobPage
from violet_dial.gui.main_window import MainWindow
from violet_dial.kit.theme.look import Look
from violet_dial.services.workshop import Workshop
from violet_dial.stations import STATIONS

SEED = 11
MOST_WORDS, MOST_PICTURES = 90, 10  # views drawn from all: words in two windows, pictures each beside a fresh window's
STILL, STILL_MS, MOST_S = 2, 40, 20.0  # how often the same, and how far apart, a window stands still
SETTLES_MS = 120_000  # beside other tests a diagnosis of seconds takes many
View = tuple[str, str, int]


def words_of(window: MainWindow) -> list[str]:
    """Every text that is to be seen, and the names of what a reader is told; not what moves by itself."""
    found = []
    for widget in window.findChildren(QWidget):
        if not widget.isVisible():
            continue
        if isinstance(widget, (QLabel, QAbstractButton, QLineEdit)):
            found.append(widget.text())
        elif isinstance(widget, QPlainTextEdit):
            found.append(widget.toPlainText())
        elif isinstance(widget, QComboBox):
            found.append(widget.currentText())
        if widget.accessibleName():
            found.append(widget.accessibleName())
    return found


class ThisJobAlone(unittest.TestCase):
    app: QApplication
    folder: "tempfile.TemporaryDirectory[str]"
    workshop: Workshop
    look: Look

    @classmethod
    def setUpClass(cls) -> None:
        cls.app = application()
        cls.app.setCursorFlashTime(0)  # a blinking cursor is no difference
        cls.folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.folder.cleanup)
        path = Path(cls.folder.name) / "demo.violet"
        demo_at(path)
        cls.workshop = open_workshop(path)
        cls.addClassCleanup(cls.workshop.close)
        cls.look = Look()
        cls.look.apply()

    def window(self) -> MainWindow:
        window = MainWindow(self.look, self.workshop)
        window.live.sounds.silent = True
        window.resize(1280, 800)
        window.show()
        window.activateWindow()
        self.app.processEvents()
        return window

    def end(self, window: MainWindow) -> None:
        """The window goes, the workshop stays open."""
        window.leave_job()
        window.live.close()
        window.hide()
        shiboken6.delete(window)

    def views(self, window: MainWindow) -> list[View]:
        """Every page of every station of every job, counted where it stands."""
        cards = self.workshop.cards()
        window.open_job(cards[0].job_id)
        page = window.job_page
        assert isinstance(page, JobPage)
        pages = {station.name: page.at(station.name).pages.stack.count() for station in STATIONS}
        self.assertGreater(sum(pages.values()), 25)
        return [(card.job_id, name, number) for card in cards for name, count in pages.items() for number in range(count)]

    def show(self, window: MainWindow, view: View) -> None:
        job_id, station, number = view
        window.activateWindow()
        window.open_job(job_id)
        page = window.job_page
        assert isinstance(page, JobPage)
        page.go(station)
        page.page.turn_to(number)
        settled = wait_until(lambda: page.settled, SETTLES_MS)
        waits = [name for name, one in page._pages.items() if not one.settled]
        self.assertTrue(settled, f"{self.title(job_id)} at {station}, page {number}: {waits}, photos {page.photos.settled}")

    def test_every_view_says_the_same_in_any_order(self) -> None:
        """What is written on a view, and what a reader is told of it, in two windows that come to it by other ways."""
        draw, windows = random.Random(SEED), (self.window(), self.window())
        views = self.views(windows[0])
        views = draw.sample(views, min(MOST_WORDS, len(views)))
        said: list[dict[View, list[str]]] = [{}, {}]
        for place, view in enumerate((*views, *draw.sample(views, len(views)))):
            side = int(place >= len(views))
            if place % 9 == 4:  # Esc in the middle of work: opened, and left before anything was worked out
                windows[side].open_job(draw.choice(views)[0])
                windows[side].go_back()
            self.show(windows[side], view)
            said[side][view] = words_of(windows[side])
        for view in views:
            with self.subTest(job=self.title(view[0]), station=view[1], page=view[2]):
                self.assertGreater(len(said[0][view]), 10)
                self.assertEqual(said[0][view], said[1][view])
        for window in windows:
            self.end(window)

    def test_views_in_any_order_look_as_in_a_fresh_window(self) -> None:
        draw, long_lived = random.Random(SEED), self.window()
        views = draw.sample(self.views(long_lived), MOST_PICTURES)
        for place, view in enumerate(views):
            seen = self.picture(long_lived, view)
            fresh = self.window()
            expected = self.picture(fresh, view)
            self.end(fresh)
            where = f"view {place}: {self.title(view[0])} at {view[1]}, page {view[2]}"
            same = seen == expected
            self.assertTrue(same, same or f"{where}; {self.kept(seen, expected)}")
        self.end(long_lived)

    def picture(self, window: MainWindow, view: View) -> QImage:
        """A window that shows a view, once it has stood still for a while: a long log is laid out in batches."""
        self.show(window, view)
        still, last = 0, QImage()
        deadline = time.monotonic() + MOST_S
        while still < STILL and time.monotonic() < deadline:
            QTest.qWait(STILL_MS)
            now = window.grab().toImage()
            still, last = (still + 1 if now == last else 0), now
        return last

    @staticmethod
    def kept(seen: QImage, fresh: QImage) -> str:
        """Where the pictures are, when they differ."""
        folder = Path(tempfile.mkdtemp(prefix="violet-dial-"))
        seen.save(str(folder / "seen.png"))
        fresh.save(str(folder / "fresh.png"))
        return f"pictures in {folder}"

    def title(self, job_id: str) -> str:
        return str(next(card.title for card in self.workshop.cards() if card.job_id == job_id))

    def test_coming_back_after_esc_goes_on_working(self) -> None:
        """Esc while it is worked out or drawn, and coming back: it is worked out and drawn, and Next says the test."""
        window = self.window()
        card = next(one for one in self.workshop.cards() if one.title == "Gannet reflex")
        for station in ("Trace", "Return"):
            window.open_job(card.job_id)
            page: Any = window.job_page
            page.go(station)
            window.go_back()
            self.assertFalse(window.on_job)
            window.open_job(card.job_id)
            page.go(station)
            self.assertTrue(wait_until(lambda page=page: page.settled), station)
            if station == "Trace":
                self.assertNotIn("Working", page.at("Trace").suspects.summary.text())
                self.assertEqual(page.next.title if page.next else "", "Volts lead to gnd")
                page.go("Receive")  # Next stays what the station found, wherever one looks
                self.assertEqual(page.next.title if page.next else "", "Volts lead to gnd")
            else:
                self.assertTrue(page.at("Return").sheet.view.pages)
        self.end(window)


if __name__ == "__main__":
    unittest.main()
