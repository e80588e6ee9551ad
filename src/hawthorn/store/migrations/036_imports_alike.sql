-- An import into a glossary says how far it is, as one into a memory does.
ALTER TABLE glossary_import ADD COLUMN state TEXT NOT NULL DEFAULT 'done'
  CHECK (state IN ('running', 'done', 'failed', 'undone'));
ALTER TABLE glossary_import ADD COLUMN read INTEGER NOT NULL DEFAULT 0;
ALTER TABLE glossary_import ADD COLUMN known INTEGER NOT NULL DEFAULT 0;
ALTER TABLE glossary_import ADD COLUMN refused INTEGER NOT NULL DEFAULT 0;
ALTER TABLE glossary_import ADD COLUMN problems TEXT NOT NULL DEFAULT '[]';
ALTER TABLE glossary_import ADD COLUMN changed_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE glossary_import ADD COLUMN ended_at INTEGER;
UPDATE glossary_import SET state = iif(undone_at IS NULL, 'done', 'undone'), read = added, changed_at = at,
  ended_at = coalesce(undone_at, at);
ALTER TABLE glossary_import DROP COLUMN undone_at;
