-- Who may come in. Of passwords only their Argon2 hash is kept, of sessions and tokens only the SHA-256 of their secret.
CREATE TABLE account (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    role TEXT NOT NULL CHECK (role IN ('analyst', 'reader')),
    password TEXT NOT NULL,
    made_at TEXT NOT NULL,
    closed_at TEXT
) STRICT;
CREATE UNIQUE INDEX account_name ON account (lower(name)) WHERE closed_at IS NULL;

CREATE TABLE session (
    secret TEXT PRIMARY KEY,
    account_id INTEGER NOT NULL REFERENCES account (id),
    began_at TEXT NOT NULL,
    seen_at TEXT NOT NULL
) STRICT;

-- For machines that fetch what is issued: they read and change nothing.
CREATE TABLE machine_token (
    id INTEGER PRIMARY KEY,
    secret TEXT NOT NULL UNIQUE,
    account_id INTEGER NOT NULL REFERENCES account (id),
    name TEXT NOT NULL,
    made_at TEXT NOT NULL,
    ends_on TEXT,
    withdrawn_at TEXT
) STRICT;

INSERT INTO last_id (kind, id) VALUES ('account', 0), ('machine_token', 0);
