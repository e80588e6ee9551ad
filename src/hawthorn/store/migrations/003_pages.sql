-- The outline, the library, previews, page addresses and search text.

-- Ranks are words that sort as text; an entry that nobody moved has one that follows from its number.
UPDATE placed SET rank = printf('n%08xi', entry) WHERE rank = '';
CREATE INDEX placed_once ON placed (stage, parent, since) WHERE until IS NOT NULL;
CREATE INDEX address_once ON address (entry, stage, locale, since DESC) WHERE until IS NOT NULL;
CREATE INDEX placed_of ON placed (entry, stage, since DESC);

-- Folders order the library for those who work here. They are no part of what is staged or read.
CREATE TABLE folder (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL, parent INTEGER NOT NULL DEFAULT 0,
  at INTEGER NOT NULL, actor INTEGER NOT NULL REFERENCES actor
) STRICT;
CREATE UNIQUE INDEX folder_by_name ON folder (parent, name);
CREATE TABLE filed (entry INTEGER PRIMARY KEY REFERENCES entry, folder INTEGER NOT NULL REFERENCES folder) STRICT;
CREATE INDEX filed_in ON filed (folder, entry);

-- The point of a picture that no crop may cut off, as the revision that holds it says: "x,y" in hundredths.
ALTER TABLE file_use ADD COLUMN focus TEXT NOT NULL DEFAULT '50,50';
CREATE INDEX file_use_by_revision ON file_use (revision);

-- Uploads that are on their way; their bytes lie in a folder beside the record file until all are there.
CREATE TABLE upload (
  uuid TEXT PRIMARY KEY, actor INTEGER NOT NULL REFERENCES actor, name TEXT NOT NULL, length INTEGER NOT NULL,
  created_at INTEGER NOT NULL, expires_at INTEGER NOT NULL, sha256 TEXT
) STRICT;

-- A list by a rule changes as days go by: such a body is fresh until then.
ALTER TABLE body ADD COLUMN ends INTEGER NOT NULL DEFAULT 4611686018427387904;

-- What somebody without an account may see, or somebody with one looks at: at a stage and instant, of an entry, a section,
-- a strand, or of all. `pane` previews belong to one person and hold what that person is typing.
CREATE TABLE preview (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, pane INTEGER NOT NULL, name TEXT NOT NULL,
  scope TEXT NOT NULL CHECK (scope IN ('all', 'entry', 'section', 'strand')), entry INTEGER REFERENCES entry,
  strand TEXT NOT NULL DEFAULT '', stage INTEGER NOT NULL REFERENCES stage, at INTEGER,
  created_at INTEGER NOT NULL, expires_at INTEGER NOT NULL, ended_at INTEGER, actor INTEGER NOT NULL REFERENCES actor
) STRICT;
CREATE INDEX preview_by_entry ON preview (entry) WHERE pane = 0;
CREATE INDEX preview_by_actor ON preview (actor, pane);
CREATE TABLE preview_typed (
  preview INTEGER NOT NULL REFERENCES preview ON DELETE CASCADE, entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL,
  fields TEXT NOT NULL, at INTEGER NOT NULL, PRIMARY KEY (preview, entry, locale)
) STRICT, WITHOUT ROWID;
CREATE TABLE preview_use (
  id INTEGER PRIMARY KEY, preview INTEGER NOT NULL REFERENCES preview ON DELETE CASCADE, at INTEGER NOT NULL,
  what TEXT NOT NULL, agent TEXT NOT NULL
) STRICT;
CREATE INDEX preview_use_by_preview ON preview_use (preview, id DESC);

-- Title and description for searches, folded, to find what the site says twice.
CREATE TABLE search_said (
  edition INTEGER PRIMARY KEY REFERENCES edition, locale TEXT NOT NULL, title TEXT NOT NULL, words TEXT NOT NULL
) STRICT;
CREATE INDEX search_said_title ON search_said (locale, title) WHERE title <> '';
CREATE INDEX search_said_words ON search_said (locale, words) WHERE words <> '';
