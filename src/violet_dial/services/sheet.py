"""The sheet of a job: what every station has to say, in the order it is read."""

from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Pairs, Paper, Signature, Verdict, Words, present, section
from violet_dial.services.cautions import LOCAL_RULES, cautions_for
from violet_dial.services.station import Station


def sheet_of(job: Job, stations: tuple[Station, ...], printed_on: str) -> Paper:
    """The sheet of a job; ``printed_on`` is today's date in words.

    A verdict of any station comes to the top; the others' blocks follow in the order of the work.
    """
    device = job.device.name or "Not described"
    said = [block for station in stations for block in station.paper(job)]
    top = [block for block in said if isinstance(block, Verdict)]
    rest = [block for block in said if not isinstance(block, Verdict)]
    cautions = (*((one.title, one.text) for one in cautions_for(job)), ("Above all", LOCAL_RULES))
    head: list[Block] = [Words(f"Bench sheet · job {job.label} · {printed_on}", "quiet"), Words(device, "title")]
    if job.intake.headline_fault:
        head.append(Words(job.intake.headline_fault))
    blocks = (
        *head, *top, Pairs(_facts(job)), *rest, *section("Cautions", Pairs(cautions)),
        Signature(job.closing.signed_by, job.closing.signed_on),
    )  # fmt: skip
    return Paper(f"Job {job.label} · {device}", job.label, job.closing.signed_by, blocks)


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
