-- A linked source is a folder of files that is read where it lies; its records table holds a specimen of the records. `headings`
-- and `facts` are JSON (see `intake.specimen.Facts`), the latter counted over all files that stand.
CREATE TABLE linked (
    source_id INTEGER PRIMARY KEY REFERENCES source (id) ON DELETE CASCADE,
    folder TEXT NOT NULL,
    pattern TEXT NOT NULL,
    headings TEXT NOT NULL,
    facts TEXT NOT NULL
) STRICT;

-- A file of a linked source, as a look at the folder (an intake) found it: it stands from the look `came` until before the look
-- `gone`. `parts` is JSON: the partitions in which it is read.
CREATE TABLE linked_file (
    id INTEGER PRIMARY KEY,
    source_id INTEGER NOT NULL REFERENCES source (id) ON DELETE CASCADE,
    path TEXT NOT NULL,
    size INTEGER NOT NULL,
    modified INTEGER NOT NULL,
    sha256 TEXT NOT NULL,
    records INTEGER NOT NULL,
    refused INTEGER NOT NULL,
    empty INTEGER NOT NULL,
    parts TEXT NOT NULL,
    came INTEGER NOT NULL REFERENCES intake (id) ON DELETE CASCADE,
    gone INTEGER REFERENCES intake (id)
) STRICT;

CREATE INDEX linked_file_of_source ON linked_file (source_id, path);
CREATE UNIQUE INDEX linked_file_standing ON linked_file (source_id, path) WHERE gone IS NULL;
