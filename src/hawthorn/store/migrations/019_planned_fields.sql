-- What writers asked for in fields that plan a move: the value in the draft, the dispatch that does it, and the value that it was planned by.
CREATE TABLE planned_field (
  edition INTEGER NOT NULL REFERENCES edition, field TEXT NOT NULL, wanted TEXT NOT NULL, dispatch INTEGER REFERENCES dispatch,
  planned TEXT NOT NULL DEFAULT '', trouble TEXT NOT NULL DEFAULT '', actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  PRIMARY KEY (edition, field)
) STRICT;
