-- A payload of the log out of which somebody's name was taken: it hashes to something else than the chain has, and is known to.
ALTER TABLE event_payload ADD COLUMN redacted INTEGER NOT NULL DEFAULT 0 CHECK (redacted IN (0, 1));
