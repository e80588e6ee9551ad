-- Lists show an entry once, in its source: so that its translations need not be walked over, a summary says whether it is that.

ALTER TABLE summary ADD COLUMN is_source INTEGER NOT NULL DEFAULT 0;
UPDATE summary SET is_source = 1 WHERE locale = (SELECT source_locale FROM entry WHERE id = summary.entry);
CREATE INDEX summary_of_sources ON summary (updated_at DESC, edition DESC) WHERE is_source = 1;
