-- Bodies are made anew: what colleagues call an entry no longer lies in them.
DELETE FROM dep;
DELETE FROM body;
