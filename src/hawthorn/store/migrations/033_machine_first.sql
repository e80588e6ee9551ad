-- What no memory knows may be drafted by a machine before somebody translates.
ALTER TABLE commission ADD COLUMN machine INTEGER NOT NULL DEFAULT 0 CHECK (machine IN (0, 1));
ALTER TABLE standing_commission ADD COLUMN machine INTEGER NOT NULL DEFAULT 0 CHECK (machine IN (0, 1));
