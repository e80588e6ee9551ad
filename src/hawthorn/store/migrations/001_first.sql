-- Instants are microseconds UTC; intervals are [since, until). Locale '*' is an entry's common edition.

CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;

CREATE TABLE locale (tag TEXT PRIMARY KEY, name TEXT NOT NULL, ord INTEGER NOT NULL) STRICT;

CREATE TABLE content_type (
  name TEXT NOT NULL, version INTEGER NOT NULL, definition TEXT NOT NULL, at INTEGER NOT NULL,
  actor INTEGER REFERENCES actor, PRIMARY KEY (name, version)
) STRICT;

-- Stages are known by name in all workflows; their rung orders them. 1 is the draft, whose standing is its head.
CREATE TABLE stage (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, label TEXT NOT NULL, rung INTEGER NOT NULL) STRICT;
INSERT INTO stage VALUES (1, 'draft', 'Draft', 0), (2, 'release', 'Release', 1000);

CREATE TABLE workflow (
  name TEXT NOT NULL, version INTEGER NOT NULL, definition TEXT NOT NULL, at INTEGER NOT NULL,
  PRIMARY KEY (name, version)
) STRICT;

CREATE TABLE actor (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('person', 'program', 'assistant', 'bureau', 'clockwork')),
  handle TEXT NOT NULL UNIQUE, name TEXT NOT NULL, email TEXT NOT NULL DEFAULT '',
  password TEXT NOT NULL DEFAULT '', zone TEXT NOT NULL DEFAULT 'UTC', created_at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE TABLE role (name TEXT PRIMARY KEY, label TEXT NOT NULL, grants TEXT NOT NULL) STRICT;
