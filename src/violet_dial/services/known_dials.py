"""Dials that were set up before a camera in other jobs: at hand for the same model."""

from violet_dial.core.errors import VioletDialError
from violet_dial.job.document import Job
from violet_dial.job.light import DialSetUp
from violet_dial.services.workshop import Workshop

MOST_JOBS_READ = 20


def known_dial(workshop: Workshop, job: Job) -> DialSetUp:
    """The dial of the same model as it was set up last in another job; without marks where there is none."""
    name = job.device.name.strip()
    if not name:
        return DialSetUp()
    for card in workshop.cards(name)[:MOST_JOBS_READ]:
        if card.job_id == job.job_id:
            continue
        try:
            other = workshop.read(card.job_id)
        except VioletDialError:
            continue  # one that cannot be read has nothing to give
        if other.device.name.strip().lower() == name.lower() and other.light.dial.marks:
            return other.light.dial
    return DialSetUp()
