-- Where an intake came from: a file, a file that a program pushed, or lines entered by hand for a `reason`. `reverses` is the
-- intake by hand whose amounts one takes back in the next month.
ALTER TABLE intake ADD COLUMN origin TEXT NOT NULL DEFAULT 'file';
ALTER TABLE intake ADD COLUMN reason TEXT NOT NULL DEFAULT '';
ALTER TABLE intake ADD COLUMN reverses INTEGER;
