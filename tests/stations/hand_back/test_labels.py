"""Labels: read by a barcode reader from their pixels; drawings: words escaped, seen in the PDF in the order they are read."""

import unittest
from dataclasses import replace

import pypdfium2
import zxingcpp

from violet_dial.core.opening.steps import Step
from violet_dial.job.closing import Closing
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.exposing import Exposing, Fired, LampLook
from violet_dial.job.opening import Opening
from violet_dial.job.receiving import Finding, Receiving
from violet_dial.report.html import paper_html
from violet_dial.report.pdf import paper_pdf
from violet_dial.report.shapes import Caption, svg
from violet_dial.services.keys import scanned_number
from violet_dial.services.sheet import card_of, sheet_of
from violet_dial.stations import STATIONS
from violet_dial.stations.hand_back.labels import labels_pdf
from violet_dial.stations.hand_back.state import labels_of
from violet_dial.stations.prove import acts

DAY = "27 November 2026"


def full() -> Job:
    """A job with something for every section."""
    fired = tuple(Fired(2.0**-n, 2.0**-n * (1.8 if n < 3 else 1.02), at="2026-11-20T09:00:00+00:00") for n in range(9))
    exposing = Exposing(fired=fired, lamps=(LampLook(5.6, 400.0, "slow"), LampLook(16.0, 20.0, "none")))
    findings = (Finding("f1", "dent", "top", 0.4, 0.4, note="<b>a blow</b>"), Finding("f2", "sticky", "back", 0.9, 0.5))
    closing = Closing(done="Contacts cleaned & oiled.", left="Dent left: <nothing touches>.", battery="One LR44", care="Fire it.")
    job = Job(
        "l1", 4711, Device("Bench reflex", serial="B 12", kind="reflex", cell="CdS"), Intake("Blank frames now and then"),
        receiving=Receiving(findings), exposing=exposing, closing=closing,
    )  # fmt: skip
    for line in ("1/250 jammed", "1/250 clean 3", "after cleaned", "1/250 clean 20", "1/60 clean 20"):
        job = acts.understand(job, line).act(job, "2026-11-21T09:00:00+00:00").job
    return job


def text_of(pdf: bytes) -> str:
    return " ".join(" ".join(page.get_textpage().get_text_bounded().split()) for page in pypdfium2.PdfDocument(pdf))


class Labels(unittest.TestCase):
    def test_a_reader_sees_the_number(self) -> None:
        steps = tuple(Step(f"s{n}", "screw", "cover", tray=tray) for n, tray in enumerate(("A1", "A2", "A1")))
        job = replace(full(), opening=Opening(steps))
        document = pypdfium2.PdfDocument(labels_pdf(labels_of(job)))
        self.assertEqual(len(document), 3)
        for page, tray in zip(document, ("Bench reflex", "Tray A1", "Tray A2"), strict=True):
            found = zxingcpp.read_barcodes(page.render(scale=4).to_pil())
            self.assertEqual([(one.text, scanned_number(one.text)) for one in found], [("VD4711", 4711)])
            self.assertIn(tray, page.get_textpage().get_text_bounded())

    def test_only_a_code_is_a_code(self) -> None:
        for text, number in (("vd0019", 19), (" VD12345678 ", 12345678), ("VD19", None), ("0019", None), ("VD0019x", None)):
            self.assertEqual(scanned_number(text), number, text)


class Sheets(unittest.TestCase):
    ORDER = (
        "Bench sheet", "A draft: not signed yet", "Found on receipt", "What was done", "What it reads", "Shutter "
        "speeds", "as marked",
        "Automatic exposure, by its lamps", "Battery to use", "Is it fixed", "Left, and why", "Cautions",
        "Not signed: a draft",
    )  # fmt: skip

    def test_sections_stand_in_the_order_of_the_work(self) -> None:
        said = text_of(paper_pdf(sheet_of(full(), STATIONS, DAY)))
        places = [said.find(words) for words in self.ORDER]
        self.assertNotIn(-1, places, dict(zip(self.ORDER, places, strict=True)))
        self.assertEqual(places, sorted(places))
        self.assertIn("Fewer than 1 in 20" if "Fewer" in said else "Not proved yet", said)

    def test_a_signed_sheet_is_no_draft(self) -> None:
        job = replace(full(), closing=replace(full().closing, signed_by="M. Tystie", signed_on=DAY))
        for paper in (sheet_of(job, STATIONS, DAY), card_of(job, STATIONS, DAY, "Letter")):
            said = text_of(paper_pdf(paper))
            self.assertIn("Signed M. Tystie", said)
            self.assertNotIn("draft", said)

    def test_words_of_people_are_no_markup_in_drawings(self) -> None:
        page = paper_html(sheet_of(full(), STATIONS, DAY))
        self.assertIn("<svg", page)
        self.assertNotIn("<b>a blow</b>", page)
        evil = svg((10, 10), [Caption((1, 1), '<script>x</script> & "y"')], title="<b>")
        self.assertNotIn("<script>", evil)
        self.assertNotIn("<b>", evil)

    def test_one_page_where_it_can_be_and_more_where_it_must(self) -> None:
        short = sheet_of(full(), STATIONS, DAY)
        self.assertLessEqual(len(pypdfium2.PdfDocument(paper_pdf(short))), 2)
        job = replace(full(), closing=replace(full().closing, done="\n".join(f"Step {n} was done." for n in range(900))))
        long = pypdfium2.PdfDocument(paper_pdf(sheet_of(job, STATIONS, DAY)))
        self.assertGreater(len(long), 10)
        self.assertIn(f"page {len(long)} of {len(long)}", long[len(long) - 1].get_textpage().get_text_bounded())


if __name__ == "__main__":
    unittest.main()
