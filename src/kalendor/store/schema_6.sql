-- Lines of a file with nothing but separators, which are no records; and for each column that a file brought, by its name
-- in the records table, its kind, its places and the digest of its values (JSON), so that a changed value is found.
ALTER TABLE intake ADD COLUMN empty_lines INTEGER NOT NULL DEFAULT 0;
ALTER TABLE intake ADD COLUMN digests TEXT;
