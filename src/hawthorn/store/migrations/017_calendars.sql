-- Calendars that somebody subscribes to at a secret address (kept hashed), and how often what is in them has changed (RFC 5545, 3.8.7.4).
ALTER TABLE dispatch ADD COLUMN sequence INTEGER NOT NULL DEFAULT 0;
ALTER TABLE dispatch ADD COLUMN changed_at INTEGER NOT NULL DEFAULT 0;
UPDATE dispatch SET changed_at = max(created_at, coalesce(ended_at, 0));
ALTER TABLE quiet_period ADD COLUMN sequence INTEGER NOT NULL DEFAULT 0;
ALTER TABLE quiet_period ADD COLUMN changed_at INTEGER NOT NULL DEFAULT 0;
UPDATE quiet_period SET changed_at = at;
CREATE TABLE calendar (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, actor INTEGER NOT NULL REFERENCES actor, name TEXT NOT NULL,
  shows TEXT NOT NULL, token TEXT NOT NULL UNIQUE, at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE INDEX calendar_of ON calendar (actor) WHERE ended_at IS NULL;
-- The timetable lists dispatches of any state by when they go or went.
CREATE INDEX dispatch_by_instant ON dispatch (instant, id);
