-- The day on which a bureau thinks that a job is due (NULL where it has none), and why it could not be told another.
ALTER TABLE job ADD COLUMN due_told TEXT;
ALTER TABLE job ADD COLUMN due_trouble TEXT NOT NULL DEFAULT '';
UPDATE job SET due_told = due WHERE bureau IS NOT NULL AND remote <> '';
