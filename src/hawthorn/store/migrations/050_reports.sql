-- The week's report by mail: who gets it, on which day of the week (0 is Monday), at the hour of their digest, and when they had the last.
CREATE TABLE report (
    actor INTEGER PRIMARY KEY REFERENCES actor,
    day INTEGER NOT NULL CHECK (day BETWEEN 0 AND 6),
    sent_at INTEGER NOT NULL
) STRICT;
