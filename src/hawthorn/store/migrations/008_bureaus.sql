-- What a bureau is called with (sealed), and when it ended: the jobs it did stay.
ALTER TABLE bureau ADD COLUMN secret TEXT NOT NULL DEFAULT '';
ALTER TABLE bureau ADD COLUMN ended_at INTEGER;
