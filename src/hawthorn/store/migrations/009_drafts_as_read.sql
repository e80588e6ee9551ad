-- Drafts are listed like what is out: what is pinned first, then by the date that is shown, where there is one.
ALTER TABLE summary ADD COLUMN shown INTEGER;
ALTER TABLE summary ADD COLUMN pinned INTEGER NOT NULL DEFAULT 0;
CREATE TEMP TABLE said AS
SELECT e.id AS entry, json_extract(t.definition, '$.dated') AS dated, json_extract(t.definition, '$.pinned') AS pinned, r.fields
FROM content_type t JOIN entry e ON e.type = t.name JOIN edition d ON d.entry = e.id AND d.locale IN ('*', e.source_locale)
JOIN strand x ON x.edition = d.id AND x.name = 'draft' JOIN revision r ON r.id = x.head
WHERE t.version = (SELECT max(version) FROM content_type o WHERE o.name = t.name);
UPDATE summary SET
  shown = (SELECT unixepoch(coalesce(json_extract(fields, '$.' || dated || '.instant'), json_extract(fields, '$.' || dated))) * 1000000
    FROM said WHERE said.entry = summary.entry AND dated <> '' AND json_extract(fields, '$.' || dated) IS NOT NULL LIMIT 1),
  pinned = coalesce((SELECT json_extract(fields, '$.' || said.pinned) = 1
    FROM said WHERE said.entry = summary.entry AND said.pinned <> '' AND json_extract(fields, '$.' || said.pinned) IS NOT NULL LIMIT 1), 0)
WHERE entry IN (SELECT entry FROM said WHERE dated <> '' OR pinned <> '');
DROP TABLE said;
CREATE INDEX summary_as_read ON summary (pinned DESC, coalesce(shown, updated_at) DESC, edition DESC) WHERE locale <> '*';
