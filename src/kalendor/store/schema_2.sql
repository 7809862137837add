-- Ids that were given out, so that none is ever given again: what was remembered of a source or definition that is gone
-- can never be taken for another's. `report_digest` is the SHA-256 of the table that a summary was last brought in from.
-- `percent` is 1 for columns that are best read as percentages.
CREATE TABLE last_id (
    kind TEXT PRIMARY KEY,
    id INTEGER NOT NULL
) STRICT;

INSERT INTO last_id VALUES
    ('source', (SELECT max(coalesce((SELECT max(id) FROM source), 0), coalesce((SELECT max(source_id) FROM intake), 0)))),
    ('definition', (SELECT coalesce(max(id), 0) FROM definition)),
    ('intake', (SELECT coalesce(max(id), 0) FROM intake));

ALTER TABLE source ADD COLUMN report_digest TEXT;
ALTER TABLE source_column ADD COLUMN percent INTEGER NOT NULL DEFAULT 0;
