"""Cells that were measured or brought in for any job of the workshop: at hand in every other one."""

from violet_dial.core.errors import VioletDialError
from violet_dial.job.document import Job
from violet_dial.job.power import OwnCell
from violet_dial.services.workshop import Workshop

OWN_CELL_WORDS = "own cell"  # how the Power station writes them for search
MOST_JOBS_READ = 40


def own_cells_of(workshop: Workshop, job: Job) -> tuple[OwnCell, ...]:
    """The cells of the bench's own in other jobs, by name, the newest first."""
    found: dict[str, OwnCell] = {}
    for card in workshop.cards(OWN_CELL_WORDS)[:MOST_JOBS_READ]:
        if card.job_id == job.job_id:
            continue
        try:
            other = workshop.read(card.job_id)
        except VioletDialError:
            continue  # one that cannot be read has nothing to give, and hides nothing else
        for cell in other.power.own_cells:
            found.setdefault(cell.name, cell)
    return tuple(found.values())
