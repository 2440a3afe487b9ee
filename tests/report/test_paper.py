"""Paper: the same words as HTML and as PDF, read back with an outside reader of PDF (PDFium) and Python's own of HTML."""

import unittest
from html.parser import HTMLParser

import pypdfium2

from tests.gui.window import application
from violet_dial.core.errors import TaskCancelled
from violet_dial.kit.pdf_pages import drawn_pages, spots_of
from violet_dial.report.blocks import (
    NOT_SIGNED,
    SIZES,
    Block,
    Drawing,
    Grid,
    Lines,
    Pairs,
    Paper,
    SheetPlace,
    SheetVerdict,
    Signature,
    Tick,
    Ticks,
    Words,
    present,
    section,
)
from violet_dial.report.html import paper_html
from violet_dial.report.pdf import paper_pdf
from violet_dial.report.shapes import Caption, svg

POINTS_A4, POINTS_LETTER = (595.28, 841.89), (612.0, 792.0)  # ISO 216 and ANSI/ASME Y14.1, in points of 1/72 inch
HOSTILE = 'clip <script>alert("x")</script> & "quoted"'
EVERY: tuple[Block, ...] = (
    Words("Fulmar exposure meter", "title"), SheetVerdict("Within a third of a stop", "7 of 7 lights."),
    Words("Readings", "head"), Pairs((("Owner", HOSTILE), ("Came in", "3 November"))), Lines(("Clip cleaned.", "Cell changed.")),
    Grid(
        ("Ev", "error", "state"), (("7", "+0.58", "high"), ("11", "−0.02", "within")), (0.2, 0.3, 0.5), ("high", "inside"), 2, 2
    ),
    Drawing(svg((120, 30), (Caption((60, 15), "1/125 & 1/60", 9),)), "Speeds <of> a shutter", 0.5),
    Ticks((Tick(2, "Screws of the top", "short one left", "B"), Tick(1, "Test before closing", "needle free", stop=True))),
    Signature("", "27 November 2026"),
)  # fmt: skip


class Reader(HTMLParser):
    """Text that is seen, and every tag."""

    def __init__(self) -> None:
        super().__init__()
        self.text: list[str] = []
        self.tags: list[tuple[str, dict[str, str | None]]] = []
        self._skips = False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append((tag, dict(attrs)))
        self._skips = tag in ("style", "title")

    def handle_endtag(self, tag: str) -> None:
        self._skips = False

    def handle_data(self, data: str) -> None:
        if not self._skips and data.strip():
            self.text.append(data.strip())


def read(paper: Paper) -> Reader:
    reader = Reader()
    reader.feed(paper_html(paper))
    return reader


def printed(paper: Paper) -> list[str]:
    """The text of each page."""
    document = pypdfium2.PdfDocument(paper_pdf(paper))
    try:
        return [page.get_textpage().get_text_range() for page in document]
    finally:
        document.close()


class Both(unittest.TestCase):
    def test_every_kind_of_block_says_the_same_on_both(self) -> None:
        paper = Paper("Sheet", "0042", "A. Bench", EVERY)
        html, pages = " ".join(read(paper).text), printed(paper)
        self.assertEqual(len(pages), 1)
        for words in (
            "Fulmar exposure meter", "Within a third of a stop", "7 of 7 lights.", "Readings", "Came in", "Clip cleaned.",
            "+0.58", "−0.02", "Screws of the top", "short one left", "Test before closing", NOT_SIGNED, "27 November 2026",
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, html)
                self.assertIn(words, pages[0])
        self.assertIn("Job 0042 · page 1 of 1", pages[0])

    def test_what_a_person_wrote_is_never_markup(self) -> None:
        paper = Paper(HOSTILE, "0042", HOSTILE, EVERY)
        reader = read(paper)
        self.assertNotIn("script", [tag for tag, _ in reader.tags])
        self.assertEqual([name for _, attrs in reader.tags for name in attrs if name.startswith("on")], [])
        self.assertIn(HOSTILE, reader.text)
        self.assertIn("<script>", "".join(printed(paper)).replace("\r\n", ""))

    def test_a_drawing_is_named_for_a_reader_and_takes_its_share(self) -> None:
        html = paper_html(Paper("Sheet", "0042", "", EVERY))
        self.assertIn("<title>Speeds &lt;of&gt; a shutter</title>", html)
        self.assertIn("width: 50.0%", html)

    def test_states_are_told_by_sign_and_word_not_by_colour_alone(self) -> None:
        text = " ".join(read(Paper("Sheet", "0042", "", EVERY)).text)
        self.assertIn("▲ high", text)
        self.assertIn("● within", text)

    def test_boxes_to_tick_are_as_many_as_things_at_most_twelve(self) -> None:
        for count, boxes in ((1, 1), (8, 8), (40, 12)):
            reader = read(Paper("List", "1", "", (Ticks((Tick(count, "Screws", ""),)),)))
            self.assertEqual(sum(attrs.get("class") == "box" for _, attrs in reader.tags), boxes)


