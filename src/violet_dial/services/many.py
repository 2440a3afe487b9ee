"""Many jobs at once, for a worker: all of them out as bundles, bundles in, and old notes from text, pictures or a table."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import get_args

from violet_dial.core.errors import InvalidInput, StoreError, VioletDialError
from violet_dial.core.receiving.places import DeviceKind
from violet_dial.core.task import Task
from violet_dial.job.act import ActResult
from violet_dial.job.csv_text import Cells, Names, decoded, table_of
from violet_dial.job.document import CellKind, Device, Intake, Job
from violet_dial.services.files import read_file, write_file
from violet_dial.services.photos import MOST_BYTES as MOST_PHOTO_BYTES
from violet_dial.services.photos import CheckedPhoto, check_photo
from violet_dial.services.places import is_practice
from violet_dial.services.station import Station, exercises_of
from violet_dial.services.workshop import Workshop
from violet_dial.store.records import DELETED
from violet_dial.store.workshop_file import WorkshopFile

BUNDLES, NOTES, PICTURES = (".zip",), (".txt", ".md"), (".jpg", ".jpeg", ".png", ".webp")
TABLES, EXERCISES = (".csv",), (".json",)
MOST_NOTE_BYTES, MOST_TABLE_BYTES = 1_000_000, 5_000_000
MOST_FILES, MOST_PICTURES = 20_000, 200
LONGEST_LINE, LONGEST_TEXT = 300, 20_000
JOB_COLUMNS = Names(
    required=("device",),
    optional=("maker", "serial", "kind", "cell", "fault", "owner", "came in", "came with", "notes", "tried", "waits for"),
    others={
        "name": "device", "model": "device", "serial number": "serial", "no": "serial", "headline": "fault", "problem": "fault",
        "complaint": "fault", "customer": "owner", "date": "came in", "received": "came in", "received on": "came in",
        "noticed": "notes", "note": "notes", "remarks": "notes", "tried already": "tried",
    },
)  # fmt: skip


@dataclass(frozen=True)
class Moved:
    """How many jobs were written or taken, and in a sentence each why others were not; ``last`` the identity of the job
    taken last."""

    count: int
    refused: tuple[str, ...]
    last: str = ""


@dataclass(frozen=True)
class OldJob:
    """An old job as notes tell it; ``where`` it was found."""

    where: str
    device: Device
    intake: Intake
    waits_for: str = ""
    photos: tuple[CheckedPhoto, ...] = ()


def all_out(workshop: Path, folder: Path, stations: tuple[Station, ...], task: Task) -> Moved:
    """Every job but those deleted as a bundle of its own in a folder; what stands there under these names is replaced.

    Raises StoreError, InvalidInput: the workshop cannot be read, or the folder not be written; TaskCancelled.
    """
    shop = Workshop(WorkshopFile(workshop, "looking"), lambda: stations)
    refused: list[str] = []
    count = 0
    try:
        cards = [card for card in shop.cards() if card.shelf != DELETED]
        for place, card in enumerate(cards):
            task.check()
            task.report(place / len(cards), f"job {card.number:04d}")
            try:
                content = shop.export_bundle(card.job_id)
            except VioletDialError as error:
                refused.append(f"Job {card.number:04d}: {error}")
                continue
            words = re.sub(r"[^\w]+", "-", card.title)[:60].strip("-")
            write_file(folder / f"job-{card.number:04d}-{words}.zip", content)
            count += 1
    finally:
        shop.close()
    return Moved(count, tuple(refused))


def all_in(workshop: Path, sources: tuple[Path, ...], stations: tuple[Station, ...], task: Task) -> Moved:
    """Jobs from bundles, tables of jobs, notes and folders of these; each is kept by itself, or refused with its reason.

    Raises StoreError: the workshop cannot be written; TaskCancelled: what was taken until then is kept.
    """
    shop = Workshop(WorkshopFile(workshop, "beside"), lambda: stations)
    refused: list[str] = []
    taken: list[str] = []
    try:
        found = tuple(_found(sources))
        for place, path in enumerate(found):
            task.check()
            task.report(place / len(found), path.name)
            try:
                taken += _taken(shop, path, refused, task)
            except (InvalidInput, StoreError) as error:
                refused.append(f"{path.name}: {error}")
        shop.describe_pending(task)
    finally:
        shop.close()
    return Moved(len(taken), tuple(refused), taken[-1] if taken else "")


def _found(sources: Iterable[Path]) -> Iterator[Path]:
    """Files that may hold jobs, in the order of their names; of a folder those in it, and each folder in it as a job."""
    for source in sources:
        if not source.is_dir():
            yield source
            continue
        inside = sorted(source.iterdir())[:MOST_FILES]
        yield from (one for one in inside if one.is_dir() or one.suffix.lower() in (*BUNDLES, *TABLES, *NOTES, *EXERCISES))


def _taken(shop: Workshop, path: Path, refused: list[str], task: Task) -> tuple[str, ...]:
    """Identities of the jobs taken from one file or folder."""
    kind = path.suffix.lower()
    if kind in EXERCISES or (is_practice(shop.path) and kind not in BUNDLES):
        return _exercises(shop, path, task)
    if kind in BUNDLES:
        return (shop.import_bundle(read_file(path)).job.job_id,)
    if kind in TABLES:
        return _from_table(shop, path, refused, task)
    return (keep(shop, old_job(path, refused)),)


def _exercises(shop: Workshop, path: Path, task: Task) -> tuple[str, ...]:
    """Identities of the exercises taken from a file, in their order."""
    exercises = exercises_of(shop.stations)
    if exercises is None or not is_practice(shop.path):
        raise InvalidInput("Exercise", path.name, "the practice workshop (Ctrl+Shift+P): exercises never lie among jobs")
    taken = []
    for act in exercises.acts_in(read_file(path, exercises.most_bytes)):
        task.check()
        with shop.beginning() as job_id:
            shop.perform(job_id, act)
        taken.append(job_id)
    return tuple(taken)


def _from_table(shop: Workshop, path: Path, refused: list[str], task: Task) -> tuple[str, ...]:
    table = table_of(read_file(path, MOST_TABLE_BYTES), "Table of jobs", JOB_COLUMNS)
    offered = table.offer(lambda cell: _from_row(path.name, cell))
    refused.extend(f"{path.name}, line {row.line}: {row.reason}" for row in offered.rejected)
    taken = []
    for one in offered.found:
        task.check()
        taken.append(keep(shop, one))
    return tuple(taken)


def _from_row(where: str, cell: Cells) -> OldJob:
    name = cell("device")
    if not name:
        raise InvalidInput("device", "nothing", "the name of a device")
    kind, cells = cell("kind") or "hand meter", cell("cell") or "not known"
    device = Device(
        name[:LONGEST_LINE],
        cell("maker")[:LONGEST_LINE],
        cell("serial")[:LONGEST_LINE],
        _one_of("kind", kind, get_args(DeviceKind)),  # type: ignore[arg-type]
        _one_of("cell", cells, get_args(CellKind)),  # type: ignore[arg-type]
    )
    intake = Intake(
        headline_fault=cell("fault")[:LONGEST_LINE],
        owner=cell("owner")[:LONGEST_LINE],
        received_on=cell("came in")[:LONGEST_LINE],
        came_with=cell("came with"),
        noticed=cell("notes"),
        tried_already=cell("tried"),
    )
    return OldJob(where, device, intake, cell("waits for")[:LONGEST_LINE])


def _one_of(column: str, typed: str, known: tuple[str, ...]) -> str:
    found = next((one for one in known if one.lower() == typed.lower()), None)
    if found is None:
        raise InvalidInput(column, typed, f"one of: {', '.join(known)}")
    return found


def old_job(path: Path, refused: list[str]) -> OldJob:
    """A job from notes: a text file with the pictures of its name beside it, or a folder of texts and pictures.

    Raises InvalidInput: nothing in it can be used.
    """
    around = sorted(path.iterdir())[:MOST_FILES] if path.is_dir() else sorted(path.parent.glob(f"{_plain(path.stem)}*"))
    texts = [one for one in around if one.suffix.lower() in NOTES] if path.is_dir() else [path]
    pictures = [one for one in around if one.suffix.lower() in PICTURES]
    if not texts and not pictures:
        raise InvalidInput("Notes", path.name, "texts (.txt, .md) or pictures (JPEG, PNG, WebP) in the folder")
    said = "\n\n".join(decoded(read_file(text, MOST_NOTE_BYTES), "Notes").strip() for text in texts)
    if len(said) > LONGEST_TEXT:
        raise InvalidInput("Notes", f"{path.name}, {len(said)} characters", f"at most {LONGEST_TEXT}")
    photos = []
    for picture in pictures[:MOST_PICTURES]:
        try:
            photos.append(check_photo(read_file(picture, MOST_PHOTO_BYTES), picture.name))
        except InvalidInput as error:
            refused.append(f"{picture.name}: {error}")
    return OldJob(path.name, Device(name=path.stem[:LONGEST_LINE]), Intake(noticed=said), photos=tuple(photos))


def _plain(stem: str) -> str:
    """A name in which no letter stands for others."""
    return re.sub(r"([*?\[])", r"[\1]", stem)


def keep(shop: Workshop, old: OldJob) -> str:
    """An old job as a new one of the workshop, at once or not at all; gives its identity."""

    def told(job: Job, at: str) -> ActResult:
        told = replace(job, device=old.device, intake=old.intake, waits_for=old.waits_for)
        return ActResult(told, "Receive", f"Taken from {old.where}"[:LONGEST_LINE])

    with shop.beginning() as job_id:
        shop.perform(job_id, told)
        for photo in old.photos:
            shop.attach_photo(job_id, photo)
    return job_id
