-- Dispatches that came in a package: which one, and when; or why one did not come, or not with all that it moves.
CREATE TABLE exchange_dispatch (
  exchange INTEGER NOT NULL REFERENCES exchange ON DELETE CASCADE, ord INTEGER NOT NULL, name TEXT NOT NULL,
  dispatch INTEGER REFERENCES dispatch, at INTEGER NOT NULL, note TEXT NOT NULL DEFAULT '', PRIMARY KEY (exchange, ord)
) STRICT, WITHOUT ROWID;
CREATE INDEX exchange_dispatch_of ON exchange_dispatch (dispatch) WHERE dispatch IS NOT NULL;
