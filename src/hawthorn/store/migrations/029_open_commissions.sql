-- A commission is open until it is sent: entries are put into it while somebody browses. Bureaus say what their work costs.

ALTER TABLE commission ADD COLUMN sent_at INTEGER;
ALTER TABLE commission ADD COLUMN cancelled_at INTEGER;
ALTER TABLE commission ADD COLUMN shared INTEGER NOT NULL DEFAULT 0 CHECK (shared IN (0, 1));
ALTER TABLE commission ADD COLUMN also_away INTEGER NOT NULL DEFAULT 0 CHECK (also_away IN (0, 1));
ALTER TABLE commission ADD COLUMN also_current INTEGER NOT NULL DEFAULT 0 CHECK (also_current IN (0, 1));
ALTER TABLE commission ADD COLUMN fill INTEGER NOT NULL DEFAULT 0 CHECK (fill IN (0, 1));
ALTER TABLE commission ADD COLUMN returns TEXT NOT NULL DEFAULT 'draft' CHECK (returns IN ('draft', 'review'));
ALTER TABLE commission ADD COLUMN memories TEXT NOT NULL DEFAULT '[]';
UPDATE commission SET sent_at = at;
CREATE INDEX commission_not_sent ON commission (id) WHERE sent_at IS NULL;
CREATE TABLE commission_target (
  commission INTEGER NOT NULL REFERENCES commission, locale TEXT NOT NULL, bureau INTEGER REFERENCES bureau,
  person INTEGER REFERENCES actor, PRIMARY KEY (commission, locale)
) STRICT, WITHOUT ROWID;
CREATE TABLE commission_entry (
  commission INTEGER NOT NULL REFERENCES commission, ord INTEGER NOT NULL, entry INTEGER NOT NULL REFERENCES entry,
  actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, PRIMARY KEY (commission, entry)
) STRICT, WITHOUT ROWID;
ALTER TABLE job ADD COLUMN translator INTEGER REFERENCES actor;
ALTER TABLE bureau ADD COLUMN rates TEXT NOT NULL DEFAULT '{}';
