-- A job is due on a day of its own, which can be put off when it is with somebody already; at first that of its commission.
ALTER TABLE job ADD COLUMN due TEXT NOT NULL DEFAULT '';
UPDATE job SET due = (SELECT c.due FROM commission c WHERE c.id = job.commission);
