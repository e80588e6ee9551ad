-- Questions of translators about a sentence, with their answers.

CREATE TABLE job_question (
  id INTEGER PRIMARY KEY, job INTEGER NOT NULL REFERENCES job, entry INTEGER NOT NULL REFERENCES entry, key TEXT NOT NULL,
  segment TEXT NOT NULL, text TEXT NOT NULL, actor INTEGER NOT NULL REFERENCES actor, at INTEGER NOT NULL,
  answer TEXT NOT NULL DEFAULT '', answered_by INTEGER REFERENCES actor, answered_at INTEGER
) STRICT;
CREATE INDEX job_question_of ON job_question (job);