CREATE TABLE holding (
  actor INTEGER NOT NULL REFERENCES actor, role TEXT NOT NULL REFERENCES role,
  locales TEXT NOT NULL DEFAULT '[]', sections TEXT NOT NULL DEFAULT '[]', PRIMARY KEY (actor, role)
) STRICT, WITHOUT ROWID;
CREATE TABLE session (
  token_hash TEXT PRIMARY KEY, actor INTEGER NOT NULL REFERENCES actor, created_at INTEGER NOT NULL,
  expires_at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE TABLE access_key (
  id INTEGER PRIMARY KEY, secret_hash TEXT NOT NULL UNIQUE, start TEXT NOT NULL, name TEXT NOT NULL,
  actor INTEGER NOT NULL REFERENCES actor, stages TEXT NOT NULL, created_at INTEGER NOT NULL, ended_at INTEGER
) STRICT;
CREATE TABLE login_attempt (handle TEXT NOT NULL, at INTEGER NOT NULL) STRICT;
CREATE INDEX login_attempt_by_handle ON login_attempt (handle, at);

CREATE TABLE file (
  sha256 TEXT PRIMARY KEY, media_type TEXT NOT NULL, name TEXT NOT NULL, bytes INTEGER NOT NULL,
  width INTEGER, height INTEGER, data BLOB NOT NULL, at INTEGER NOT NULL, actor INTEGER REFERENCES actor
) STRICT;

CREATE TABLE entry (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, type TEXT NOT NULL, source_locale TEXT NOT NULL,
  section INTEGER REFERENCES entry, created_at INTEGER NOT NULL, actor INTEGER NOT NULL REFERENCES actor,
  removed_at INTEGER
) STRICT;
CREATE TABLE section_within (
  ancestor INTEGER NOT NULL REFERENCES entry, section INTEGER NOT NULL REFERENCES entry, PRIMARY KEY (ancestor, section)
) STRICT, WITHOUT ROWID;
CREATE TABLE edition (
  id INTEGER PRIMARY KEY, entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL, UNIQUE (entry, locale)
) STRICT;

-- strand is null for what was typed on an old base and kept before it was merged.
CREATE TABLE revision (
  id INTEGER PRIMARY KEY, edition INTEGER NOT NULL REFERENCES edition, number INTEGER NOT NULL,
  content_hash TEXT NOT NULL, type_version INTEGER NOT NULL, fields TEXT NOT NULL, spine TEXT NOT NULL,
  unit_map TEXT NOT NULL, strand INTEGER REFERENCES strand, actor INTEGER NOT NULL REFERENCES actor,
  actor_kind TEXT NOT NULL, at INTEGER NOT NULL, note TEXT NOT NULL, origin TEXT NOT NULL,
  UNIQUE (edition, number)
) STRICT;
CREATE TABLE revision_parent (
  revision INTEGER NOT NULL REFERENCES revision, ord INTEGER NOT NULL, parent INTEGER NOT NULL REFERENCES revision,
  PRIMARY KEY (revision, ord)
) STRICT, WITHOUT ROWID;
CREATE TABLE revision_pick (
  revision INTEGER NOT NULL REFERENCES revision, picked_from INTEGER NOT NULL REFERENCES revision,
  path TEXT NOT NULL, PRIMARY KEY (revision, picked_from, path)
) STRICT, WITHOUT ROWID;
CREATE TABLE strand (
  id INTEGER PRIMARY KEY, edition INTEGER NOT NULL REFERENCES edition, name TEXT NOT NULL,
  head INTEGER REFERENCES revision, forked_from INTEGER REFERENCES revision, dispatch INTEGER REFERENCES dispatch,
  closed_at INTEGER
) STRICT;
CREATE UNIQUE INDEX strand_by_name ON strand (edition, name) WHERE closed_at IS NULL;

-- What lists of drafts show, one row an edition, kept with the head.
CREATE TABLE summary (
  edition INTEGER PRIMARY KEY REFERENCES edition, entry INTEGER NOT NULL REFERENCES entry, type TEXT NOT NULL,
  locale TEXT NOT NULL, title TEXT NOT NULL, missing TEXT NOT NULL, updated_at INTEGER NOT NULL,
  actor INTEGER NOT NULL REFERENCES actor
) STRICT;
CREATE INDEX summary_by_time ON summary (updated_at DESC, edition DESC) WHERE locale <> '*';
CREATE INDEX summary_by_type ON summary (type, updated_at DESC, edition DESC) WHERE locale <> '*';
CREATE INDEX summary_by_entry ON summary (entry);
CREATE TABLE reference (
  edition INTEGER NOT NULL REFERENCES edition, target TEXT NOT NULL, PRIMARY KEY (edition, target)
) STRICT, WITHOUT ROWID;
CREATE INDEX reference_by_target ON reference (target);
CREATE TABLE file_use (
  sha256 TEXT NOT NULL REFERENCES file, revision INTEGER NOT NULL REFERENCES revision, PRIMARY KEY (sha256, revision)
) STRICT, WITHOUT ROWID;

CREATE TABLE standing (
  id INTEGER PRIMARY KEY, edition INTEGER NOT NULL REFERENCES edition, stage INTEGER NOT NULL REFERENCES stage,
  revision INTEGER NOT NULL REFERENCES revision, since INTEGER NOT NULL, until INTEGER, committed_at INTEGER NOT NULL,
  opened_by INTEGER REFERENCES dispatch, closed_by INTEGER REFERENCES dispatch
) STRICT;
CREATE UNIQUE INDEX standing_now ON standing (edition, stage) WHERE until IS NULL;
CREATE INDEX standing_then ON standing (edition, stage, since DESC, id DESC);

CREATE TABLE submission (
  id INTEGER PRIMARY KEY, edition INTEGER NOT NULL REFERENCES edition, stage INTEGER NOT NULL REFERENCES stage,
  revision INTEGER NOT NULL REFERENCES revision, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  note TEXT NOT NULL, outcome TEXT CHECK (outcome IN ('taken back', 'sent back', 'signed off', 'replaced')),
  decided_by INTEGER REFERENCES actor, decided_at INTEGER, reason TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE UNIQUE INDEX submission_waiting ON submission (edition) WHERE outcome IS NULL;
CREATE INDEX submission_by_edition ON submission (edition, id DESC);
CREATE TABLE sign_off (
  id INTEGER PRIMARY KEY, revision INTEGER NOT NULL REFERENCES revision, content_hash TEXT NOT NULL,
  stage INTEGER NOT NULL REFERENCES stage, workflow TEXT NOT NULL, workflow_version INTEGER NOT NULL,
  actor INTEGER NOT NULL REFERENCES actor, roles TEXT NOT NULL, at INTEGER NOT NULL, seen TEXT NOT NULL,
  note TEXT NOT NULL DEFAULT '', UNIQUE (revision, stage, actor)
) STRICT;

CREATE TABLE dispatch (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('planned', 'gone', 'held', 'called off')),
  wall TEXT NOT NULL DEFAULT '', zone TEXT NOT NULL DEFAULT '', fold TEXT NOT NULL DEFAULT '',
  instant INTEGER NOT NULL, series INTEGER, undoes INTEGER REFERENCES dispatch, note TEXT NOT NULL DEFAULT '',
  created_at INTEGER NOT NULL, actor INTEGER NOT NULL REFERENCES actor, ended_at INTEGER, late_by INTEGER,
  held TEXT NOT NULL DEFAULT '[]'
) STRICT;
CREATE INDEX dispatch_due ON dispatch (instant, id) WHERE state = 'planned';
CREATE TABLE move (
  dispatch INTEGER NOT NULL REFERENCES dispatch, ord INTEGER NOT NULL, verb TEXT NOT NULL,
  edition INTEGER NOT NULL REFERENCES edition, stage INTEGER NOT NULL REFERENCES stage,
  revision INTEGER REFERENCES revision, regress INTEGER NOT NULL DEFAULT 0, PRIMARY KEY (dispatch, ord)
) STRICT, WITHOUT ROWID;
CREATE INDEX move_by_edition ON move (edition, dispatch);

-- Narrow rows for lists of what stands, opened only when what a list shows changes.
CREATE TABLE listed (
  id INTEGER PRIMARY KEY, section INTEGER, stage INTEGER NOT NULL, type TEXT NOT NULL, locale TEXT NOT NULL,
  sort INTEGER NOT NULL, edition INTEGER NOT NULL, entry INTEGER NOT NULL, since INTEGER NOT NULL, until INTEGER
) STRICT;
CREATE UNIQUE INDEX listed_now ON listed (edition, stage) WHERE until IS NULL;
CREATE INDEX listed_by_type ON listed (stage, type, locale, sort DESC, edition DESC) WHERE until IS NULL;
CREATE INDEX listed_by_locale ON listed (stage, locale, sort DESC, edition DESC) WHERE until IS NULL;
CREATE INDEX listed_by_entry ON listed (entry, stage, locale) WHERE until IS NULL;
CREATE TABLE placed (
  id INTEGER PRIMARY KEY, entry INTEGER NOT NULL, stage INTEGER NOT NULL, parent INTEGER NOT NULL,
  rank TEXT NOT NULL, since INTEGER NOT NULL, until INTEGER
) STRICT;
CREATE UNIQUE INDEX placed_now ON placed (entry, stage) WHERE until IS NULL;
CREATE INDEX placed_below ON placed (stage, parent, rank, entry) WHERE until IS NULL;
-- parent is 0 at the root. Drafts (stage 1) may share an address; what is out or on its way may not.
CREATE TABLE address (
  id INTEGER PRIMARY KEY, stage INTEGER NOT NULL, locale TEXT NOT NULL, parent INTEGER NOT NULL, slug TEXT NOT NULL,
  entry INTEGER NOT NULL REFERENCES entry, since INTEGER NOT NULL, until INTEGER
) STRICT;
CREATE UNIQUE INDEX address_now ON address (stage, locale, parent, slug) WHERE until IS NULL AND stage <> 1;
CREATE INDEX address_ever ON address (stage, locale, parent, slug, since DESC);
CREATE UNIQUE INDEX address_of ON address (entry, stage, locale) WHERE until IS NULL;

-- Rendered bodies with what each depends on; fresh while no later change of a dependency is on record.
CREATE TABLE body (
  id INTEGER PRIMARY KEY, entry INTEGER NOT NULL REFERENCES entry, wanted_locale TEXT NOT NULL, stage INTEGER NOT NULL,
  since INTEGER NOT NULL, seq INTEGER NOT NULL, until INTEGER, etag TEXT NOT NULL, bytes BLOB NOT NULL
) STRICT;
CREATE UNIQUE INDEX body_now ON body (entry, wanted_locale, stage) WHERE until IS NULL;
CREATE TABLE dep (body INTEGER NOT NULL, target INTEGER NOT NULL, facet TEXT NOT NULL, PRIMARY KEY (body, target, facet)) STRICT, WITHOUT ROWID;
CREATE TABLE change (
  stage INTEGER NOT NULL, target INTEGER NOT NULL, facet TEXT NOT NULL, seq INTEGER NOT NULL, since INTEGER NOT NULL,
  PRIMARY KEY (target, stage, facet, seq)
) STRICT, WITHOUT ROWID;

CREATE TABLE bureau (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, url TEXT NOT NULL, actor INTEGER NOT NULL REFERENCES actor,
  codes TEXT NOT NULL DEFAULT '{}'
) STRICT;
CREATE TABLE commission (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL, due TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '', actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL
) STRICT;
CREATE TABLE job (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, commission INTEGER NOT NULL REFERENCES commission,
  source_locale TEXT NOT NULL, locale TEXT NOT NULL, bureau INTEGER REFERENCES bureau,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'sent', 'in work', 'failed', 'home', 'accepted', 'called off')),
  remote TEXT NOT NULL DEFAULT '', done INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL, words INTEGER NOT NULL,
  trouble TEXT NOT NULL DEFAULT '', changed_at INTEGER NOT NULL
) STRICT;
CREATE INDEX job_by_commission ON job (commission);
CREATE INDEX job_open ON job (state) WHERE state IN ('sent', 'in work');
CREATE TABLE job_entry (
  job INTEGER NOT NULL REFERENCES job, ord INTEGER NOT NULL, entry INTEGER NOT NULL REFERENCES entry,
  source_revision INTEGER NOT NULL REFERENCES revision, home_revision INTEGER REFERENCES revision,
  PRIMARY KEY (job, ord)
) STRICT, WITHOUT ROWID;
CREATE INDEX job_entry_by_entry ON job_entry (entry);
CREATE TABLE job_unit (
  job INTEGER NOT NULL REFERENCES job, entry INTEGER NOT NULL REFERENCES entry, key TEXT NOT NULL, ord INTEGER NOT NULL,
  source_hash TEXT NOT NULL, target_hash TEXT, state TEXT NOT NULL, text TEXT NOT NULL DEFAULT '',
  outcome TEXT NOT NULL DEFAULT '', PRIMARY KEY (job, entry, key)
) STRICT, WITHOUT ROWID;
CREATE TABLE coverage (
  entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL, source_stage INTEGER NOT NULL,
  units INTEGER NOT NULL, current INTEGER NOT NULL, words INTEGER NOT NULL, PRIMARY KEY (entry, locale, source_stage)
) STRICT, WITHOUT ROWID;

