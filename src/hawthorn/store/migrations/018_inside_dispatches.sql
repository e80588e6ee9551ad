-- Entries that are kept away from daily work without being removed; strands that belong to a dispatch and go out with it.
ALTER TABLE entry ADD COLUMN archived_at INTEGER;
CREATE INDEX entry_archived ON entry (id) WHERE archived_at IS NOT NULL;
CREATE INDEX strand_of_dispatch ON strand (dispatch) WHERE dispatch IS NOT NULL;
-- How both sides of a place were settled beforehand, by the strand that will come into the draft; `sides` is a hash of what they were.
CREATE TABLE strand_settlement (
  strand INTEGER NOT NULL REFERENCES strand, place TEXT NOT NULL, sides TEXT NOT NULL, take TEXT NOT NULL, value TEXT NOT NULL,
  actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, PRIMARY KEY (strand, place)
) STRICT;
-- Dispatches that are reviewed as one.
CREATE TABLE dispatch_review (
  id INTEGER PRIMARY KEY, dispatch INTEGER NOT NULL REFERENCES dispatch, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  note TEXT NOT NULL, outcome TEXT, decided_by INTEGER REFERENCES actor, decided_at INTEGER, reason TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX dispatch_review_of ON dispatch_review (dispatch, id);
CREATE INDEX dispatch_review_waiting ON dispatch_review (id) WHERE outcome IS NULL;
-- Previews of what readers would see once a dispatch has gone.
ALTER TABLE preview ADD COLUMN dispatch INTEGER REFERENCES dispatch;
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(sql, '''section'', ''strand''', '''section'', ''strand'', ''dispatch''')
  WHERE type = 'table' AND name = 'preview';
PRAGMA writable_schema = RESET;
