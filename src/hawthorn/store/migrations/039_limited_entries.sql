-- Who may read what is out: everybody, only those of some audiences (hidden), or whoever knows its phrase too (locked).
ALTER TABLE entry ADD COLUMN limited TEXT NOT NULL DEFAULT '';
CREATE INDEX entry_limited ON entry (limited) WHERE limited <> '';
CREATE TABLE entry_audience (
    entry INTEGER NOT NULL REFERENCES entry,
    audience TEXT NOT NULL,
    PRIMARY KEY (entry, audience)
) STRICT, WITHOUT ROWID;
-- The phrase of a locked entry, hashed; its number is another with each new one.
CREATE TABLE entry_phrase (
    entry INTEGER PRIMARY KEY REFERENCES entry,
    hash TEXT NOT NULL,
    number INTEGER NOT NULL
) STRICT;
-- The audiences that a key reads for, and how many reads it may make in a minute.
ALTER TABLE access_key ADD COLUMN audiences TEXT NOT NULL DEFAULT '[]';
ALTER TABLE access_key ADD COLUMN a_minute INTEGER;
-- What changed since somebody last looked.
CREATE INDEX change_by_seq ON change (seq);
