-- Who is told of events over HTTP: where, of which, with which secret (sealed; the one before it is good for a while after a change),
-- and every try. What is sent waits in the outbox. What depends on something is looked up by it, to say which pages changed.
CREATE TABLE webhook (
  id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, name TEXT NOT NULL, url TEXT NOT NULL,
  kinds TEXT NOT NULL, types TEXT NOT NULL, sections TEXT NOT NULL, stages TEXT NOT NULL,
  secret TEXT NOT NULL, secret_before TEXT NOT NULL DEFAULT '', before_until INTEGER NOT NULL DEFAULT 0,
  state TEXT NOT NULL CHECK (state IN ('on', 'off', 'ended')), trouble TEXT NOT NULL DEFAULT '',
  from_seq INTEGER NOT NULL, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL
) STRICT;
CREATE TABLE webhook_try (
  id INTEGER PRIMARY KEY, outgoing INTEGER NOT NULL REFERENCES outbox ON DELETE CASCADE,
  at INTEGER NOT NULL, status INTEGER NOT NULL, took INTEGER NOT NULL, trouble TEXT NOT NULL
) STRICT;
CREATE INDEX webhook_tries ON webhook_try (outgoing);
CREATE INDEX outbox_of_webhook ON outbox (recipient, id) WHERE follower = 'webhooks';
CREATE INDEX dep_on ON dep (target, facet);
