"""Paper as PDF: the same blocks as the HTML, on numbered pages; a little smaller where that brings it onto one page."""

import io
from collections.abc import Callable, Iterator
from contextvars import ContextVar
from dataclasses import asdict
from functools import lru_cache
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table

from violet_dial.report import palette
from violet_dial.report.blocks import (
    NOT_SIGNED,
    Block,
    Drawing,
    Grid,
    Lines,
    Pairs,
    Paper,
    Picture,
    SheetVerdict,
    Signature,
    Size,
    Tick,
    Ticks,
    Words,
)
from violet_dial.report.letters import BOLD, PLAIN, from_the_right, has_right, marked_up, ordered, plain, register, unprintable
from violet_dial.report.shapes import DIAL_SCALE, dial_svg

_MARK = 2.6
_BOX = 7 * mm
_WIDTH = A4[0] - 36 * mm - 12  # the frame of the page keeps 6 points on either side
_NARROW = _WIDTH - 42 * mm  # beside a label
_PAGES: dict[Size, tuple[float, float]] = {
    "A4": A4, "Letter": LETTER, "A4 card": (A4[0], A4[1] / 3), "Letter card": (LETTER[0], LETTER[1] / 3),
}  # fmt: skip
_TIGHTER = (1.0, 0.94, 0.88)  # tried in turn where a sheet is a little longer than a page
_scale = ContextVar("scale", default=1.0)


def _styles() -> dict[str, ParagraphStyle]:
    return _styles_at(_scale.get())


@lru_cache(maxsize=len(_TIGHTER))
def _styles_at(scale: float) -> dict[str, ParagraphStyle]:
    register()
    ink, quiet = HexColor(palette.INK), HexColor(palette.QUIET)
    text = ParagraphStyle("text", fontName="B612", fontSize=8.5 * scale, leading=12 * scale, textColor=ink, splitLongWords=True)

    def bold(name: str, size: float, leading: float, **more: float) -> ParagraphStyle:
        return ParagraphStyle(name, text, fontName="B612-Bold", fontSize=size * scale, leading=leading * scale, **more)

    styles = {
        "text": text,
        "quiet": ParagraphStyle("quiet", text, textColor=quiet),
        "title": bold("title", 18, 22),
        "head": bold("head", 10.5, 14, spaceBefore=8 * scale, spaceAfter=3 * scale, keepWithNext=1),
        "strong": bold("strong", 10.5, 14),
        "verdict": bold("verdict", 12, 16),
    }
    mirrored = {f"{name} from the right": ParagraphStyle(name, style, alignment=TA_RIGHT) for name, style in styles.items()}
    return {**styles, **mirrored}


def _paragraph(text: str, style: str = "text", width: float = _NARROW) -> Paragraph:
    """Text in a style; ``width`` in points is where lines written from the right are broken."""
    wanted = _styles()[style]
    families = BOLD if wanted.fontName == BOLD[0] else PLAIN
    drawn = plain(text)
    if has_right(drawn):
        if from_the_right(drawn):
            wanted = _styles()[f"{style} from the right"]
        drawn = ordered(drawn, width, wanted.fontSize, families)
    return Paragraph(marked_up(drawn, families), wanted)


def _pairs(block: Pairs) -> list[Flowable]:
    rows: list[Flowable] = []
    for label, text in block.rows:
        for index, piece in enumerate(_pieces(text)):
            cells = [[_paragraph(label if index == 0 else "", "quiet"), _paragraph(piece)]]
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


def _words(block: Words) -> list[Flowable]:
    pieces = _pieces(block.text) if block.style in ("text", "quiet") else [block.text]
    return [_paragraph(piece, block.style) for piece in pieces]


def _lines(block: Lines) -> list[Flowable]:
    return [_paragraph(f"· {piece}" if not place else piece) for item in block.items for place, piece in enumerate(_pieces(item))]


def _picture(block: Picture) -> list[Flowable]:
    return _vectors(dial_svg(block.dial, block.title), lambda wide: 52 * mm * _scale.get() ** 2 / DIAL_SCALE)


def _drawing(block: Drawing) -> list[Flowable]:
    return _vectors(block.svg, lambda wide: _WIDTH * block.share * _scale.get() / wide)


def _vectors(svg: str, scaled: Callable[[float], float]) -> list[Flowable]:
    """A drawing as vectors; ``scaled`` gives points for each of its units from how many it is wide."""
    from svglib.svglib import svg2rlg

    drawn = svg2rlg(io.BytesIO(svg.encode()))
    if drawn is None:
        raise ValueError("not a drawing")
    scale = scaled(drawn.width)
    drawn.scale(scale, scale)
    drawn.width, drawn.height, drawn.hAlign = drawn.width * scale, drawn.height * scale, "CENTER"
    return [drawn, Spacer(1, 4)]


def _grid(block: Grid) -> list[Flowable]:
    rows: list[list[object]] = [[_paragraph(head, "quiet") for head in block.heads]]
    for row in block.rows:
        words_from = block.words_from
        rows.append([
            cell if (place < words_from or place == block.state_at) and not unprintable((cell,)) else _paragraph(cell)
            for place, cell in enumerate(row)
        ])  # fmt: skip
    drawn = Table(rows, colWidths=[_WIDTH * share for share in block.widths], repeatRows=1)
    style: list[tuple[object, ...]] = [
        ("FONT", (0, 1), (-1, -1), "B612", 8.5 * _scale.get()),
        ("TEXTCOLOR", (0, 1), (-1, -1), HexColor(palette.INK)),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, HexColor(palette.LINE)),
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
        *_tight(),
    ]
    for index, state in enumerate(block.states, start=1):
        at = (block.state_at, index)
        style.append(("TEXTCOLOR", at, at, HexColor(palette.STATE_COLOURS[state])))
    drawn.setStyle(style)
    return [drawn]


