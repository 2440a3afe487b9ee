"""What Return puts on the sheet: what was done, what was left and why, which battery to use."""

from violet_dial.job.document import Job
from violet_dial.report.blocks import Block, Pairs, present, section


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the work."""
    closing = job.closing
    said = present(("Done", closing.done), ("Left and why", closing.left), ("Battery to use", closing.battery))
    return section("Work", Pairs(said))
