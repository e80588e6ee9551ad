-- Standing commissions: what changes in a section goes out for translation by itself, after a pause in which more may change.
CREATE TABLE standing_commission (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL UNIQUE, section INTEGER REFERENCES entry,
  state TEXT NOT NULL DEFAULT 'on' CHECK (state IN ('on', 'off', 'stopped')), trouble TEXT NOT NULL DEFAULT '',
  sends TEXT NOT NULL DEFAULT 'out' CHECK (sends IN ('out', 'draft')), pause INTEGER NOT NULL, days INTEGER NOT NULL DEFAULT 0,
  note TEXT NOT NULL DEFAULT '', linked INTEGER NOT NULL DEFAULT 1 CHECK (linked IN (0, 1)), fill INTEGER NOT NULL DEFAULT 1 CHECK (fill IN (0, 1)),
  returns TEXT NOT NULL DEFAULT 'draft' CHECK (returns IN ('draft', 'review')), memories TEXT NOT NULL DEFAULT '[]',
  glossaries TEXT NOT NULL DEFAULT '[]', actor INTEGER NOT NULL REFERENCES actor, since INTEGER NOT NULL
) STRICT;
CREATE TABLE standing_target (
  commission INTEGER NOT NULL REFERENCES standing_commission ON DELETE CASCADE, locale TEXT NOT NULL, bureau INTEGER REFERENCES bureau,
  person INTEGER REFERENCES actor, PRIMARY KEY (commission, locale)
) STRICT, WITHOUT ROWID;
CREATE TABLE standing_waiting (
  commission INTEGER NOT NULL REFERENCES standing_commission ON DELETE CASCADE, entry INTEGER NOT NULL REFERENCES entry,
  revision INTEGER NOT NULL REFERENCES revision, at INTEGER NOT NULL, waits INTEGER NOT NULL DEFAULT 1 CHECK (waits IN (0, 1)),
  PRIMARY KEY (commission, entry)
) STRICT, WITHOUT ROWID;
CREATE INDEX standing_waiting_now ON standing_waiting (commission, at) WHERE waits;
ALTER TABLE commission ADD COLUMN standing INTEGER REFERENCES standing_commission ON DELETE SET NULL;
CREATE INDEX commission_standing ON commission (standing) WHERE standing IS NOT NULL;
