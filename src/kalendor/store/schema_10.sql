-- Editions whose numbers moved and that were seen and left as they are, with a line on why: `says` is the SHA-256 of what their
-- report would have said then. Where it would say something else again, they have moved anew.
CREATE TABLE edition_left (
    edition_id INTEGER PRIMARY KEY REFERENCES edition (id),
    says TEXT NOT NULL,
    why TEXT NOT NULL,
    by TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;

-- What the report would say, by its SHA-256; empty for what was compared before this was noted.
ALTER TABLE edition_standing ADD COLUMN says TEXT NOT NULL DEFAULT '';
