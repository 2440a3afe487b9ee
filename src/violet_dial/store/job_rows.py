"""Rows of jobs and versions, within a transaction that is open."""

import sqlite3

from violet_dial.core.errors import RecordMissing, StoreError
from violet_dial.store import packed
from violet_dial.store.records import Card, Description, NewVersion
from violet_dial.store.salvage import Version


def add(db: sqlite3.Connection, new: NewVersion) -> None:
    card = new.card
    taken = db.execute("SELECT 1 FROM job WHERE job_id = ?", (card.job_id,)).fetchone()
    if taken:
        raise StoreError(f"Job {card.number:04d} is already in this workshop.")
    version_id = insert_version(db, new, None, (packed.packed(new.document), None))
    insert_job(db, card, (version_id, version_id))


def insert_job(db: sqlite3.Connection, card: Card, stands: tuple[int, int]) -> None:
    """A job's row; ``stands`` is the version on the bench and the newest of its line."""
    db.execute(
        "INSERT INTO job (job_id, number, current_id, top_id, title, headline, waits_for, finding, kept_at, shelf, shelved_at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            card.job_id, card.number, *stands, card.title, card.headline, card.waits_for, card.finding, card.kept_at,
            card.shelf, card.shelved_at,
        ),
    )  # fmt: skip


def version_row(one: Version) -> tuple[object, ...]:
    return one.version_id, one.job_id, one.kept_at, one.station, one.reason, one.document, one.base_id


def insert_version(db: sqlite3.Connection, new: NewVersion, parent: int | None, kept: tuple[bytes, int | None]) -> int:
    cursor = db.execute(
        "INSERT INTO version (job_id, parent_id, kept_at, station, reason, document, base_id) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (new.card.job_id, parent, new.card.kept_at, new.station, new.reason, *kept),
    )
    return int(cursor.lastrowid or 0)


def point(db: sqlite3.Connection, row: int, version_id: int, card: Card) -> None:
    db.execute(
        "UPDATE job SET current_id = ?, title = ?, headline = ?, kept_at = ? WHERE row = ?",
        (version_id, card.title, card.headline, card.kept_at, row),
    )


def describe(db: sqlite3.Connection, job_id: str, version_id: int, told: Description) -> bool:
    row, current = row_and_current(db, job_id)
    if current != version_id:
        return False
    db.execute(
        "UPDATE job SET waits_for = ?, finding = ?, described_id = ? WHERE row = ?",
        (told.waits_for, told.finding, version_id, row),
    )
    held = db.execute("SELECT body FROM words WHERE rowid = ?", (row,)).fetchone()
    if held is None or held[0] != told.words:
        db.execute("INSERT OR REPLACE INTO words (rowid, body) VALUES (?, ?)", (row, told.words))
    return True


def row_and_current(db: sqlite3.Connection, job_id: str) -> tuple[int, int]:
    found = db.execute("SELECT row, current_id FROM job WHERE job_id = ?", (job_id,)).fetchone()
    if found is None:
        raise RecordMissing(f"There is no job {job_id} in this workshop.")
    return int(found[0]), int(found[1])
