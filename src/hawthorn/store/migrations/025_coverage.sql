-- How far each edition covers its source, kept with every change. The source of an entry has a row of its own, from which what is
-- not there yet is told; what its comparison needs of each edition lies apart, so that counting reads narrow rows.

DROP TABLE coverage;
CREATE TABLE coverage (
  entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL, state TEXT NOT NULL,
  source INTEGER, target INTEGER, units INTEGER NOT NULL, current INTEGER NOT NULL, changed INTEGER NOT NULL,
  missing INTEGER NOT NULL, gone INTEGER NOT NULL, words INTEGER NOT NULL, words_current INTEGER NOT NULL,
  out_source INTEGER, out_target INTEGER, out_due INTEGER NOT NULL,
  PRIMARY KEY (entry, locale)
) STRICT, WITHOUT ROWID;
CREATE INDEX coverage_by_state ON coverage (locale, state);
CREATE TABLE coverage_detail (
  entry INTEGER NOT NULL REFERENCES entry, locale TEXT NOT NULL, revision INTEGER NOT NULL, detail TEXT NOT NULL,
  PRIMARY KEY (entry, locale)
) STRICT, WITHOUT ROWID;
CREATE INDEX entry_by_actor ON entry (actor);
CREATE INDEX job_not_closed ON job (locale) WHERE state NOT IN ('accepted', 'cancelled');
