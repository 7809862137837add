-- How the file of an intake was read (a recipe, JSON), so that it is read again in the same way. For those from before this
-- was kept, how their source's files are read; NULL for corrected lines.
ALTER TABLE intake ADD COLUMN recipe TEXT;
UPDATE intake SET recipe = (SELECT recipe FROM source WHERE source.id = intake.source_id) WHERE mends IS NULL;
