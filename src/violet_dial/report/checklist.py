"""The strip-down as a checklist for the bench: big boxes, homes, hands, counts; as Markdown and as PDF."""

import io
from dataclasses import dataclass

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table

from violet_dial.core.opening.care import bath_advice
from violet_dial.core.opening.steps import Step
from violet_dial.core.opening.way_back import BackItem
from violet_dial.job.document import Job
from violet_dial.report.pdf import numbered_canvas, paragraph

_BOX = 7 * mm


@dataclass(frozen=True)
class CheckLine:
    """One line to tick: how many boxes, what, and what to mind."""

    boxes: int
    what: str
    mind: str
    tray: str = ""
    stop: bool = False


@dataclass(frozen=True)
class Checklist:
    """Both directions of a strip-down, ready to print."""

    number: str
    device: str
    off: tuple[CheckLine, ...]
    back: tuple[CheckLine, ...]


def build_checklist(job: Job, back: tuple[BackItem, ...]) -> Checklist:
    """The checklist of a job: off in the order of removal, back in the order worked out."""
    steps = job.opening.steps
    lines = []
    for item in back:
        if item.kind == "test":
            lines.append(CheckLine(1, "TEST", item.text, stop=True))
        else:
            step = steps[item.place]
            lines.append(CheckLine(step.count, said(step), item.text, step.tray))
    off = tuple(CheckLine(step.count, said(step), mind(step), step.tray) for step in steps)
    return Checklist(job.label, job.device.name or "Not described", off, tuple(lines))


def said(step: Step) -> str:
    """A step in bench words: count, name, size, head, finish."""
    detail = " ".join(part for part in (step.size, step.head, step.finish) if part)
    return f"{step.name}, {detail}" if detail else step.name


def mind(step: Step) -> str:
    """What to mind while it comes off."""
    hand = {"left": "LEFT-HAND thread", "unknown": "THREAD HAND NOT KNOWN", "right": "right-hand thread", "": ""}[
        step.hand
    ]
    parts = [
        hand, f"first set {step.preset}" if step.preset else "", f"marks: {step.marks}" if step.marks else "",
        f"hides {', '.join(step.hides)}" if step.hides else "",
        f"{step.wire_colour} wire, {step.wire_from} to {step.wire_to}" if step.wire_colour else "",
        "no fingers" if step.no_fingers else "", bath_advice(step.kind, step.no_bath), step.note,
    ]  # fmt: skip
    return " · ".join(part for part in parts if part)


def _plain(text: str) -> str:
    """Text that Markdown shows as it is."""
    for sign in ("\\", "`", "*", "_", "<", ">", "|", "[", "]", "#"):
        text = text.replace(sign, f"\\{sign}")
    return text.replace("\n", " ")


def checklist_markdown(checklist: Checklist) -> str:
    """The checklist as Markdown with task boxes."""
    lines = [f"# {_plain(checklist.device)} · job {checklist.number}", "", "## Off", ""]
    for title, rows in (("", checklist.off), ("## Back", checklist.back)):
        lines += ["", title, ""] if title else []
        for row in rows:
            tray = f" **{_plain(row.tray)}**" if row.tray else ""
            what = f"**{row.what}**" if row.stop else _plain(row.what)
            lines.append(f"- [ ]{tray} {what}" + (f" — {_plain(row.mind)}" if row.mind else ""))
    return "\n".join(lines) + "\n"


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


def checklist_pdf(checklist: Checklist) -> bytes:
    """The checklist on numbered A4 pages."""
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=15 * mm, rightMargin=15 * mm, topMargin=14 * mm, bottomMargin=18 * mm,
        title=f"Checklist {checklist.number}",
    )  # fmt: skip
    story: list[Flowable] = [paragraph(f"{checklist.device} · job {checklist.number}", "title")]
    for title, rows in (("Off, in this order", checklist.off), ("Back, in this order", checklist.back)):
        story += [Spacer(1, 8), paragraph(title, "head")]
        if rows:
            story.append(_table(rows))
    document.build(story, canvasmaker=numbered_canvas(checklist.number))
    return out.getvalue()


def _table(rows: tuple[CheckLine, ...]) -> Table:
    cells = []
    style: list[tuple[object, ...]] = [
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("LINEBELOW", (0, 0), (-1, -1), 0.4, colors.grey),
        ("TOPPADDING", (0, 0), (-1, -1), 3), ("BOTTOMPADDING", (0, 0), (-1, -1), 3), ("LEFTPADDING", (0, 0), (-1, -1), 2),
    ]  # fmt: skip
    for place, row in enumerate(rows):
        what: Paragraph = paragraph(row.what, "verdict" if row.stop else "head")
        cells.append([_Boxes(row.boxes), paragraph(row.tray or "", "head"), what, paragraph(row.mind)])
        if row.stop:
            style.append(("BACKGROUND", (0, place), (-1, place), colors.Color(0.93, 0.88, 0.96)))
    return Table(cells, colWidths=[4 * _BOX + 6, 15 * mm, 62 * mm, 70 * mm], style=style)
