-- The words of the trade, where tables and what is kept in them had words of their own.

ALTER TABLE remark RENAME TO comment;
ALTER TABLE reply RENAME COLUMN remark TO comment;
ALTER TABLE mention RENAME COLUMN remark TO comment;
DROP INDEX remark_by_entry;
CREATE INDEX comment_by_entry ON comment (entry, locale, id);
DROP INDEX reply_by_remark;
CREATE INDEX reply_by_comment ON reply (comment, id);
UPDATE notice SET kind = 'comment' WHERE kind = 'remark';
UPDATE notice_choice SET kind = 'comment' WHERE kind = 'remark';
UPDATE notice SET path = replace(path, '?remark=', '?comment=');

ALTER TABLE notice RENAME TO notification;
ALTER TABLE notice_choice RENAME TO notification_choice;
DROP INDEX notice_by_actor;
CREATE INDEX notification_by_actor ON notification (actor, id DESC);
DROP INDEX notice_unseen;
CREATE INDEX notification_unseen ON notification (actor) WHERE seen_at IS NULL;
DROP INDEX notice_waiting;
CREATE INDEX notification_waiting ON notification (actor) WHERE mailed = 'waiting';

ALTER TABLE pass RENAME TO override;
DROP INDEX pass_by_revision;
CREATE INDEX override_by_revision ON override (revision, stage);
UPDATE workflow SET definition =
  replace(replace(definition, '"pass_roles"', '"override_roles"'), '"pass_people"', '"override_people"');

DROP INDEX summary_lacks;
ALTER TABLE summary RENAME COLUMN lacks TO incomplete;
CREATE INDEX summary_incomplete ON summary (updated_at DESC, edition DESC) WHERE incomplete = 1;

-- What a table allows is changed in the text of the schema: it has rows, and others refer to it.
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(sql, '''handed on''', '''reassigned''') WHERE type = 'table' AND name = 'assignment';
UPDATE sqlite_schema SET sql = replace(sql, '''clockwork''', '''scheduler''') WHERE type = 'table' AND name = 'actor';
UPDATE sqlite_schema SET sql = replace(sql, '''home''', '''returned''') WHERE type = 'table' AND name = 'job';
UPDATE sqlite_schema SET sql = replace(sql, '''called off''', '''cancelled''') WHERE type = 'table' AND name IN ('job', 'dispatch');
UPDATE sqlite_schema SET sql = replace(sql, '''came in''', '''merged''') WHERE type = 'table' AND name = 'strand';
PRAGMA writable_schema = RESET;
UPDATE strand SET ended = 'merged' WHERE ended = 'came in';
UPDATE assignment SET outcome = 'reassigned' WHERE outcome = 'handed on';
UPDATE actor SET kind = 'scheduler' WHERE kind = 'clockwork';
UPDATE actor SET handle = 'scheduler', name = 'Scheduler' WHERE handle = 'clockwork';
UPDATE job SET state = 'returned' WHERE state = 'home';
UPDATE job SET state = 'cancelled' WHERE state = 'called off';
UPDATE dispatch SET state = 'cancelled' WHERE state = 'called off';
UPDATE revision SET actor_kind = 'scheduler' WHERE actor_kind = 'clockwork';
UPDATE follower SET name = 'connector' WHERE name = 'courier';
UPDATE follower SET name = 'scheduler' WHERE name = 'clockwork';
UPDATE outbox SET follower = 'connector' WHERE follower = 'courier';

ALTER TABLE job_entry RENAME COLUMN home_revision TO returned_revision;
UPDATE revision SET origin = 'return' WHERE origin = 'homecoming';

UPDATE workflow SET definition = replace(definition, '"own":', '"custom":');
UPDATE content_type SET definition = replace(replace(replace(definition, '"kind": "yesno"', '"kind": "boolean"'),
  '"kind": "listing"', '"kind": "query"'), '"kind": "below"', '"kind": "parent"');
UPDATE field_set SET definition = replace(replace(definition, '"kind": "yesno"', '"kind": "boolean"'),
  '"kind": "listing"', '"kind": "query"');

ALTER TABLE stage RENAME COLUMN rung TO ord;
UPDATE workflow SET definition = replace(definition, '"rung":', '"order":');

ALTER TABLE revision RENAME COLUMN spine TO paragraph_ids;
UPDATE template SET content = replace(content, '"spines"', '"paragraph_ids"');

UPDATE content_type SET definition = replace(definition, '"search_words":', '"meta_description":');
