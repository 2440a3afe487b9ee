"""The sheet as PDF: the same content as the HTML, on numbered A4 pages."""

import io
import re
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table

from violet_dial.report import palette
from violet_dial.report.dial import OUTER_RADIUS, Dial, Line, Mark
from violet_dial.report.sheet import RunTable, Sheet

FONTS = Path(__file__).parent.parent / "assets" / "fonts"
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")
_MARK = 2.6
_WIDTH = A4[0] - 36 * mm - 12  # the frame of the page keeps 6 points on either side


@lru_cache(maxsize=1)
def _styles() -> dict[str, ParagraphStyle]:
    pdfmetrics.registerFont(TTFont("B612", str(FONTS / "B612-Regular.ttf")))
    pdfmetrics.registerFont(TTFont("B612-Bold", str(FONTS / "B612-Bold.ttf")))
    ink, quiet = HexColor(palette.INK), HexColor(palette.QUIET)
    text = ParagraphStyle("text", fontName="B612", fontSize=8.5, leading=12, textColor=ink, splitLongWords=True)
    return {
        "text": text,
        "quiet": ParagraphStyle("quiet", text, textColor=quiet),
        "title": ParagraphStyle("title", text, fontName="B612-Bold", fontSize=18, leading=22),
        "head": ParagraphStyle(
            "head", text, fontName="B612-Bold", fontSize=10.5, leading=14, spaceBefore=8, spaceAfter=3
        ),
        "verdict": ParagraphStyle("verdict", text, fontName="B612-Bold", fontSize=12, leading=16),
    }


def paragraph(text: str, style: str = "text") -> Paragraph:
    safe = escape(_CONTROL.sub("", text)).replace("\n", "<br/>")
    return Paragraph(safe, _styles()[style])


class _Painter:
    """Paints a dial on a canvas at a centre and radius, in points."""

    def __init__(self, canvas: Canvas, centre: tuple[float, float], radius: float) -> None:
        self._canvas, self._centre, self._radius = canvas, centre, radius

    def _at(self, point: tuple[float, float]) -> tuple[float, float]:
        return self._centre[0] + point[0] * self._radius, self._centre[1] + point[1] * self._radius

    def _path(self, points: tuple[tuple[float, float], ...], fill: bool) -> None:
        path = self._canvas.beginPath()
        path.moveTo(*self._at(points[0]))
        for point in points[1:]:
            path.lineTo(*self._at(point))
        self._canvas.drawPath(path, stroke=0 if fill else 1, fill=1 if fill else 0)

    def _line(self, line: Line) -> None:
        self._canvas.setStrokeColor(HexColor(palette.ROLE_COLOURS[line.role]))
        self._canvas.setLineWidth(palette.ROLE_WIDTHS[line.role] * 0.55)
        self._canvas.setDash([3, 2] if line.dashed else [])
        self._path(line.points, fill=False)
        self._canvas.setDash([])

    def _mark(self, mark: Mark) -> None:
        x, y = self._at((mark.x, mark.y))
        colour = HexColor(palette.STATE_COLOURS[mark.state])
        self._canvas.setFillColor(colour)
        self._canvas.setStrokeColor(colour)
        self._canvas.setLineWidth(0.8)
        if mark.state in ("high", "low"):
            tip = _MARK if mark.state == "high" else -_MARK
            path = self._canvas.beginPath()
            path.moveTo(x, y + tip)
            path.lineTo(x - _MARK, y - tip)
            path.lineTo(x + _MARK, y - tip)
            path.close()
            self._canvas.drawPath(path, stroke=0, fill=1)
            return
        self._canvas.circle(x, y, _MARK * 0.85, stroke=1, fill=1 if mark.state == "inside" else 0)
        if mark.state == "undecided":
            self._canvas.wedge(x - _MARK, y - _MARK, x + _MARK, y + _MARK, 90, 180, stroke=0, fill=1)

    def paint(self, dial: Dial) -> None:
        for area in dial.areas:
            self._canvas.setFillColor(HexColor(palette.ROLE_COLOURS[area.role]))
            self._path(area.points, fill=True)
        for line in dial.lines:
            self._line(line)
        self._canvas.setFillColor(HexColor(palette.QUIET))
        self._canvas.setFont("B612", 6.5)
        for label in dial.labels:
            x, y = self._at((label.x, label.y))
            self._canvas.drawCentredString(x, y - 2, label.text)
        for mark in dial.marks:
            self._mark(mark)


class _DialFlowable(Flowable):  # type: ignore[misc]
    """The dial as a block of the page."""

    def __init__(self, dial: Dial, radius: float) -> None:
        super().__init__()
        self._dial, self._radius = dial, radius
        self.width, self.height = _WIDTH, radius * (OUTER_RADIUS + 0.12)

    def draw(self) -> None:
        centre = (self.width / 2, self._radius * 0.1)
        _Painter(self.canv, centre, self._radius).paint(self._dial)


def _pairs(pairs: tuple[tuple[str, str], ...]) -> list[Flowable]:
    rows: list[Flowable] = []
    for label, text in pairs:
        for index, piece in enumerate(_pieces(text)):
            cells = [[paragraph(label if index == 0 else "", "quiet"), paragraph(piece)]]
            table = Table(cells, colWidths=[30 * mm, _WIDTH - 30 * mm])
            table.setStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (0, -1), 0), *_tight()])
            rows.append(table)
    return rows


