-- Assistants that somebody paused: they are let in no more until somebody lets them go on.
CREATE TABLE pause (
    actor INTEGER PRIMARY KEY REFERENCES actor,
    at INTEGER NOT NULL,
    by INTEGER NOT NULL REFERENCES actor,
    reason TEXT NOT NULL
) STRICT;
