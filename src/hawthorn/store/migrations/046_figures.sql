-- Figures: where the work on editions stayed and for how long, what became of jobs, and how many words were up to date at the end of each day. Derived by a follower of the log.
CREATE TABLE stay (
  edition INTEGER NOT NULL REFERENCES edition ON DELETE CASCADE, stage TEXT NOT NULL, came INTEGER NOT NULL, went INTEGER,
  how TEXT NOT NULL, by INTEGER REFERENCES actor, entry INTEGER NOT NULL, type TEXT NOT NULL, locale TEXT NOT NULL,
  PRIMARY KEY (edition, stage, came)
) STRICT, WITHOUT ROWID;
CREATE INDEX stay_ended ON stay (went, stage, came, how, by, entry, type, locale) WHERE went IS NOT NULL AND stage <> 'release';
CREATE INDEX stay_out ON stay (came, by, entry, type, locale) WHERE stage = 'release';
CREATE INDEX stay_waits ON stay (came) WHERE went IS NULL AND stage <> 'release';
CREATE TABLE job_figure (
  job INTEGER PRIMARY KEY REFERENCES job ON DELETE CASCADE, sent INTEGER, returned INTEGER, accepted INTEGER,
  sent_back INTEGER NOT NULL DEFAULT 0, kept INTEGER NOT NULL DEFAULT 0, changed INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX job_figure_by_return ON job_figure (returned) WHERE returned IS NOT NULL;
CREATE TABLE covered_day (
  day TEXT NOT NULL, locale TEXT NOT NULL, type TEXT NOT NULL, words INTEGER NOT NULL, current INTEGER NOT NULL,
  PRIMARY KEY (day, locale, type)
) STRICT, WITHOUT ROWID;
