-- The query that feeds a source, as JSON, since when it is so; when it was last asked, whether what it then gave is `in`, `same` (as
-- what stands), `held` for a person, or `failed`, and why. The address of the database is in the server's environment alone.
CREATE TABLE fetching (
    source_id INTEGER PRIMARY KEY,
    body TEXT NOT NULL,
    since TEXT NOT NULL,
    asked_at TEXT,
    outcome TEXT NOT NULL DEFAULT '',
    reason TEXT NOT NULL DEFAULT ''
) STRICT;
