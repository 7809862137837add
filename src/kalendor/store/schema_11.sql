-- Editions to be that were prepared by one account and approved by another, for reports that ask for four eyes: `of` names what
-- was prepared, and where it is something else by now, both are asked for again.
CREATE TABLE approval (
    report_id INTEGER NOT NULL,
    first_day TEXT NOT NULL,
    last_day TEXT NOT NULL,
    of TEXT NOT NULL,
    prepared_by TEXT NOT NULL,
    prepared_at TEXT NOT NULL,
    approved_by TEXT,
    approved_at TEXT,
    PRIMARY KEY (report_id, first_day, last_day)
) STRICT, WITHOUT ROWID;
