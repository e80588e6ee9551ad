-- The bytes of files lie apart from what is known of them, in parts: reading one is no longer reading past all others. What was kept
-- before stays in one part each. A file may also lie outside of the record file, where the settings say.
CREATE TABLE file_part (
    sha256 TEXT NOT NULL REFERENCES file,
    start INTEGER NOT NULL,
    data BLOB NOT NULL,
    PRIMARY KEY (sha256, start)
) STRICT;
INSERT INTO file_part (sha256, start, data) SELECT sha256, 0, data FROM file;
ALTER TABLE file DROP COLUMN data;
ALTER TABLE file ADD COLUMN outside INTEGER NOT NULL DEFAULT 0 CHECK (outside IN (0, 1));
CREATE INDEX file_outside ON file (sha256) WHERE outside = 1;