class Pages(unittest.TestCase):
    def test_sizes_of_paper(self) -> None:
        for size, (wide, tall) in zip(SIZES, (POINTS_A4, POINTS_LETTER), strict=True):
            document = pypdfium2.PdfDocument(paper_pdf(Paper("t", "1", "", EVERY, size)))
            self.addCleanup(document.close)
            self.assertAlmostEqual(document[0].get_width(), wide, delta=0.5)
            self.assertAlmostEqual(document[0].get_height(), tall, delta=0.5)
        card = pypdfium2.PdfDocument(paper_pdf(Paper("t", "1", "", EVERY[:2], "A4 card")))
        self.addCleanup(card.close)
        self.assertAlmostEqual(card[0].get_height(), POINTS_A4[1] / 3, delta=0.5)

    def test_what_is_a_little_too_long_is_set_smaller_and_what_is_long_is_not(self) -> None:
        def pages(lines: int) -> int:
            return len(printed(Paper("t", "1", "", (Lines(tuple(f"line {n}" for n in range(lines))),))))

        fits = next(lines for lines in range(40, 120) if pages(lines + 1) > 1)
        self.assertGreater(fits, 60)  # 12 points of leading on 267 mm: 63 lines as they stand, more where they are set smaller
        self.assertEqual(pages(3 * fits), 3 if 3 * fits <= 3 * 63 else 4)

    def test_a_text_longer_than_a_page_goes_on_over_pages(self) -> None:
        long = " ".join(f"word{n}" for n in range(4_000))
        pages = printed(Paper("t", "1", "", (Pairs((("Notes", long),)),)))
        self.assertGreater(len(pages), 3)
        text = " ".join(" ".join(pages).split())
        for word in ("word0 ", "word1999 ", "word3999"):
            self.assertIn(word, text)
        self.assertIn(f"page {len(pages)} of {len(pages)}", pages[-1])

    def test_the_same_paper_is_the_same_bytes(self) -> None:
        paper = Paper("Sheet", "0042", "A. Bench", EVERY)
        self.assertEqual(paper_pdf(paper), paper_pdf(paper))

    def test_drawing_up_can_be_stopped(self) -> None:
        def stop() -> None:
            raise TaskCancelled

        self.assertRaises(TaskCancelled, paper_pdf, Paper("t", "1", "", EVERY), stop)

    def test_pages_as_pictures_and_where_words_stand(self) -> None:
        application()
        content = paper_pdf(Paper("Sheet", "0042", "", EVERY))
        (picture,) = drawn_pages(content, 500)
        self.assertEqual(picture.width(), 500)
        self.assertAlmostEqual(picture.height() / 500, POINTS_A4[1] / POINTS_A4[0], delta=0.01)
        spots = spots_of(content, {"title": "Fulmar", "sign": "Not signed", "none": "no such words"})
        self.assertEqual(set(spots), {"title", "sign"})
        self.assertLess(spots["title"].bottom, spots["sign"].top)
        row = range(int(spots["title"].top * picture.height()), int(spots["title"].bottom * picture.height()))
        dark = sum(picture.pixelColor(x, y).lightness() < 120 for y in row for x in range(0, 500, 2))
        self.assertGreater(dark, 30)  # there are letters there


class Sections(unittest.TestCase):
    def test_a_section_without_a_word_is_not_there(self) -> None:
        self.assertEqual(section("Care", Pairs(()), Lines(()), Grid((), (), ()), Ticks(())), ())
        head, lines = section("Care", Lines(()), Lines(("Fire it.",)), place=SheetPlace.CARE)
        self.assertEqual(head, Words("Care", "head", SheetPlace.CARE))
        self.assertEqual(lines, Lines(("Fire it.",)))

    def test_pairs_without_a_text_are_left_out(self) -> None:
        self.assertEqual(present(("Owner", " "), ("Serial", "B 12")), (("Serial", "B 12"),))


if __name__ == "__main__":
    unittest.main()
