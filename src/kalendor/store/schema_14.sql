-- The marks that each person has put on definitions, to find them by; `person` is empty where nobody signs in.
CREATE TABLE mark (
    definition_id INTEGER NOT NULL,
    person TEXT NOT NULL,
    name TEXT NOT NULL,
    PRIMARY KEY (definition_id, person, name)
) STRICT;
