-- When a key ends by itself; nothing where it does not.
ALTER TABLE access_key ADD COLUMN expires_at INTEGER;

-- Kept lists say "until" for what they called "before".
UPDATE saved_list SET query = json_remove(json_set(query, '$.until', json_extract(query, '$.before')), '$.before')
WHERE json_extract(query, '$.before') IS NOT NULL;
