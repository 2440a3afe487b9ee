"""The sheet of a job: what every station has to say, in the order it is read; and the short card for its case."""

from functools import partial

from violet_dial.job.document import Job
from violet_dial.job.practising import HIDDEN
from violet_dial.report.blocks import Block, Pairs, Paper, SheetPlace, SheetVerdict, Signature, Size, Words, present, section
from violet_dial.services.appraisal import FaultGuard
from violet_dial.services.gate import LOCAL_RULES, cautions_for
from violet_dial.services.station import Station

CARD = "card"  # the part of Return in view, where it is the card
UNSIGNED = "A draft: not signed yet."


def sheet_of(job: Job, stations: tuple[Station, ...], printed_on: str, size: Size = "A4") -> Paper:
    """The sheet of a job; ``printed_on`` is today's date in words.

    A verdict of any station comes to the top, and what a station failed to say; sections follow by their place on the sheet,
    of equals in the order of the work.
    """
    hides = job.practising.hides
    asked = FaultGuard()
    said = [Words(HIDDEN)] if hides else _papers(job, stations, asked)
    top: list[Block] = [Words(fault) for fault in asked.faults]
    top += [block for block in said if isinstance(block, SheetVerdict)]
    sections = _sections([block for block in said if not isinstance(block, SheetVerdict)])
    cautions = (*((one.title, one.text) for one in cautions_for(job)), ("Above all", LOCAL_RULES))
    sections += _sections(list(section("Cautions", Pairs(cautions), place=SheetPlace.CARE)))
    rest = [block for _place, blocks in sorted(sections, key=lambda one: one[0]) for block in blocks]
    blocks = (*_head(job, f"Bench sheet · job {job.label} · {printed_on}"), *top, Pairs(_facts(job)), *rest, _signature(job))
    return Paper(f"Job {job.label} · {_device(job)}", job.label, job.closing.signed_by, blocks, size)


def card_of(job: Job, stations: tuple[Station, ...], printed_on: str, size: Size = "A4") -> Paper:
    """The short card of a job: a third of a page, what its owner needs at hand."""
    asked = FaultGuard()
    said = [] if job.practising.hides else _cards(job, stations, asked)
    said += [("Not on this card", fault) for fault in asked.faults]
    small: Size = "Letter card" if size.startswith("Letter") else "A4 card"
    blocks = (*_head(job, f"Job {job.label} · {printed_on}"), Pairs(present(*said)), _signature(job))
    return Paper(f"Card {job.label} · {_device(job)}", job.label, job.closing.signed_by, blocks, small)


def _papers(job: Job, stations: tuple[Station, ...], asked: FaultGuard) -> list[Block]:
    said: list[Block] = []
    for station in stations:
        nothing: tuple[Block, ...] = ()
        said += asked.ask(station, "its part of the sheet", partial(station.paper, job), nothing)
    return said


def _cards(job: Job, stations: tuple[Station, ...], asked: FaultGuard) -> list[tuple[str, str]]:
    said: list[tuple[str, str]] = []
    for station in stations:
        nothing: tuple[tuple[str, str], ...] = ()
        said += asked.ask(station, "its part of the card", partial(station.card, job), nothing)
    return said


def _device(job: Job) -> str:
    return job.device.name or "Not described"


def _head(job: Job, first: str) -> list[Block]:
    head: list[Block] = [Words(first, "quiet"), Words(_device(job), "title")]
    if job.intake.headline_fault:
        head.append(Words(f"Came in with: {job.intake.headline_fault}"))
    if not job.closing.signed_by:
        head.append(Words(UNSIGNED, "quiet"))
    return head


def _signature(job: Job) -> Signature:
    return Signature(job.closing.signed_by, job.closing.signed_on)


def _sections(blocks: list[Block]) -> list[tuple[SheetPlace, list[Block]]]:
    """Blocks parted where a section begins, each with its place."""
    found: list[tuple[SheetPlace, list[Block]]] = []
    for block in blocks:
        if isinstance(block, Words) and block.style == "head":
            found.append((block.place, [block]))
        elif found:
            found[-1][1].append(block)
        else:
            found.append((SheetPlace.MEASURED, [block]))
    return found


def _facts(job: Job) -> tuple[tuple[str, str], ...]:
    cell = job.device.cell
    return present(
        ("Kind", f"{job.device.kind}, {cell} cell" if cell != "not known" else job.device.kind),
        ("Maker", job.device.maker),
        ("Serial number", job.device.serial),
        ("Owner", job.intake.owner),
        ("Came in", job.intake.received_on),
        ("Came with", job.intake.came_with),
    )
