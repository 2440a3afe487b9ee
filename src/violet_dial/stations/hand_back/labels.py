"""Labels with a barcode, one to a page of a label roll: for the device and for each of its trays."""

import io
from dataclasses import dataclass

from reportlab.graphics.barcode.code128 import Code128
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from violet_dial.report import palette
from violet_dial.report.letters import plain, register

WIDE, TALL, EDGE = 60 * mm, 30 * mm, 2.5 * mm
BAR = 0.33 * mm  # width of the thinnest bar: wide enough for a hand scanner and a thermal printer


@dataclass(frozen=True)
class Label:
    """One label: what the barcode says, the job's number large, what it is for, and one line more."""

    code: str
    number: str
    words: str
    more: str = ""


def labels_pdf(labels: tuple[Label, ...]) -> bytes:
    """The labels as a PDF, a page each."""
    register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(WIDE, TALL), invariant=1)
    canvas.setTitle("Labels")
    for label in labels:
        _draw(canvas, label)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _draw(canvas: Canvas, one: Label) -> None:
    canvas.setFillColor(HexColor(palette.INK))
    canvas.setFont("B612-Bold", 15)
    canvas.drawString(EDGE, TALL - EDGE - 12, one.number)
    top = TALL - EDGE - 7
    for place, (text, size) in enumerate(((one.words, 9.0), (one.more, 7.5))):
        canvas.setFont("B612", size)
        canvas.drawString(EDGE + 19 * mm, top - 10 * place, _fitting(text, size, WIDE - 2 * EDGE - 19 * mm))
    code = Code128(one.code, barHeight=11 * mm, barWidth=BAR, humanReadable=False, quiet=True)
    code.drawOn(canvas, (WIDE - code.width) / 2, EDGE + 3 * mm)
    canvas.setFont("B612", 6.5)
    canvas.drawCentredString(WIDE / 2, EDGE, one.code)


def _fitting(text: str, size: float, width: float) -> str:
    """As much of a text as fits."""
    said = plain(text)
    while said and stringWidth(said, "B612", size) > width:
        said = said[:-2] + "…" if len(said) > 2 else ""
    return said
