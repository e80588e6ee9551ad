-- The groups of a kept body: by the entries that it depends on and the lists that it holds, so that caches let go of it with them.
ALTER TABLE body ADD COLUMN groups TEXT NOT NULL DEFAULT '';
DELETE FROM dep;
DELETE FROM body;
