-- Entries that come in from tables and pages: how rows become them, what each is known by where it came from, and which revision held what came last.
ALTER TABLE exchange ADD COLUMN format TEXT NOT NULL DEFAULT 'package';
CREATE TABLE mapping (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, body TEXT NOT NULL, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL
) STRICT;
CREATE TABLE row_key (
  type TEXT NOT NULL, key TEXT NOT NULL, entry INTEGER NOT NULL REFERENCES entry ON DELETE CASCADE, PRIMARY KEY (type, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX row_key_of ON row_key (entry);
CREATE TABLE row_base (
  entry INTEGER NOT NULL REFERENCES entry ON DELETE CASCADE, locale TEXT NOT NULL, revision INTEGER NOT NULL REFERENCES revision ON DELETE CASCADE,
  PRIMARY KEY (entry, locale)
) STRICT, WITHOUT ROWID;
CREATE INDEX row_base_of ON row_base (revision);
