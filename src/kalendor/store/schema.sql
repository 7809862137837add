-- The workspace, first version. Records of source N stand in the table records_N, one row a record. `made` holds the
-- source's made columns as JSON; a source that is a report's summary names the report.
CREATE TABLE workspace (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

CREATE TABLE source (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    recipe TEXT NOT NULL,
    made TEXT NOT NULL DEFAULT '[]',
    report_id INTEGER REFERENCES definition (id),
    report_key TEXT,
    revision INTEGER NOT NULL DEFAULT 0,
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE source_column (
    source_id INTEGER NOT NULL REFERENCES source (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    sql_name TEXT NOT NULL,
    kind TEXT NOT NULL,
    places INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (source_id, position)
) STRICT;

-- An intake is one file brought in. `undone_at` is set while it is undone; its rows stay. `mends` names the intake
-- whose refused lines it brings in mended.
CREATE TABLE intake (
    id INTEGER PRIMARY KEY,
    source_id INTEGER NOT NULL REFERENCES source (id) ON DELETE CASCADE,
    file_name TEXT NOT NULL,
    sha256 TEXT NOT NULL,
    size INTEGER NOT NULL,
    stored_as TEXT NOT NULL,
    brought_at TEXT NOT NULL,
    joined_by TEXT NOT NULL,
    records INTEGER NOT NULL,
    refused INTEGER NOT NULL,
    replaced INTEGER NOT NULL DEFAULT 0,
    first_day TEXT,
    last_day TEXT,
    undone_at TEXT,
    mends INTEGER REFERENCES intake (id)
) STRICT;

-- Rows that an intake replaced. A row counts while its own intake stands and none that replaced it does.
CREATE TABLE gone (
    source_id INTEGER NOT NULL REFERENCES source (id) ON DELETE CASCADE,
    row_id INTEGER NOT NULL,
    intake_id INTEGER NOT NULL REFERENCES intake (id) ON DELETE CASCADE,
    PRIMARY KEY (source_id, row_id, intake_id)
) STRICT, WITHOUT ROWID;

CREATE INDEX intake_of_source ON intake (source_id);

CREATE TABLE refused_line (
    intake_id INTEGER NOT NULL REFERENCES intake (id) ON DELETE CASCADE,
    line INTEGER NOT NULL,
    column_name TEXT NOT NULL,
    text TEXT NOT NULL,
    reason TEXT NOT NULL,
    cells TEXT NOT NULL,
    mended_by INTEGER REFERENCES intake (id)
) STRICT;

CREATE INDEX refused_of_intake ON refused_line (intake_id);

-- A report or grouping. `current` is the revision that stands; undo moves it back, redo forward.
CREATE TABLE definition (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL,
    name TEXT NOT NULL COLLATE NOCASE,
    current INTEGER NOT NULL,
    removed_at TEXT
) STRICT;

CREATE UNIQUE INDEX definition_by_name ON definition (kind, name) WHERE removed_at IS NULL;

-- `follows` is the revision that this one was made from; a revision is never changed or deleted.
CREATE TABLE definition_revision (
    definition_id INTEGER NOT NULL REFERENCES definition (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    follows INTEGER NOT NULL,
    body TEXT NOT NULL,
    saved_at TEXT NOT NULL,
    PRIMARY KEY (definition_id, revision)
) STRICT;