def _verdict(block: SheetVerdict) -> list[Flowable]:
    box = Table([[[_paragraph(block.headline, "verdict"), _paragraph(block.text)]]], colWidths=[_WIDTH])
    box.setStyle([
        ("BACKGROUND", (0, 0), (-1, -1), HexColor(palette.SOFT_VIOLET)),
        ("LINEBEFORE", (0, 0), (0, -1), 3, HexColor(palette.VIOLET)),
        ("LEFTPADDING", (0, 0), (-1, -1), 10),
    ])  # fmt: skip
    return [Spacer(1, 6), box, Spacer(1, 6)]


def _signature(block: Signature) -> list[Flowable]:
    by = f"Signed {block.by}" if block.by else NOT_SIGNED
    cells = [[_paragraph(by, "quiet"), "", _paragraph(f"Date {block.on}", "quiet")]]
    table = Table(cells, colWidths=[_WIDTH * 0.55, _WIDTH * 0.08, _WIDTH * 0.37])
    ink = HexColor(palette.INK)
    table.setStyle([("LINEABOVE", (0, 0), (0, 0), 0.6, ink), ("LINEABOVE", (2, 0), (2, 0), 0.6, ink)])
    return [Spacer(1, 28 * _scale.get()), table]


class _Boxes(Flowable):  # type: ignore[misc]
    """One big box to tick for each thing, at most twelve; more are said as a number."""

    def __init__(self, count: int) -> None:
        super().__init__()
        self._count = min(count, 12)
        self.width = _BOX * min(self._count, 4)
        self.height = _BOX * ((self._count + 3) // 4)

    def draw(self) -> None:
        for index in range(self._count):
            row, column = divmod(index, 4)
            self.canv.rect(column * _BOX + 1, self.height - (row + 1) * _BOX + 1, _BOX - 3, _BOX - 3)


def _ticks(block: Ticks) -> list[Flowable]:
    cells = [_tick(row) for row in block.rows]
    style: list[tuple[object, ...]] = [
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("LINEBELOW", (0, 0), (-1, -1), 0.4, HexColor(palette.LINE)),
        ("TOPPADDING", (0, 0), (-1, -1), 3), ("BOTTOMPADDING", (0, 0), (-1, -1), 3), ("LEFTPADDING", (0, 0), (-1, -1), 2),
    ]  # fmt: skip
    for place, row in enumerate(block.rows):
        if row.stop:
            style.append(("BACKGROUND", (0, place), (-1, place), HexColor(palette.SOFT_VIOLET)))
    widths = [4 * _BOX + 6, 15 * mm, 58 * mm, _WIDTH - 4 * _BOX - 6 - 73 * mm]
    return [Table(cells, colWidths=widths, style=style)] if cells else []


def _tick(row: Tick) -> list[object]:
    what = _paragraph(row.what, "verdict" if row.stop else "strong")
    return [_Boxes(row.boxes), _paragraph(row.tray, "strong"), what, _paragraph(row.mind)]


_PAINTED: dict[str, Callable[[Any], list[Flowable]]] = {
    "words": _words, "verdict": _verdict, "pairs": _pairs, "lines": _lines, "grid": _grid, "picture": _picture,
    "ticks": _ticks, "signature": _signature, "drawing": _drawing,
}  # fmt: skip


def painted(block: Block) -> list[Flowable]:
    """A block as things ReportLab puts on pages."""
    return _PAINTED[block.kind](block)


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
                self.drawRightString(self._pagesize[0] - 18 * mm, 8 * mm, f"Job {number} · page {index} of {len(self._pages)}")
                super().showPage()
            super().save()

    return NumberedCanvas


def not_printed(paper: Paper) -> str:
    """Letters on the paper that no family has; an empty square stands for each."""
    return unprintable(_texts(asdict(paper)))


def _texts(part: object) -> Iterator[str]:
    if isinstance(part, str):
        yield part
    elif isinstance(part, dict):
        for one in part.values():
            yield from _texts(one)
    elif isinstance(part, list | tuple):
        for one in part:
            yield from _texts(one)


def paper_pdf(paper: Paper, check: Callable[[], None] = lambda: None) -> bytes:
    """The paper as the bytes of a PDF; ``check`` is called between blocks and may raise to stop.

    What is a little longer than a page is set a little smaller, once it fits.
    """
    made, pages = _built(paper, check, _TIGHTER[0])
    for scale in _TIGHTER[1:] if pages == 2 and not paper.size.endswith("card") else ():
        tighter, count = _built(paper, check, scale)
        if count == 1:
            return tighter
    return made


def _built(paper: Paper, check: Callable[[], None], scale: float) -> tuple[bytes, int]:
    """The bytes at a scale, and how many pages they are."""
    token = _scale.set(scale)
    try:
        _styles()
        out = io.BytesIO()
        wide, tall = _PAGES[paper.size]
        side, card = (wide - _WIDTH - 12) / 2, paper.size.endswith("card")
        document = SimpleDocTemplate(
            out, pagesize=(wide, tall), leftMargin=side, rightMargin=side, topMargin=(8 if card else 14) * mm,
            bottomMargin=(10 if card else 16) * mm, title=paper.title, author=plain(paper.author), invariant=1, lang="en",
        )  # fmt: skip
        story: list[Flowable] = []
        for block in paper.blocks:
            check()
            story += painted(block)
        check()
        document.build(story, canvasmaker=numbered_canvas(paper.number))
        return out.getvalue(), int(document.page)
    finally:
        _scale.reset(token)