-- The chain covers hashes of payloads, so that a payload may be deleted and the chain still verifies.
CREATE TABLE event (
  seq INTEGER PRIMARY KEY, at INTEGER NOT NULL, kind TEXT NOT NULL, actor INTEGER NOT NULL REFERENCES actor,
  actor_kind TEXT NOT NULL, payload_hash TEXT NOT NULL, prev TEXT NOT NULL, hash TEXT NOT NULL
) STRICT;
CREATE TABLE event_payload (seq INTEGER PRIMARY KEY REFERENCES event, json TEXT NOT NULL) STRICT;
CREATE TABLE event_about (entry INTEGER NOT NULL, seq INTEGER NOT NULL, PRIMARY KEY (entry, seq)) STRICT, WITHOUT ROWID;
CREATE TABLE follower (
  name TEXT PRIMARY KEY, cursor INTEGER NOT NULL, holder TEXT NOT NULL DEFAULT '', lease_until INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE TABLE outbox (
  id INTEGER PRIMARY KEY, follower TEXT NOT NULL, stable_id TEXT NOT NULL UNIQUE, seq INTEGER NOT NULL,
  recipient TEXT NOT NULL, payload TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'done', 'given up', 'parked')), tries INTEGER NOT NULL DEFAULT 0,
  next_at INTEGER NOT NULL, trouble TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX outbox_waiting ON outbox (follower, next_at) WHERE state = 'waiting';
CREATE TABLE idempotency (
  actor INTEGER NOT NULL, key TEXT NOT NULL, route TEXT NOT NULL, request_hash TEXT NOT NULL, answer TEXT NOT NULL,
  at INTEGER NOT NULL, PRIMARY KEY (actor, key)
) STRICT, WITHOUT ROWID;
