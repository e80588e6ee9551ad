-- In which sections a section lies; the jobs of a bureau; what plans a dispatch; what was sent back to somebody, and what was signed off last; what is to be
-- done with an entry; the dispatches that went last. Each was looked for in all there are.
CREATE INDEX section_within_of ON section_within (section, ancestor);
CREATE INDEX job_by_bureau ON job (bureau, state);
CREATE INDEX planned_field_by_dispatch ON planned_field (dispatch) WHERE dispatch IS NOT NULL;
CREATE INDEX submission_sent_back ON submission (actor, decided_at DESC) WHERE outcome = 'sent back';
CREATE INDEX submission_signed ON submission (decided_at DESC) WHERE outcome = 'signed off';
CREATE INDEX assignment_of ON assignment (entry);
CREATE INDEX dispatch_of_series ON dispatch (series, instant) WHERE series IS NOT NULL;
CREATE INDEX dispatch_ended ON dispatch (ended_at) WHERE state IN ('gone', 'undone');

-- Which sign-offs covered an edition, and which revision of it: `seen` the other way round, kept up whoever changes that.
CREATE TABLE sign_off_shown (
  edition INTEGER NOT NULL, sign_off INTEGER NOT NULL, revision INTEGER NOT NULL, PRIMARY KEY (edition, sign_off)
) STRICT, WITHOUT ROWID;
INSERT INTO sign_off_shown
  SELECT CAST(j.key AS INTEGER), s.id, j.value FROM sign_off s JOIN json_each(s.seen) j WHERE json_type(s.seen) = 'object';
CREATE TRIGGER sign_off_made AFTER INSERT ON sign_off WHEN json_type(new.seen) = 'object' BEGIN
  INSERT INTO sign_off_shown SELECT CAST(j.key AS INTEGER), new.id, j.value FROM json_each(new.seen) j;
END;
CREATE TRIGGER sign_off_changed AFTER UPDATE OF seen ON sign_off BEGIN
  DELETE FROM sign_off_shown WHERE sign_off = old.id AND edition IN (SELECT CAST(j.key AS INTEGER) FROM json_each(old.seen) j);
  INSERT INTO sign_off_shown
    SELECT CAST(j.key AS INTEGER), new.id, j.value FROM json_each(new.seen) j WHERE json_type(new.seen) = 'object';
END;
CREATE TRIGGER sign_off_taken AFTER DELETE ON sign_off BEGIN
  DELETE FROM sign_off_shown WHERE sign_off = old.id AND edition IN (SELECT CAST(j.key AS INTEGER) FROM json_each(old.seen) j);
END;
