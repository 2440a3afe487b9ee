"""What Open prints: the checklist for the bench (big boxes, homes, hands, counts), and on the sheet what was replaced or
left out."""

from violet_dial.core.opening.way_back import BackItem
from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Lines, Paper, SheetPlace, Tick, Ticks, Words, section
from violet_dial.services.station import FileOut
from violet_dial.stations.open.acts import back_of, totals_of
from violet_dial.stations.open.table import write_strip
from violet_dial.stations.open.words import mind, said


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks on the sheet: things replaced, left out, and still without an end."""
    ended = [(step, end) for step in job.opening.steps for end in step.ends]
    replaced = tuple(f"{_count(end.count, step.count)}{step.name}: replaced by {end.note}."
                     for step, end in ended if end.kind == "replaced")  # fmt: skip
    left = tuple(f"{_count(end.count, step.count)}{step.name}: left out because {end.note}."
                 for step, end in ended if end.kind == "left out")  # fmt: skip
    total = totals_of(job)
    open_now = total.found - total.ended
    rest = (f"{open_now} of {total.found} things that came off.",) if open_now > 0 else ()
    return (
        *section("Replaced", Lines(replaced), place=SheetPlace.DONE),
        *section("Left out", Lines(left), place=SheetPlace.LEFT),
        *section("Still off", Lines(rest), place=SheetPlace.LEFT),
    )


def _count(ended: int, of: int) -> str:
    return f"{ended} of " if ended != of else ""


def checklist(job: Job) -> Paper:
    """The checklist: off in the order of removal, back in the order worked out. Raises ImpossibleOrder: no order back works."""
    off = tuple(Tick(step.count, said(step), mind(step), step.tray) for step in job.opening.steps)
    back = tuple(_back(job, item) for item in back_of(job))
    device = job.device.name or "Not described"
    blocks: tuple[Block, ...] = (
        Words(f"{device} · job {job.label}", "title"),
        Words("Off, in this order", "head"), Ticks(off),
        Words("Back, in this order", "head"), Ticks(back),
    )  # fmt: skip
    return Paper(f"Checklist {job.label}", job.label, "", blocks)


def _back(job: Job, item: BackItem) -> Tick:
    if item.kind == "test":
        return Tick(1, "TEST", item.text, stop=True)
    step = job.opening.steps[item.place]
    return Tick(step.count, said(step), item.text, step.tray)


def _plain(text: str) -> str:
    """Text that Markdown shows as it is."""
    for sign in ("\\", "`", "*", "_", "<", ">", "|", "[", "]", "#"):
        text = text.replace(sign, f"\\{sign}")
    return text.replace("\n", " ")


def markdown(paper: Paper) -> str:
    """A checklist as Markdown with task boxes."""
    lines: list[str] = []
    for block in paper.blocks:
        if isinstance(block, Words):
            lines += ["", f"{'#' if block.style == 'title' else '##'} {_plain(block.text)}", ""]
        elif isinstance(block, Ticks):
            lines += [_task(row) for row in block.rows]
    return "\n".join(lines).lstrip("\n") + "\n"


def _task(row: Tick) -> str:
    tray = f" **{_plain(row.tray)}**" if row.tray else ""
    what = f"**{row.what}**" if row.stop else _plain(row.what)
    return f"- [ ]{tray} {what}" + (f" — {_plain(row.mind)}" if row.mind else "")


def _written(job: Job, name: str, part: object) -> bytes:
    """The strip-down for a file name: Markdown when it ends in .md, PDF in .pdf, else CSV."""
    from violet_dial.report.pdf import paper_pdf

    ending = name.rpartition(".")[2].lower()
    if ending == "md":
        return markdown(checklist(job)).encode()
    return paper_pdf(checklist(job)) if ending == "pdf" else write_strip(job.opening.steps).encode()


FILE_OUT = FileOut(
    "Write the strip-down", "Strip-down (*.csv);;Checklist (*.md)", lambda job: f"job-{job.label}-strip-down.csv", _written
)
PRINT_OUT = FileOut("Write the checklist", "PDF (*.pdf)", lambda job: f"job-{job.label}-checklist.pdf", _written)
