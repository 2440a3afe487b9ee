"""The sheet: the same words on HTML and PDF, text from people escaped, geometry of the dial."""

import math
import re
import unittest
from dataclasses import replace
from datetime import date
from html.parser import HTMLParser

import numpy as np
import pypdfium2

from tests.core.calibration.meters import LIGHTS, readings_of
from violet_dial.core.calibration.assess import Plan, assess
from violet_dial.core.errors import TaskCancelled
from violet_dial.job.document import Closing, Device, Intake, Job, LightCheck, Run, TakenReading
from violet_dial.report.dial import STOP_RADIUS, DialRequest, draw_dial, reading_sentence
from violet_dial.report.html import sheet_html
from violet_dial.report.pdf import sheet_pdf
from violet_dial.services.sheets import sheet_for

DAY = date(2026, 11, 3)
EVIL = '<script>alert("x")</script> & <b>bold</b> {{ 7*7 }}'


def taken(error: float, name: str, shift: float = 0.0) -> Run:
    return Run(name, tuple(TakenReading(one) for one in readings_of(0 * LIGHTS + error)), shift)


def job(**changes: object) -> Job:
    base = Job(
        "j1", 412, Device("Kittiwake hand meter", cell="selenium"), Intake("reads high"),
        light=LightCheck(runs=(taken(0.68, "as found"), taken(0.01, "after shifting −0.67 stop", -0.67))),
        closing=Closing(done="Drum moved.", signed_by="M. Tystie", signed_on="3 November 2026"),
    )  # fmt: skip
    return replace(base, **changes)  # type: ignore[arg-type]


def pdf_text(data: bytes) -> list[str]:
    document = pypdfium2.PdfDocument(data)
    return [" ".join(page.get_textpage().get_text_bounded().split()) for page in document]


class Text(HTMLParser):
    """All text of a page, and the tags it has."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.words: list[str] = []
        self.tags: set[str] = set()
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: object) -> None:
        self.tags.add(tag)

    def handle_data(self, data: str) -> None:
        self.words.append(data)


class Sheets(unittest.TestCase):
    def test_both_forms_say_the_same(self) -> None:
        sheet = sheet_for(job(), DAY)
        html = re.sub(r"\s+", " ", " ".join(Text(sheet_html(sheet)).words))
        pdf = " ".join(pdf_text(sheet_pdf(sheet)))
        for words in (
            "Kittiwake hand meter", "reads high", "Right from Ev 5 to 15", "As found: Reads 0.68 stop high", "After shifting",
            "Drum moved.", "trusted meter", "±0.33 stop", "Do not sand or break the cell", "Signed M. Tystie", "3 November 2026",
            "Local rules and licensed practice come first",
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, html)
                self.assertIn(words, pdf)

    def test_pages_are_numbered(self) -> None:
        pages = pdf_text(sheet_pdf(sheet_for(job(), DAY)))
        self.assertGreater(len(pages), 1)
        for number, page in enumerate(pages, start=1):
            self.assertIn(f"Job 0412 · page {number} of {len(pages)}", page)

    def test_text_from_people_is_escaped(self) -> None:
        evil = job(
            device=Device(EVIL, EVIL, EVIL), intake=Intake(EVIL, EVIL, EVIL, EVIL, EVIL, EVIL),
            closing=Closing(EVIL, EVIL, EVIL, EVIL, EVIL, EVIL),
            light=LightCheck(runs=(replace(taken(0.1, "x"), name=EVIL),)),
        )  # fmt: skip
        page = sheet_html(sheet_for(evil, DAY))
        self.assertFalse({"script", "b"} & Text(page).tags)
        self.assertIn("{{ 7*7 }}", page)
        self.assertIn('<script>alert("x")</script>', " ".join(pdf_text(sheet_pdf(sheet_for(evil, DAY)))))

    def test_awkward_text_still_prints(self) -> None:
        for text in ("", "x" * 20_000, "line\n" * 3000, "\x00\x07\ud800 control", "日本語 🙂", "] ]> &#0;"):
            with self.subTest(text[:12]):
                sheet = sheet_for(job(closing=Closing(done=text)), DAY)
                self.assertTrue(sheet_pdf(sheet).startswith(b"%PDF"))
                self.assertIn("</html>", sheet_html(sheet))

    def test_nothing_read_yet(self) -> None:
        sheet = sheet_for(Job("j", 1), DAY)
        self.assertIn("Too few readings", sheet_html(sheet))
        self.assertTrue(sheet_pdf(sheet).startswith(b"%PDF"))

    def test_html_needs_nothing_from_outside(self) -> None:
        self.assertIsNone(re.search(r"(src|href)\s*=|url\(|@import", sheet_html(sheet_for(job(), DAY))))

    def test_cancel(self) -> None:
        def stop() -> None:
            raise TaskCancelled

        with self.assertRaises(TaskCancelled):
            sheet_pdf(sheet_for(job(), DAY), stop)


class Geometry(unittest.TestCase):
    def test_high_is_outside_low_is_inside(self) -> None:
        error = np.where(LIGHTS > 10, 0.8, -0.8)
        a = assess(readings_of(error), Plan())
        dial = draw_dial(DialRequest(a))
        for mark in dial.marks:
            radius = math.hypot(mark.x, mark.y)
            self.assertAlmostEqual(radius, 1 + STOP_RADIUS * a.readings[mark.index].error_stops)
            self.assertEqual(mark.state, "high" if radius > 1 else "low")

    def test_light_runs_from_left_to_right(self) -> None:
        a = assess(readings_of(0 * LIGHTS), Plan())
        xs = [mark.x for mark in draw_dial(DialRequest(a)).marks]
        self.assertEqual(xs, sorted(xs))

    def test_far_errors_stay_on_the_dial(self) -> None:
        dial = draw_dial(DialRequest(assess(readings_of(0 * LIGHTS + 6), Plan())))
        self.assertTrue(all(math.hypot(mark.x, mark.y) < 1.3 and mark.beyond for mark in dial.marks))

    def test_unread_lights_are_hollow_and_needle_points(self) -> None:
        dial = draw_dial(DialRequest(assess((), Plan(range_from_ev100=5.0, range_to_ev100=15.0)), 10.0, (5.0, 15.0)))
        self.assertEqual([mark.state for mark in dial.marks], ["empty", "empty"])
        self.assertAlmostEqual(dial.needle.points[1][0] if dial.needle else 1, 0.0, places=6)

    def test_a_sentence_for_each(self) -> None:
        a = assess(readings_of(0 * LIGHTS + 0.68, direction="rising"), Plan())
        self.assertEqual(
            reading_sentence(a.readings[7]), "At Ev 12.0, light rising it read 12.7: +0.68 ± 0.16 stop, too high."
        )
