-- Answers that a repeated request is given again are kept for a day: those that are older go, some with each that comes.
CREATE INDEX idempotency_by_age ON idempotency (at);
DELETE FROM idempotency WHERE at < (SELECT at FROM event ORDER BY seq DESC LIMIT 1) - 86400000000;
-- Of a mail that was sent only that it was is kept, not what it said.
UPDATE outbox SET payload = '{}' WHERE follower = 'mail' AND state = 'done';