def _pieces(text: str, most: int = 1500) -> list[str]:
    """Long text in pieces that each fit a page: a table row cannot be split."""
    lines: list[str] = []
    for line in text.split("\n"):
        lines.extend(line[start : start + most] for start in range(0, max(len(line), 1), most))
    pieces, current = [], ""
    for line in lines:
        if current and (len(current) + len(line) > most or current.count("\n") > 25):
            pieces.append(current)
            current = line
        else:
            current = f"{current}\n{line}" if current else line
    return [*pieces, current]


def _tight() -> list[tuple[object, ...]]:
    return [("TOPPADDING", (0, 0), (-1, -1), 1), ("BOTTOMPADDING", (0, 0), (-1, -1), 1)]


def _readings(table: RunTable) -> Table:
    heads = ("Reference EV100", "Read EV100", "Error, stops", "U, stops", "Tolerance ±", "State", "Note")
    rows: list[list[object]] = [[paragraph(head, "quiet") for head in heads]]
    for row in table.rows:
        figures = [row.reference, row.indicated, row.error, row.uncertainty, row.tolerance]
        rows.append([*figures, row.word, paragraph(row.note)])
    drawn = Table(
        rows, colWidths=[_WIDTH * share for share in (0.15, 0.13, 0.13, 0.11, 0.13, 0.13, 0.22)], repeatRows=1
    )
    style: list[tuple[object, ...]] = [
        ("FONT", (0, 1), (-1, -1), "B612", 8.5),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, HexColor(palette.LINE)),
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
        *_tight(),
    ]
    for index, row in enumerate(table.rows, start=1):
        style.append(("TEXTCOLOR", (5, index), (5, index), HexColor(palette.STATE_COLOURS[row.state])))
    drawn.setStyle(style)
    return drawn


def _story(sheet: Sheet) -> list[Flowable]:
    head = f"Light meter check · job {sheet.number} · {sheet.printed_on}"
    parts: list[Flowable] = [paragraph(head, "quiet"), paragraph(sheet.device, "title")]
    parts += [paragraph(sheet.headline_fault), Spacer(1, 6), _verdict(sheet), Spacer(1, 6), *_pairs(sheet.facts)]
    for table in sheet.tables:
        heading = paragraph(f"{table.title}: {table.verdict.headline}", "head")
        parts += [KeepTogether([heading, _DialFlowable(table.dial, 52 * mm), Spacer(1, 4)]), _readings(table)]
    parts.append(paragraph("What the readings say", "head"))
    parts += [paragraph(line) for line in sheet.findings]
    if sheet.story:
        parts += [paragraph("Work", "head"), *_pairs(sheet.story)]
    parts += [paragraph("How it was measured", "head"), *_pairs(sheet.method)]
    parts += [paragraph("Cautions", "head"), *_pairs(sheet.cautions), Spacer(1, 36), _signature(sheet)]
    return parts


def _verdict(sheet: Sheet) -> Table:
    verdict = sheet.verdict
    words = [paragraph(verdict.headline, "verdict"), paragraph(f"Verdict: {verdict.kind}. {verdict.reason}")]
    box = Table([[words]], colWidths=[_WIDTH])
    box.setStyle([
        ("BACKGROUND", (0, 0), (-1, -1), HexColor(palette.SOFT_VIOLET)),
        ("LINEBEFORE", (0, 0), (0, -1), 3, HexColor(palette.VIOLET)),
        ("LEFTPADDING", (0, 0), (-1, -1), 10),
    ])  # fmt: skip
    return box


def _signature(sheet: Sheet) -> Table:
    cells = [[paragraph(f"Signed {sheet.signed_by}", "quiet"), "", paragraph(f"Date {sheet.signed_on}", "quiet")]]
    table = Table(cells, colWidths=[_WIDTH * 0.55, _WIDTH * 0.08, _WIDTH * 0.37])
    ink = HexColor(palette.INK)
    table.setStyle([("LINEABOVE", (0, 0), (0, 0), 0.6, ink), ("LINEABOVE", (2, 0), (2, 0), 0.6, ink)])
    return table


def numbered_canvas(number: str) -> type[Canvas]:
    """A canvas that writes "page n of m" once all pages are known."""

    class NumberedCanvas(Canvas):  # type: ignore[misc]
        def __init__(self, *args: object, **kwargs: object) -> None:
            super().__init__(*args, **kwargs)
            self._pages: list[dict[str, object]] = []

        def showPage(self) -> None:
            self._pages.append(dict(self.__dict__))
            self._startPage()

        def save(self) -> None:
            for index, page in enumerate(self._pages, start=1):
                self.__dict__.update(page)
                self.setFont("B612", 7)
                self.setFillColor(HexColor(palette.QUIET))
                self.drawRightString(A4[0] - 18 * mm, 10 * mm, f"Job {number} · page {index} of {len(self._pages)}")
                super().showPage()
            super().save()

    return NumberedCanvas


def sheet_pdf(sheet: Sheet, check: Callable[[], None] = lambda: None) -> bytes:
    """The sheet as the bytes of a PDF; ``check`` is called between steps and may raise to stop."""
    _styles()
    out = io.BytesIO()
    check()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=16 * mm, bottomMargin=18 * mm,
        title=f"Job {sheet.number}", author=_CONTROL.sub("", sheet.signed_by), invariant=1,
    )  # fmt: skip
    story = _story(sheet)
    check()
    document.build(story, canvasmaker=numbered_canvas(sheet.number))
    return out.getvalue()
