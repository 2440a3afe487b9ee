"""Letters on paper, read back from the PDF with an outside reader of PDF (PDFium)."""

import unittest

import pypdfium2

from violet_dial.report.blocks import Pairs, Paper, SheetVerdict, Words
from violet_dial.report.letters import unprintable
from violet_dial.report.pdf import not_printed, paper_pdf

NAMES = {
    "Polish": "Łukasz Dębiński-Żółć", "Turkish": "Şiğıl Ünlü", "Vietnamese": "Nguyễn Văn Đạt", "Greek": "Γιώργος Ωμέγα",
    "Cyrillic": "Жуковский Ёлкин", "Hebrew": "שלום ירושלים", "composed": "Zoe\u0301",
}  # fmt: skip


def printed(paper: Paper) -> str:
    document = pypdfium2.PdfDocument(paper_pdf(paper))
    try:
        return "\n".join(page.get_textpage().get_text_range() for page in document)
    finally:
        document.close()


class Letters(unittest.TestCase):
    def paper(self, *rows: tuple[str, str]) -> Paper:
        return Paper("t", "0001", "a", (Words("Łódź", "title"), Pairs(rows), SheetVerdict("Śniardwy", "ę")))

    def test_every_letter_of_a_name_is_on_the_paper(self) -> None:
        text = printed(self.paper(*NAMES.items()))
        for name in (*NAMES.values(), "Łódź", "Śniardwy"):
            for word in name.replace("e\u0301", "é").split():
                with self.subTest(word):
                    self.assertTrue(word in text or word[::-1] in text)
        self.assertEqual(not_printed(self.paper(*NAMES.items())), "")

    def test_from_the_right_the_first_word_stands_right(self) -> None:
        document = pypdfium2.PdfDocument(paper_pdf(self.paper(("Hebrew", "אבגד 5.6 V הוזח"))))
        page = document[0].get_textpage()
        places = {page.get_text_range(at, 1): page.get_charbox(at)[0] for at in range(page.count_chars())}
        document.close()
        self.assertGreater(places["א"], places["ד"])
        self.assertGreater(places["ד"], places["ה"])
        self.assertLess(places["5"], places["6"])

    def test_arabic_is_joined(self) -> None:
        """Joined forms are letters of their own in the font: the plain ones are not what is drawn."""
        from violet_dial.report.letters import ordered

        self.assertNotEqual(sorted(ordered("مرحبا", 500, 9)), sorted("مرحبا"))
        self.assertEqual(unprintable((ordered("مرحبا بالعالم", 500, 9),)), "")

    def test_what_cannot_be_printed_is_marked_and_said(self) -> None:
        paper = self.paper(("Chinese", "漢字 mit 漢"))
        self.assertIn("□□ mit □", printed(paper))
        self.assertEqual(not_printed(paper), "漢字")
        self.assertEqual(unprintable(("a\u200db\u0007c\ud800",)), "")


if __name__ == "__main__":
    unittest.main()
