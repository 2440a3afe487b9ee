"""Every job of a workshop read one after another, over a link of its own: for a worker beside the window."""

import time
from collections.abc import Iterator
from pathlib import Path

from violet_dial.core.errors import VioletDialError
from violet_dial.core.task import Task
from violet_dial.job.document import Job
from violet_dial.services.workshop import Workshop
from violet_dial.store.workshop_file import WorkshopFile

BREATH_S = 0.001  # between jobs, so that the window is never kept waiting


def every_job(path: Path, task: Task, most: int | None = None) -> Iterator[Job | None]:
    """The jobs of a workshop, newest first; None for one that cannot be read: why is said at the jobs screen.

    ``most``: jobs; without it all. Raises StoreError, TaskCancelled.
    """
    shop = Workshop(WorkshopFile(path, "looking"), lambda: ())
    try:
        cards = shop.cards()[:most]
        for place, card in enumerate(cards):
            task.report(place / len(cards), f"{place} of {len(cards)} jobs")
            task.check()
            try:
                job = shop.read(card.job_id)
            except VioletDialError:
                job = None
            yield job
            time.sleep(BREATH_S)
    finally:
        shop.close()
