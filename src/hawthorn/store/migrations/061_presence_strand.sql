-- On which strand of an edition somebody is: who writes beside the draft does not meet who writes in it.
ALTER TABLE presence ADD COLUMN strand TEXT NOT NULL DEFAULT 'draft';
