-- What goes out of a house as a package, and comes in from one: how far it is, what it found, and what it brought.
CREATE TABLE exchange (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, way TEXT NOT NULL CHECK (way IN ('out', 'in')), name TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('looking', 'looked', 'running', 'done', 'failed', 'cancelled', 'undoing', 'undone')),
  asked TEXT NOT NULL, step TEXT NOT NULL DEFAULT '', done INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL DEFAULT 0,
  report TEXT NOT NULL DEFAULT '{}', trouble TEXT NOT NULL DEFAULT '', bytes INTEGER NOT NULL DEFAULT 0,
  actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, changed_at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE INDEX exchange_at_work ON exchange (id) WHERE state IN ('looking', 'running', 'undoing');
CREATE TABLE exchange_entry (
  exchange INTEGER NOT NULL REFERENCES exchange ON DELETE CASCADE, entry INTEGER NOT NULL REFERENCES entry ON DELETE CASCADE,
  how TEXT NOT NULL CHECK (how IN ('added', 'merged', 'beside')), settled INTEGER NOT NULL DEFAULT 0, note TEXT NOT NULL DEFAULT '',
  did TEXT NOT NULL DEFAULT '[]',
  PRIMARY KEY (exchange, entry)
) STRICT, WITHOUT ROWID;
CREATE INDEX exchange_entry_unsettled ON exchange_entry (exchange, entry) WHERE how = 'added' AND settled = 0;
CREATE INDEX exchange_entry_of ON exchange_entry (entry);
