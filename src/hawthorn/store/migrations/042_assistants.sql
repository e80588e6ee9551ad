-- Assistants that somebody paused: they are let in no more until somebody lets them go on.
CREATE TABLE pause (
    actor INTEGER PRIMARY KEY REFERENCES actor,
    at INTEGER NOT NULL,
    by INTEGER NOT NULL REFERENCES actor,
    reason TEXT NOT NULL
) STRICT;
-- Whether an assistant wrote anything of an edition is asked each time that one is shown: nothing is read for those that people wrote alone.
CREATE INDEX revision_by_assistant ON revision (edition) WHERE actor_kind = 'assistant';
