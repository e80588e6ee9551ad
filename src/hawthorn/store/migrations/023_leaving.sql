-- A gate may ask for sign-offs of what leaves readers, too. They are given in the dispatch that takes it away.

ALTER TABLE move ADD COLUMN asked_by INTEGER REFERENCES actor;
CREATE TABLE move_sign_off (
  dispatch INTEGER NOT NULL REFERENCES dispatch, edition INTEGER NOT NULL REFERENCES edition,
  actor INTEGER NOT NULL REFERENCES actor, roles TEXT NOT NULL, at INTEGER NOT NULL, note TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (dispatch, edition, actor)
) STRICT, WITHOUT ROWID;
