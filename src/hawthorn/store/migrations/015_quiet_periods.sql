-- Times in which nothing is released: wall times in a zone, once or by a rule (RFC 5545), with the reason. A dispatch for which somebody
-- with the grant overrides one keeps who did.
CREATE TABLE quiet_period (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, reason TEXT NOT NULL, begins TEXT NOT NULL, ends TEXT NOT NULL,
  zone TEXT NOT NULL, rule TEXT NOT NULL, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
ALTER TABLE dispatch ADD COLUMN quiet_by INTEGER REFERENCES actor;
