-- `archived_at` is set for reports that are put away from the list. `made_along` says which revision of a grouping a
-- revision of a report was made along with, so that both are undone and redone together; `before` is 0 where the grouping
-- was made new.
ALTER TABLE definition ADD COLUMN archived_at TEXT;

CREATE TABLE made_along (
    definition_id INTEGER NOT NULL REFERENCES definition (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    other_id INTEGER NOT NULL REFERENCES definition (id) ON DELETE CASCADE,
    before INTEGER NOT NULL,
    after INTEGER NOT NULL,
    PRIMARY KEY (definition_id, revision, other_id)
) STRICT;
