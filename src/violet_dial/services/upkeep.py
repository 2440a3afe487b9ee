"""A workshop file looked over and, where it is hurt, saved: what is wrong said, everything readable brought to a new file."""

from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.errors import InvalidInput, StoreDamaged, StoreError, VioletDialError
from violet_dial.core.task import SilentTask, Task
from violet_dial.services.station import Station
from violet_dial.store.records import Card, Description
from violet_dial.store.salvage import Salvage, read_out, write_out
from violet_dial.store.workshop_file import WorkshopFile

MOST_SAID = 12


@dataclass(frozen=True)
class Examined:
    """What a workshop file holds that can be read, and what is hurt, each in a sentence; empty when it is sound."""

    jobs: int
    versions: int
    contents: int
    hurt: tuple[str, ...]


def examine(path: Path, task: Task | None = None) -> Examined:
    """Look a workshop file over: its pages, every version, every job as it stands, every photo. Nothing is changed.

    Raises InvalidInput: there is no such file, or it cannot be read; TaskCancelled.
    """
    found, task = _found(path), task or SilentTask()
    hurt: list[str] = []
    try:
        file = WorkshopFile(path, "looking")
        hurt.extend(file.faults())
        file.close()
    except StoreError as error:
        hurt.append(str(error))
    if found.lost_versions:
        hurt.append(f"{found.lost_versions} versions cannot be unpacked.")
    if found.lost_blobs:
        hurt.append(f"{found.lost_blobs} photos or files are not what was kept.")
    for job_id in found.job_ids:
        task.check()
        number = found.card(job_id, 0).number
        if job_id not in found.jobs:
            hurt.append(f"The card of a job of {found.versions[found.standing(job_id)[0]].kept_at} is lost.")
        why = _why_unreadable(found, job_id)
        if why:
            hurt.append(f"Job {number:04d} cannot be read as it stands: {why}")
    return Examined(len(found.job_ids), len(found.versions), len(found.blobs), tuple(hurt))


def _found(path: Path) -> Salvage:
    if not path.is_file():
        raise InvalidInput("Workshop", str(path), "a workshop file")
    try:
        return read_out(path)
    except (OSError, ValueError) as error:
        raise InvalidInput("Workshop", str(path), f"a workshop file that can be read ({error})") from error


def _why_unreadable(found: Salvage, job_id: str) -> str:
    from violet_dial.job.schema import job_from_json

    try:
        job_from_json(found.document(found.standing(job_id)[0]))
    except VioletDialError as error:
        return str(error)
    return ""


def salvage(path: Path, out: Path, stations: tuple[Station, ...]) -> Examined:
    """Everything that can be read in a hurt workshop file, into a new one; the hurt one is left as it is.

    Raises InvalidInput: there is no such file, nothing in it can be read, or ``out`` is taken; StoreError: the new file cannot
    be written.
    """
    from violet_dial.services.describing import card_and_description

    if out.exists():
        raise InvalidInput("Output", str(out), "a name that is not taken")
    found = _found(path)
    if not found.versions:
        raise StoreDamaged(f"Not one version of a job can be read in {path}. Bring back a backup.")

    def described(document: bytes, card: Card) -> tuple[Card, Description | None]:
        try:
            return card_and_description(document, card, stations)
        except VioletDialError:
            return card, None

    write_out(found, out, described=described)
    lost = (f"{found.lost_versions} versions are lost.",) if found.lost_versions else ()
    photos = (f"{found.lost_blobs} photos or files are lost.",) if found.lost_blobs else ()
    return Examined(len(found.job_ids), len(found.versions), len(found.blobs), (*lost, *photos))


def said(one: Examined) -> tuple[str, ...]:
    """What was found, in lines."""
    counts = f"{one.jobs} jobs, {one.versions} versions, {one.contents} photos or files can be read."
    more = (f"and {len(one.hurt) - MOST_SAID} more.",) if len(one.hurt) > MOST_SAID else ()
    return (counts, *(one.hurt[:MOST_SAID] or ("Nothing is hurt.",)), *more)
