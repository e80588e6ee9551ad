-- Translation memories: sentences with their translations, kept once for every source, and found by what is rare in them.

CREATE TABLE memory (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL UNIQUE, note TEXT NOT NULL DEFAULT '',
  section INTEGER REFERENCES entry, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL
) STRICT;
CREATE TABLE memory_import (
  id INTEGER PRIMARY KEY, memory INTEGER NOT NULL REFERENCES memory, name TEXT NOT NULL, state TEXT NOT NULL
    CHECK (state IN ('running', 'done', 'failed', 'undone')),
  read INTEGER NOT NULL DEFAULT 0, added INTEGER NOT NULL DEFAULT 0, known INTEGER NOT NULL DEFAULT 0,
  refused INTEGER NOT NULL DEFAULT 0, problems TEXT NOT NULL DEFAULT '[]',
  actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, changed_at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE INDEX memory_import_of ON memory_import (memory);
CREATE TABLE memory_source (
  id INTEGER PRIMARY KEY AUTOINCREMENT, locale TEXT NOT NULL, hash TEXT NOT NULL, text TEXT NOT NULL
) STRICT;
CREATE INDEX memory_source_by_hash ON memory_source (hash, locale);
CREATE TABLE memory_unit (
  id INTEGER PRIMARY KEY, memory INTEGER NOT NULL REFERENCES memory, source INTEGER NOT NULL REFERENCES memory_source,
  locale TEXT NOT NULL, text TEXT NOT NULL, context TEXT NOT NULL DEFAULT '', origin TEXT NOT NULL
    CHECK (origin IN ('accepted', 'imported', 'edited')),
  batch INTEGER REFERENCES memory_import, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL
) STRICT;
CREATE UNIQUE INDEX memory_unit_once ON memory_unit (source, locale, memory, text);
CREATE INDEX memory_unit_of ON memory_unit (memory, id);
CREATE INDEX memory_unit_of_batch ON memory_unit (batch) WHERE batch IS NOT NULL;
CREATE VIRTUAL TABLE memory_marks USING fts5 (marks, content = '', detail = none, columnsize = 0, tokenize = 'ascii');
