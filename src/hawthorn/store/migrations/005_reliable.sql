-- When a bureau is asked about a job next, and how often in a row it gave no usable answer.
ALTER TABLE job ADD COLUMN ask_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE job ADD COLUMN failures INTEGER NOT NULL DEFAULT 0;

-- What is wrong with a planned dispatch, in words: its wall time cannot be resolved again under the zone's present rules.
ALTER TABLE dispatch ADD COLUMN trouble TEXT NOT NULL DEFAULT '';

-- The live stream asks which entries an event is about.
CREATE INDEX event_about_by_seq ON event_about (seq);
