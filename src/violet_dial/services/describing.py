"""Jobs read and described beside the window's work: over a link of their own, for a worker."""

from __future__ import annotations

import time
from pathlib import Path
from typing import TYPE_CHECKING

from violet_dial.services.workshop import Workshop, card_of
from violet_dial.store.records import Card, Description
from violet_dial.store.workshop_file import WorkshopFile

if TYPE_CHECKING:
    from violet_dial.core.task import Task
    from violet_dial.services.station import Station

BREATH_S = 0.002  # between jobs, so that the window is never kept waiting


def unreadable_jobs(path: Path, task: Task) -> dict[str, str]:
    """Why, for each job of a workshop that cannot be read as it stands; over a link of its own, for a worker.

    Raises StoreError, TaskCancelled.
    """
    found: dict[str, str] = {}
    shop = Workshop(WorkshopFile(path, "looking"), lambda: ())
    try:
        for card in shop.cards():
            task.check()
            why = shop.trouble(card.job_id)
            if why:
                found[card.job_id] = why
            time.sleep(BREATH_S)
    finally:
        shop.close()
    return found


def card_and_description(document: bytes, card: Card, stations: tuple[Station, ...]) -> tuple[Card, Description]:
    """A job's card, and what is said of it, made anew from its document. Raises InvalidInput: the document cannot be read."""
    from violet_dial.job.schema import job_from_json
    from violet_dial.services.appraisal import appraise

    job = job_from_json(document)
    return card_of(job, card.kept_at, card), appraise(job, 0, stations).told


def describe_pending(path: Path, stations: tuple[Station, ...], task: Task) -> int:
    """Describe every job whose card is of another version, over a link of its own, for a worker; gives how many.

    Raises StoreError, TaskCancelled.
    """
    shop = Workshop(WorkshopFile(path, "beside"), lambda: stations)
    try:
        return shop.describe_pending(task)
    finally:
        shop.close()
