-- Field sets, templates, tags, named strands, search text and saved lists.

CREATE TABLE field_set (
  name TEXT NOT NULL, version INTEGER NOT NULL, definition TEXT NOT NULL, at INTEGER NOT NULL,
  actor INTEGER REFERENCES actor, PRIMARY KEY (name, version)
) STRICT;

-- What an entry held when the template was made from it, by locale.
CREATE TABLE template (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL, type TEXT NOT NULL,
  source_locale TEXT NOT NULL, content TEXT NOT NULL, made_from INTEGER REFERENCES entry,
  actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE INDEX template_by_type ON template (type, name) WHERE ended_at IS NULL;

-- Strands beside the draft: who forked them, why, and how they ended.
ALTER TABLE strand ADD COLUMN actor INTEGER REFERENCES actor;
ALTER TABLE strand ADD COLUMN created_at INTEGER;
ALTER TABLE strand ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE strand ADD COLUMN ended TEXT NOT NULL DEFAULT '' CHECK (ended IN ('', 'came in', 'dropped'));
CREATE INDEX strand_by_edition ON strand (edition, name);

-- What lists show and filter by, for each edition together with the common one: whether it lacks something required, and
-- whether a stage holds an older revision than the draft.
ALTER TABLE summary ADD COLUMN internal TEXT NOT NULL DEFAULT '';
ALTER TABLE summary ADD COLUMN lacks INTEGER NOT NULL DEFAULT 0;
ALTER TABLE summary ADD COLUMN behind INTEGER NOT NULL DEFAULT 0;
CREATE INDEX summary_by_locale ON summary (locale, updated_at DESC, edition DESC);
CREATE INDEX summary_by_actor ON summary (actor, updated_at DESC, edition DESC) WHERE locale <> '*';
CREATE INDEX summary_behind ON summary (updated_at DESC, edition DESC) WHERE behind = 1;
CREATE INDEX summary_lacks ON summary (updated_at DESC, edition DESC) WHERE lacks = 1;
CREATE INDEX listed_over ON listed (stage, edition) WHERE until IS NOT NULL;
CREATE INDEX entry_by_section ON entry (section) WHERE section IS NOT NULL;
CREATE INDEX entry_by_type ON entry (type) WHERE removed_at IS NULL;

CREATE TABLE tag_use (
  tag TEXT NOT NULL, edition INTEGER NOT NULL REFERENCES edition, PRIMARY KEY (tag, edition)
) STRICT, WITHOUT ROWID;
CREATE INDEX tag_use_by_edition ON tag_use (edition);

-- One row for the draft of each edition (stage 1), and one for what is out (stage 2) while the draft differs from it.
-- Newer texts have higher ids, so that a search finds the newest first without sorting.
CREATE TABLE search_row (
  id INTEGER PRIMARY KEY, edition INTEGER NOT NULL REFERENCES edition, stage INTEGER NOT NULL, UNIQUE (edition, stage)
) STRICT;
CREATE VIRTUAL TABLE search_text USING fts5 (title, body, facets, tokenize = "unicode61 remove_diacritics 0", columnsize = 0);
CREATE TABLE search_term (term TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;

CREATE INDEX address_by_slug ON address (slug) WHERE until IS NULL;

CREATE TABLE saved_list (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL, actor INTEGER NOT NULL REFERENCES actor,
  shared INTEGER NOT NULL, query TEXT NOT NULL, at INTEGER NOT NULL
) STRICT;
CREATE INDEX saved_list_by_actor ON saved_list (actor);

-- Pinned entries come first in what is read.
ALTER TABLE listed ADD COLUMN pinned INTEGER NOT NULL DEFAULT 0;
CREATE INDEX listed_pinned ON listed (stage, type, locale, pinned DESC, sort DESC, edition DESC) WHERE until IS NULL;
