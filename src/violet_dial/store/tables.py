"""Tables of the workshop file and how older files are brought up to date."""

SCHEMA_VERSION = 4
SHORTEST_BYTES = 512  # of an SQLite file
APPLICATION_ID = 0x56444C31  # marks an SQLite file as a workshop file

CREATE = """
CREATE TABLE version (
    version_id INTEGER PRIMARY KEY,
    job_id TEXT NOT NULL,
    parent_id INTEGER REFERENCES version(version_id),
    kept_at TEXT NOT NULL,
    station TEXT NOT NULL,
    reason TEXT NOT NULL,
    document BLOB NOT NULL,
    base_id INTEGER REFERENCES version(version_id)
);
CREATE INDEX version_of_job ON version(job_id, version_id);
CREATE INDEX leaning_on ON version(base_id) WHERE base_id IS NOT NULL;
CREATE TABLE job (
    row INTEGER PRIMARY KEY,
    job_id TEXT NOT NULL UNIQUE,
    number INTEGER NOT NULL,
    current_id INTEGER NOT NULL REFERENCES version(version_id),
    top_id INTEGER NOT NULL REFERENCES version(version_id),
    title TEXT NOT NULL,
    headline TEXT NOT NULL,
    waits_for TEXT NOT NULL,
    finding TEXT NOT NULL,
    kept_at TEXT NOT NULL,
    shelf TEXT NOT NULL DEFAULT '',
    shelved_at TEXT NOT NULL DEFAULT '',
    described_id INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE blob (
    sha256 TEXT PRIMARY KEY,
    media_type TEXT NOT NULL,
    content BLOB NOT NULL
);
CREATE VIRTUAL TABLE words USING fts5(body, tokenize = 'unicode61 remove_diacritics 2');
"""

# From version n to n + 1: one script each. Version 1 is the first.
MIGRATIONS: dict[int, str] = {
    # Photos are not all that is kept by content; a version may be kept as what changed since a whole one (base_id).
    1: """
ALTER TABLE photo RENAME TO blob;
ALTER TABLE version ADD COLUMN base_id INTEGER REFERENCES version(version_id);
CREATE INDEX leaning_on ON version(base_id) WHERE base_id IS NOT NULL;
""",
    # A job stands on the bench (empty), or was collected, put away or deleted.
    2: """
ALTER TABLE job ADD COLUMN shelf TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN shelved_at TEXT NOT NULL DEFAULT '';
""",
    # What a job waits for, its finding and its words are worked out after the version was kept: of which one they are.
    3: """
ALTER TABLE job ADD COLUMN described_id INTEGER NOT NULL DEFAULT 0;
UPDATE job SET described_id = current_id;
""",
}
