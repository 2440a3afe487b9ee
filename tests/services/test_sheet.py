"""The sheet: the same words on HTML and PDF, text from people escaped, geometry of the dial."""

import math
import re
import unittest
from dataclasses import replace
from html.parser import HTMLParser

import numpy as np
import pypdfium2

from tests.core.calibration.meters import LIGHTS, readings_of
from violet_dial.core.calibration.assess import CheckPlan, assess
from violet_dial.core.errors import TaskCancelled
from violet_dial.core.records.circuit import Fault
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.light import LightCheck, Run, TakenReading
from violet_dial.job.receiving import TakenTrial
from violet_dial.report.dial import STOP_RADIUS, DialRequest, draw_dial, reading_sentence
from violet_dial.report.html import paper_html
from violet_dial.report.pdf import paper_pdf
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.services.gate import record_trial
from violet_dial.services.sheet import sheet_of
from violet_dial.stations import STATIONS
from violet_dial.stations.open.acts import Ending, end_step, take_step
from violet_dial.stations.receive.acts import FindingSeen, place_finding
from violet_dial.stations.trace.acts import choose_circuit, record_fix

DAY = "3 November 2026"
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
        sheet = sheet_of(job(), STATIONS, DAY)
        html = re.sub(r"\s+", " ", " ".join(Text(paper_html(sheet)).words))
        pdf = " ".join(pdf_text(paper_pdf(sheet)))
        for words in (
            "Kittiwake hand meter", "reads high", "Right from Ev 5 to 15", "As found: Reads 0.68 stop high", "After shifting",
            "Drum moved.", "trusted meter", "±0.33 stop", "Do not sand or break the cell", "Signed M. Tystie", "3 November 2026",
            "Local rules and licensed practice come first",
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, html)
                self.assertIn(words, pdf)

    def test_it_prints_what_every_station_knows(self) -> None:
        """Findings, things replaced and left out, the fault put right with the same reading before and after."""
        template = next(one for one in templates() if one.stem == "cds-series")
        fault = Fault("Rwred", "open")
        done = job()
        for act in (
            lambda one, at: place_finding(one, FindingSeen("green crust", "bottom", 0.5, 0.5, "a patch", "under the cover"), at),
            lambda one, at: place_finding(one, FindingSeen("missing screw", "back", 0.2, 0.2), at),
            lambda one, at: record_trial(one, TakenTrial("needle under light", "Ev 6", "battery", "dead", "not a twitch"), at),
            lambda one, at: take_step(one, "screw x3 back plate M1.7x4 -> A1", at),
            lambda one, at: end_step(one, Ending("s1", "refitted", 1), at),
            lambda one, at: end_step(one, Ending("s1", "replaced", 1, "a brass one"), at),
            lambda one, at: end_step(one, Ending("s1", "left out", 1, "the thread is torn"), at),
            lambda one, at: choose_circuit(one, template.title, template.text, at),
            lambda one, at: type_evidence(one, "sw to gnd 0.08 V", at),
            lambda one, at: record_fix(one, fault, "red wire renewed", at),
            lambda one, at: type_evidence(one, "sw to gnd 1.35 V", at),
        ):
            done = act(done, "2026-11-03T10:00").job  # type: ignore[no-untyped-call]
        sheet = sheet_of(done, STATIONS, DAY)
        html = re.sub(r"\s+", " ", " ".join(Text(paper_html(sheet)).words))
        pdf = " ".join(pdf_text(paper_pdf(sheet)))
        for words in (
            "Green crust", "a patch: under the cover.", "Missing screw of the", "not found",
            "Needle under light Ev 6, battery: dead (not a twitch).",
            "screws of back plate: replaced by a brass one.",
            "left out because the thread is torn.", "Red wire renewed: put right after 1 piece of evidence.",
            "sw to gnd 80 mV", "sw to gnd 1.35 V",
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, html)
                self.assertIn(words, pdf)

    def test_pages_are_numbered(self) -> None:
        pages = pdf_text(paper_pdf(sheet_of(job(), STATIONS, DAY)))
        self.assertGreater(len(pages), 1)
        for number, page in enumerate(pages, start=1):
            self.assertIn(f"Job 0412 · page {number} of {len(pages)}", page)

    def test_text_from_people_is_escaped(self) -> None:
        evil = job(
            device=Device(EVIL, EVIL, EVIL), intake=Intake(EVIL, EVIL, EVIL, EVIL, EVIL, EVIL),
            closing=Closing(EVIL, EVIL, EVIL, EVIL, EVIL, EVIL),
            light=LightCheck(runs=(replace(taken(0.1, "x"), name=EVIL),)),
        )  # fmt: skip
        page = paper_html(sheet_of(evil, STATIONS, DAY))
        self.assertFalse({"script", "b"} & Text(page).tags)
        self.assertIn("{{ 7*7 }}", page)
        self.assertIn('<script>alert("x")</script>', " ".join(pdf_text(paper_pdf(sheet_of(evil, STATIONS, DAY)))))

    def test_awkward_text_still_prints(self) -> None:
        for text in ("", "x" * 20_000, "line\n" * 3000, "\x00\x07\ud800 control", "日本語 🙂", "] ]> &#0;"):
            with self.subTest(text[:12]):
                sheet = sheet_of(job(closing=Closing(done=text)), STATIONS, DAY)
                self.assertTrue(paper_pdf(sheet).startswith(b"%PDF"))
                self.assertIn("</html>", paper_html(sheet))

    def test_nothing_read_yet(self) -> None:
        sheet = sheet_of(Job("j", 1), STATIONS, DAY)
        self.assertIn("Not checked against reference light", paper_html(sheet))
        self.assertTrue(paper_pdf(sheet).startswith(b"%PDF"))

    def test_html_needs_nothing_from_outside(self) -> None:
        self.assertIsNone(re.search(r"(src|href)\s*=|url\(|@import", paper_html(sheet_of(job(), STATIONS, DAY))))

    def test_cancel(self) -> None:
        def stop() -> None:
            raise TaskCancelled

        with self.assertRaises(TaskCancelled):
            paper_pdf(sheet_of(job(), STATIONS, DAY), stop)


