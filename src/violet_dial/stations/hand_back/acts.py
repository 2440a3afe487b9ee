"""Acts at Return: the words on the sheet, and the signature."""

from dataclasses import replace

from violet_dial.job.act import Done
from violet_dial.job.closing import Closing
from violet_dial.job.document import Job


def close_sheet(job: Job, closing: Closing, at: str) -> Done:
    """What goes on the sheet: done, left, battery, lesson, signature."""
    reason = f"Signed by {closing.signed_by}" if closing.signed_by and not job.closing.signed_by else "Sheet written"
    return Done(replace(job, closing=closing), "Return", reason)
