-- Passing a gate without, sessions that can be seen, invitations, second factors, remarks, assignments, presence, notices.

-- Somebody let exactly this revision through a gate without some of what it asks; conditions are [[code, where], ...].
CREATE TABLE pass (
  id INTEGER PRIMARY KEY, revision INTEGER NOT NULL REFERENCES revision, content_hash TEXT NOT NULL,
  stage INTEGER NOT NULL REFERENCES stage, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  reason TEXT NOT NULL, conditions TEXT NOT NULL
) STRICT;
CREATE INDEX pass_by_revision ON pass (revision, stage);
CREATE INDEX sign_off_by_actor ON sign_off (actor, revision);
ALTER TABLE workflow ADD COLUMN ended_at INTEGER;

ALTER TABLE session ADD COLUMN uuid TEXT NOT NULL DEFAULT '';
ALTER TABLE session ADD COLUMN agent TEXT NOT NULL DEFAULT '';
ALTER TABLE session ADD COLUMN seen_at INTEGER NOT NULL DEFAULT 0;
UPDATE session SET uuid = lower(hex(randomblob(16))), seen_at = created_at;
CREATE UNIQUE INDEX session_by_uuid ON session (uuid);
CREATE INDEX session_by_actor ON session (actor) WHERE ended_at IS NULL;
CREATE TABLE invitation (
  token_hash TEXT PRIMARY KEY, actor INTEGER NOT NULL REFERENCES actor, by INTEGER NOT NULL REFERENCES actor,
  at INTEGER NOT NULL, expires_at INTEGER NOT NULL, used_at INTEGER
) STRICT;
CREATE INDEX invitation_by_actor ON invitation (actor) WHERE used_at IS NULL;
-- counter is the last time step whose code was taken, so that none is taken twice (RFC 6238, section 5.2).
CREATE TABLE second_factor (
  actor INTEGER PRIMARY KEY REFERENCES actor, secret TEXT NOT NULL, begun_at INTEGER NOT NULL, since INTEGER,
  counter INTEGER NOT NULL DEFAULT 0, spare TEXT NOT NULL DEFAULT '[]'
) STRICT;

-- field is '' for the whole edition; block and the characters from start to end are set for a passage of the revision's text.
CREATE TABLE remark (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL,
  field TEXT NOT NULL DEFAULT '', block TEXT NOT NULL DEFAULT '', first INTEGER, past INTEGER, quote TEXT NOT NULL DEFAULT '',
  revision INTEGER REFERENCES revision, actor INTEGER NOT NULL REFERENCES actor, actor_kind TEXT NOT NULL, at INTEGER NOT NULL,
  text TEXT NOT NULL, resolved_at INTEGER, resolved_by INTEGER REFERENCES actor
) STRICT;
CREATE INDEX remark_by_entry ON remark (entry, locale, id);
CREATE TABLE reply (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, remark INTEGER NOT NULL REFERENCES remark,
  actor INTEGER NOT NULL REFERENCES actor, actor_kind TEXT NOT NULL, at INTEGER NOT NULL, text TEXT NOT NULL
) STRICT;
CREATE INDEX reply_by_remark ON reply (remark, id);
CREATE TABLE mention (
  remark INTEGER NOT NULL REFERENCES remark, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  PRIMARY KEY (remark, actor)
) STRICT, WITHOUT ROWID;
CREATE INDEX mention_by_actor ON mention (actor, remark);

-- due is a day; told says what the holder was reminded of: '', 'due' or 'late'.
CREATE TABLE assignment (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL,
  holder INTEGER NOT NULL REFERENCES actor, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  due TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '', ended_at INTEGER, ended_by INTEGER REFERENCES actor,
  outcome TEXT NOT NULL DEFAULT '' CHECK (outcome IN ('', 'done', 'handed on', 'dropped')), told TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE UNIQUE INDEX assignment_open ON assignment (entry, locale) WHERE ended_at IS NULL;
CREATE INDEX assignment_by_holder ON assignment (holder, due) WHERE ended_at IS NULL;
CREATE INDEX assignment_due ON assignment (due) WHERE ended_at IS NULL AND due <> '';

-- Who has an entry open, and in which field; one row for each open page of a browser. Not part of the log.
CREATE TABLE presence (
  page TEXT PRIMARY KEY, actor INTEGER NOT NULL REFERENCES actor, entry INTEGER NOT NULL REFERENCES entry,
  locale TEXT NOT NULL, field TEXT NOT NULL DEFAULT '', typing INTEGER NOT NULL DEFAULT 0, since INTEGER NOT NULL,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX presence_of ON presence (entry, locale);
CREATE INDEX presence_old ON presence (at);

-- mailed: 'waiting' goes with the next digest.
CREATE TABLE notice (
  id INTEGER PRIMARY KEY, actor INTEGER NOT NULL REFERENCES actor, seq INTEGER NOT NULL REFERENCES event, kind TEXT NOT NULL,
  at INTEGER NOT NULL, says TEXT NOT NULL, body TEXT NOT NULL, path TEXT NOT NULL, entry INTEGER REFERENCES entry,
  seen_at INTEGER, mailed TEXT NOT NULL DEFAULT '' CHECK (mailed IN ('', 'waiting', 'at once', 'digest')), UNIQUE (actor, seq)
) STRICT;
CREATE INDEX notice_by_actor ON notice (actor, id DESC);
CREATE INDEX notice_unseen ON notice (actor) WHERE seen_at IS NULL;
CREATE INDEX notice_waiting ON notice (actor) WHERE mailed = 'waiting';
-- way of a kind of notice; digest hour is the local hour at which the digest is sent.
CREATE TABLE notice_choice (
  actor INTEGER NOT NULL REFERENCES actor, kind TEXT NOT NULL, way TEXT NOT NULL, PRIMARY KEY (actor, kind)
) STRICT, WITHOUT ROWID;
CREATE TABLE digest (actor INTEGER PRIMARY KEY REFERENCES actor, hour INTEGER NOT NULL, sent_at INTEGER NOT NULL DEFAULT 0) STRICT;

CREATE INDEX event_by_kind ON event (kind, seq DESC);
CREATE INDEX event_by_actor ON event (actor, seq DESC);

-- Where no mail was sent so far, what happened long ago is not told now.
INSERT OR IGNORE INTO follower (name, cursor) SELECT 'mail', coalesce(max(seq), 0) FROM event;