class Geometry(unittest.TestCase):
    def test_high_is_outside_low_is_inside(self) -> None:
        error = np.where(LIGHTS > 10, 0.8, -0.8)
        a = assess(readings_of(error), CheckPlan())
        dial = draw_dial(DialRequest(a))
        for mark in dial.marks:
            radius = math.hypot(mark.x, mark.y)
            self.assertAlmostEqual(radius, 1 + STOP_RADIUS * a.readings[mark.index].error_stops)
            self.assertEqual(mark.state, "high" if radius > 1 else "low")

    def test_light_runs_from_left_to_right(self) -> None:
        a = assess(readings_of(0 * LIGHTS), CheckPlan())
        xs = [mark.x for mark in draw_dial(DialRequest(a)).marks]
        self.assertEqual(xs, sorted(xs))

    def test_far_errors_stay_on_the_dial(self) -> None:
        dial = draw_dial(DialRequest(assess(readings_of(0 * LIGHTS + 6), CheckPlan())))
        self.assertTrue(all(math.hypot(mark.x, mark.y) < 1.3 and mark.beyond for mark in dial.marks))

    def test_unread_lights_are_hollow_and_needle_points(self) -> None:
        dial = draw_dial(DialRequest(assess((), CheckPlan(range_from_ev100=5.0, range_to_ev100=15.0)), 10.0, (5.0, 15.0)))
        self.assertEqual([mark.state for mark in dial.marks], ["empty", "empty"])
        self.assertAlmostEqual(dial.needle.points[1][0] if dial.needle else 1, 0.0, places=6)

    def test_a_sentence_for_each(self) -> None:
        a = assess(readings_of(0 * LIGHTS + 0.68, direction="rising"), CheckPlan())
        self.assertEqual(reading_sentence(a.readings[7]), "At Ev 12.0, light rising it read 12.7: +0.68 ± 0.16 stop, too high.")
