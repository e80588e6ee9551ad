-- What a field of a type was until a revision, where it is another since: of another kind, or shared by all locales or not.
CREATE TABLE field_mark (
  type TEXT NOT NULL, field TEXT NOT NULL, revision INTEGER NOT NULL, definition TEXT NOT NULL,
  PRIMARY KEY (type, field, revision)
) STRICT, WITHOUT ROWID;

-- As far as it can be told from the definitions that there were: of the types' own fields, and of those of the sets that they use.
INSERT OR IGNORE INTO field_mark
SELECT a.name, json_extract(f.value, '$.name'), coalesce((SELECT max(r.id) FROM revision r WHERE r.at < a.at), 0), f.value
FROM content_type a JOIN content_type b ON b.name = a.name AND b.version = a.version - 1
JOIN json_each(b.definition, '$.fields') f JOIN json_each(a.definition, '$.fields') g
  ON json_extract(g.value, '$.name') = json_extract(f.value, '$.name')
WHERE json_extract(g.value, '$.kind') <> json_extract(f.value, '$.kind')
  OR coalesce(json_extract(g.value, '$.shared'), 0) <> coalesce(json_extract(f.value, '$.shared'), 0)
  OR coalesce(json_extract(g.value, '$.many'), 0) <> coalesce(json_extract(f.value, '$.many'), 0);
INSERT OR IGNORE INTO field_mark
SELECT t.name, json_extract(f.value, '$.name'), coalesce((SELECT max(r.id) FROM revision r WHERE r.at < a.at), 0), f.value
FROM field_set a JOIN field_set b ON b.name = a.name AND b.version = a.version - 1
JOIN json_each(b.definition, '$.fields') f JOIN json_each(a.definition, '$.fields') g
  ON json_extract(g.value, '$.name') = json_extract(f.value, '$.name')
JOIN content_type t ON t.version = (SELECT max(version) FROM content_type WHERE name = t.name)
  AND a.name IN (SELECT value FROM json_each(t.definition, '$.sets'))
WHERE json_extract(g.value, '$.kind') <> json_extract(f.value, '$.kind')
  OR coalesce(json_extract(g.value, '$.shared'), 0) <> coalesce(json_extract(f.value, '$.shared'), 0)
  OR coalesce(json_extract(g.value, '$.many'), 0) <> coalesce(json_extract(f.value, '$.many'), 0);

-- It is said there alone.
UPDATE content_type SET definition = replace(replace(replace(
  definition, '"was_shared": null, ', ''), '"was_shared": true, ', ''), '"was_shared": false, ', '');
UPDATE field_set SET definition = replace(replace(replace(
  definition, '"was_shared": null, ', ''), '"was_shared": true, ', ''), '"was_shared": false, ', '');
UPDATE field_mark SET definition = replace(replace(replace(
  definition, '"was_shared":null,', ''), '"was_shared":true,', ''), '"was_shared":false,', '');
