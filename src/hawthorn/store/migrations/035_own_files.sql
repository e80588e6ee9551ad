-- What whoever translates a job gave in place of a file that differs by locale, and of which file of the source it is.
CREATE TABLE own_file (
    job INTEGER NOT NULL REFERENCES job,
    entry INTEGER NOT NULL REFERENCES entry,
    field TEXT NOT NULL,
    source_sha256 TEXT NOT NULL,
    sha256 TEXT NOT NULL,
    actor INTEGER NOT NULL REFERENCES actor,
    at INTEGER NOT NULL,
    PRIMARY KEY (job, entry, field)
) STRICT, WITHOUT ROWID;
