"""Which labels a job needs: one for the device, one for each tray its parts lie in; and what a scanner types of them."""

import re

from violet_dial.job.document import Job
from violet_dial.report.labels import CODE, Label

SCANNED = re.compile(r"\s*VD(\d{4,8})\s*", re.IGNORECASE)


def labels_of(job: Job) -> tuple[Label, ...]:
    """The labels of a job."""
    code, device = CODE.format(job.number), job.device.name or "Not described"
    trays = tuple(dict.fromkeys(step.tray for step in job.opening.steps if step.tray.strip()))
    more = job.device.serial or job.intake.owner
    return (Label(code, job.label, device, more), *(Label(code, job.label, f"Tray {tray}", device) for tray in trays))


def scanned_number(text: str) -> int | None:
    """The job's number in what a scanner typed; None where it is something else."""
    found = SCANNED.fullmatch(text)
    return int(found[1]) if found is not None else None
