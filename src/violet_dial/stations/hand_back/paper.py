"""What Return puts on the sheet and the card: what was done, what was left and why, which battery to use, care."""

from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Lines, Pairs, SheetPlace, present, section

HEADS = {  # of the section that a field becomes, for the page to find it
    "done": "What was done", "left": "Left, and why", "battery": "Battery to use", "care": "Care", "recheck_on": "Check again",
    "signed_by": "Signed", "signed_on": "Date",
}  # fmt: skip


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the words; each paragraph of a text is a line."""
    closing = job.closing
    parts = tuple(f"{part.count} × {part.name}" if part.count > 1 else part.name for part in closing.parts)
    care = present((HEADS["care"], closing.care), (HEADS["recheck_on"], closing.recheck_on))
    return (
        *section(HEADS["done"], Lines(_lines(closing.done)), Pairs(present(("Parts", ", ".join(parts)))), place=SheetPlace.DONE),
        *section(HEADS["battery"], Lines(_lines(closing.battery)), place=SheetPlace.BATTERY),
        *section(HEADS["left"], Lines(_lines(closing.left)), place=SheetPlace.LEFT),
        *section("Care and checking again", Pairs(care), place=SheetPlace.CARE),
    )


def _lines(text: str) -> tuple[str, ...]:
    return tuple(line.strip() for line in text.splitlines() if line.strip())


def card(job: Job) -> tuple[tuple[str, str], ...]:
    """What the card says in words."""
    closing = job.closing
    return present(
        ("Done", closing.done), (HEADS["battery"], closing.battery), (HEADS["care"], closing.care),
        (HEADS["recheck_on"], closing.recheck_on),
    )  # fmt: skip
