-- Bureaus by kind, with what they offer and the secret that both sides sign with; what came back in parts, and what they asked.
ALTER TABLE bureau ADD COLUMN kind TEXT NOT NULL DEFAULT 'http';
ALTER TABLE bureau ADD COLUMN signing TEXT NOT NULL DEFAULT '';
ALTER TABLE bureau ADD COLUMN offer TEXT NOT NULL DEFAULT '';
ALTER TABLE bureau ADD COLUMN offered_at INTEGER;

CREATE TABLE job_part (
  job INTEGER NOT NULL REFERENCES job, remote TEXT NOT NULL, part TEXT NOT NULL, sha256 TEXT NOT NULL, at INTEGER NOT NULL,
  trouble TEXT NOT NULL DEFAULT '', PRIMARY KEY (job, remote, part, sha256)
) STRICT, WITHOUT ROWID;
CREATE INDEX job_remote ON job (bureau, remote) WHERE remote <> '';

ALTER TABLE job_question ADD COLUMN remote TEXT NOT NULL DEFAULT '';
ALTER TABLE job_question ADD COLUMN context TEXT NOT NULL DEFAULT '';
CREATE UNIQUE INDEX job_question_remote ON job_question (job, remote) WHERE remote <> '';

UPDATE follower SET name = 'carrier' WHERE name = 'connector';
UPDATE outbox SET payload = json_object('do', 'send', 'job', payload) WHERE follower = 'connector';
UPDATE outbox SET follower = 'carrier' WHERE follower = 'connector';
