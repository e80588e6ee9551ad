-- Glossaries: concepts with what each is called in which language.

CREATE TABLE glossary (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL UNIQUE, note TEXT NOT NULL DEFAULT '',
  section INTEGER REFERENCES entry, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, version INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE TABLE glossary_import (
  id INTEGER PRIMARY KEY, glossary INTEGER NOT NULL REFERENCES glossary ON DELETE CASCADE, name TEXT NOT NULL,
  actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, added INTEGER NOT NULL, undone_at INTEGER
) STRICT;
CREATE TABLE concept (
  id INTEGER PRIMARY KEY, glossary INTEGER NOT NULL REFERENCES glossary ON DELETE CASCADE, note TEXT NOT NULL DEFAULT '',
  brought_by INTEGER REFERENCES glossary_import ON DELETE SET NULL, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL
) STRICT;
CREATE INDEX concept_of ON concept (glossary, id);
CREATE INDEX concept_brought ON concept (brought_by) WHERE brought_by IS NOT NULL;
CREATE TABLE term (
  concept INTEGER NOT NULL REFERENCES concept ON DELETE CASCADE, ord INTEGER NOT NULL, locale TEXT NOT NULL, text TEXT NOT NULL,
  folded TEXT NOT NULL, status TEXT NOT NULL CHECK (status IN ('preferred', 'admitted', 'deprecated')),
  PRIMARY KEY (concept, ord)
) STRICT, WITHOUT ROWID;
CREATE INDEX term_by_words ON term (folded, concept);
ALTER TABLE commission ADD COLUMN glossaries TEXT NOT NULL DEFAULT '[]';
