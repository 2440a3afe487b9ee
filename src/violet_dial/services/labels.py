"""Which labels a job needs: one for the device, one for each tray its parts lie in."""

from violet_dial.job.document import Job
from violet_dial.report.labels import Label
from violet_dial.services.scanned import CODE


def labels_of(job: Job) -> tuple[Label, ...]:
    """The labels of a job."""
    code, device = CODE.format(job.number), job.device.name or "Not described"
    trays = tuple(dict.fromkeys(step.tray for step in job.opening.steps if step.tray.strip()))
    more = job.device.serial or job.intake.owner
    return (Label(code, job.label, device, more), *(Label(code, job.label, f"Tray {tray}", device) for tray in trays))
