-- What a move carries beside its revision, as its verb reads it: members of a JSON object.
ALTER TABLE move ADD COLUMN payload TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(payload));
