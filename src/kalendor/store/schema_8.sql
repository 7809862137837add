-- A token with a source brings files in to that source, and does nothing else. What became of each file that a program sent
-- with an idempotency key, so that the same key does nothing twice.
ALTER TABLE machine_token ADD COLUMN source_id INTEGER;

CREATE TABLE pushed (
    source_id INTEGER NOT NULL REFERENCES source (id) ON DELETE CASCADE,
    key TEXT NOT NULL,
    sha256 TEXT NOT NULL,
    answer TEXT NOT NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (source_id, key)
) STRICT, WITHOUT ROWID;
