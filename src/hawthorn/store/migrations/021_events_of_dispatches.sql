-- Which events are about a dispatch, or about one that undoes it, so that what happened to it is found at once.
CREATE TABLE dispatch_event (dispatch INTEGER NOT NULL REFERENCES dispatch, seq INTEGER NOT NULL, PRIMARY KEY (dispatch, seq)) STRICT, WITHOUT ROWID;
INSERT OR IGNORE INTO dispatch_event SELECT d.id, e.seq FROM event e JOIN event_payload p ON p.seq = e.seq
  JOIN dispatch d ON d.uuid IN (p.json ->> '$.dispatch', p.json ->> '$.undoes') WHERE e.kind >= 'dispatch.' AND e.kind < 'dispatch/';
