"""What Trace puts on the sheet: what was put right, with the same readings before and after."""

from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Grid, Lines, SheetPlace, section
from violet_dial.stations.trace.work import before_and_after

HEADS = ("Where", "Before the repair", "After it")
WIDTHS = (0.26, 0.37, 0.37)


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the fault traced; nothing while nothing was put right."""
    repairs = job.tracing.repairs
    if not repairs:
        return ()
    counts = [len(epoch) for epoch in job.tracing.epochs]
    said = tuple(
        f"{repair.words[:1].upper()}{repair.words[1:]}: put right after {count} piece{'' if count == 1 else 's'} of evidence."
        for repair, count in zip(repairs, counts, strict=False)
    )
    compared = tuple((where, before, now) for where, before, now in before_and_after(job))
    untested = () if job.tracing.now else ("Not tested since the last repair.",)
    grid = Grid(HEADS, compared, WIDTHS)
    title = f"Fault traced: {job.tracing.circuit_name}"
    return section(title, Lines((*said, *untested)), grid, place=SheetPlace.DONE)
