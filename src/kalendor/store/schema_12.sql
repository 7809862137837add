-- The column of the source that holds the unit of each amount in a column, such as its currency; empty where it has none.
ALTER TABLE source_column ADD COLUMN unit TEXT NOT NULL DEFAULT '';
