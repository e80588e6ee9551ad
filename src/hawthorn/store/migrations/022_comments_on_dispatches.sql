-- A comment is on an entry in a locale, or on a dispatch as a whole.

PRAGMA defer_foreign_keys = ON;
CREATE TABLE comment_before AS SELECT * FROM comment;
DROP TABLE comment;
CREATE TABLE comment (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, entry INTEGER REFERENCES entry, dispatch INTEGER REFERENCES dispatch,
  locale TEXT NOT NULL DEFAULT '', field TEXT NOT NULL DEFAULT '', block TEXT NOT NULL DEFAULT '', first INTEGER, past INTEGER,
  quote TEXT NOT NULL DEFAULT '', revision INTEGER REFERENCES revision, actor INTEGER NOT NULL REFERENCES actor,
  actor_kind TEXT NOT NULL, at INTEGER NOT NULL, text TEXT NOT NULL, resolved_at INTEGER, resolved_by INTEGER REFERENCES actor,
  CHECK ((entry IS NULL) <> (dispatch IS NULL))
) STRICT;
INSERT INTO comment (id, uuid, entry, locale, field, block, first, past, quote, revision, actor, actor_kind, at, text,
  resolved_at, resolved_by)
SELECT id, uuid, entry, locale, field, block, first, past, quote, revision, actor, actor_kind, at, text, resolved_at, resolved_by
FROM comment_before;
DROP TABLE comment_before;
CREATE INDEX comment_by_entry ON comment (entry, locale, id) WHERE entry IS NOT NULL;
CREATE INDEX comment_by_dispatch ON comment (dispatch, id) WHERE dispatch IS NOT NULL;
