-- How a locale is written, what stands in for it, and when it ended: what was written in it stays.
ALTER TABLE locale ADD COLUMN direction TEXT NOT NULL DEFAULT '';
ALTER TABLE locale ADD COLUMN fallback TEXT NOT NULL DEFAULT '[]';
ALTER TABLE locale ADD COLUMN ended_at INTEGER;
