-- An edition: a report's sheet for one period as it was issued, with all that it rests on. `document` is the whole of it as
-- JSON, deflated; `sha256` is that of the JSON, which names the SHA-256 of the edition before it in the workspace. The other
-- columns say again what the document says, to list editions by. `says` is the SHA-256 of the sheet's labels and numbers,
-- `rests` a key of what the sheet was worked out from. Ids follow on each other without a gap.
CREATE TABLE edition (
    id INTEGER PRIMARY KEY,
    report_id INTEGER NOT NULL REFERENCES definition (id),
    calendar TEXT NOT NULL,
    every TEXT NOT NULL,
    first_day TEXT NOT NULL,
    last_day TEXT NOT NULL,
    label TEXT NOT NULL,
    sign TEXT NOT NULL,
    number INTEGER NOT NULL,
    title TEXT NOT NULL,
    issued_at TEXT NOT NULL,
    issued_by TEXT NOT NULL,
    says TEXT NOT NULL,
    rests TEXT NOT NULL,
    before TEXT NOT NULL,
    sha256 TEXT NOT NULL UNIQUE,
    document BLOB NOT NULL,
    UNIQUE (report_id, first_day, last_day, number)
) STRICT;

CREATE TRIGGER edition_never_changes BEFORE UPDATE ON edition
BEGIN SELECT RAISE(ABORT, 'an edition never changes'); END;

CREATE TRIGGER edition_never_goes BEFORE DELETE ON edition
BEGIN SELECT RAISE(ABORT, 'an edition is never deleted'); END;

INSERT INTO last_id VALUES ('edition', 0), ('link', 0), ('sending', 0);

-- Whether an edition's report gives other numbers by now: `rests` is the key of what it was last compared on. It can be
-- worked out again at any time.
CREATE TABLE edition_standing (
    edition_id INTEGER PRIMARY KEY REFERENCES edition (id),
    rests TEXT NOT NULL,
    moved INTEGER NOT NULL,
    why TEXT NOT NULL DEFAULT ''
) STRICT;

-- Sources on which editions rest, whose records must stay.
CREATE TABLE edition_source (
    edition_id INTEGER NOT NULL REFERENCES edition (id),
    source_id INTEGER NOT NULL,
    PRIMARY KEY (edition_id, source_id)
) STRICT, WITHOUT ROWID;

-- Links under which an edition, or (edition_id NULL) all of a report's, can be read by others. `token` is the SHA-256 of
-- the secret in the link. `trail`: none, words or records.
CREATE TABLE link (
    id INTEGER PRIMARY KEY,
    token TEXT NOT NULL UNIQUE,
    report_id INTEGER NOT NULL REFERENCES definition (id),
    edition_id INTEGER REFERENCES edition (id),
    trail TEXT NOT NULL,
    made_at TEXT NOT NULL,
    ends_on TEXT,
    withdrawn_at TEXT
) STRICT;

-- Editions on their way to a receiver: state is waiting, sent or failed.
CREATE TABLE sending (
    id INTEGER PRIMARY KEY,
    edition_id INTEGER NOT NULL REFERENCES edition (id),
    address TEXT NOT NULL,
    member TEXT NOT NULL,
    how TEXT NOT NULL,
    state TEXT NOT NULL,
    tries INTEGER NOT NULL DEFAULT 0,
    next_at TEXT NOT NULL,
    told TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL,
    done_at TEXT
) STRICT;

CREATE INDEX sending_of_edition ON sending (edition_id);

-- What schedules did, the latest last.
CREATE TABLE schedule_log (
    id INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    report_id INTEGER NOT NULL REFERENCES definition (id),
    label TEXT NOT NULL,
    last_day TEXT NOT NULL,
    outcome TEXT NOT NULL,
    reason TEXT NOT NULL
) STRICT;

-- Who brought a file in, and who made a revision; empty for what was done before it was noted.
ALTER TABLE intake ADD COLUMN brought_by TEXT NOT NULL DEFAULT '';
ALTER TABLE definition_revision ADD COLUMN saved_by TEXT NOT NULL DEFAULT '';
