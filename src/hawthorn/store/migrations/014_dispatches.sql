-- Dispatches that are put together over days (open, without a time yet), that failed, and that were undone; who answers for
-- each, and whether what cannot go holds back the rest. Moves that bring whatever is approved by then (`follows`), and those that
-- go along with one that was asked for (`along`).
ALTER TABLE dispatch ADD COLUMN owner INTEGER REFERENCES actor;
UPDATE dispatch SET owner = actor;
ALTER TABLE dispatch ADD COLUMN partial INTEGER NOT NULL DEFAULT 0;
ALTER TABLE move ADD COLUMN follows INTEGER NOT NULL DEFAULT 0;
ALTER TABLE move ADD COLUMN along INTEGER NOT NULL DEFAULT 0;
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(replace(sql, '''planned'', ''gone'', ''held''',
  '''open'', ''planned'', ''gone'', ''held'', ''failed'', ''undone'''), 'instant INTEGER NOT NULL', 'instant INTEGER')
  WHERE type = 'table' AND name = 'dispatch';
PRAGMA writable_schema = RESET;
CREATE INDEX dispatch_waiting ON dispatch (state, id DESC) WHERE state IN ('open', 'held', 'failed');
CREATE INDEX dispatch_undoing ON dispatch (undoes) WHERE undoes IS NOT NULL;
