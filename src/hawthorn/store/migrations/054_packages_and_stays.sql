-- Sentences and concepts that came in a package: which one, and whether it made the memory or the glossary that they lie in.
ALTER TABLE memory_import ADD COLUMN exchange INTEGER REFERENCES exchange ON DELETE SET NULL;
ALTER TABLE memory_import ADD COLUMN made INTEGER NOT NULL DEFAULT 0;
ALTER TABLE glossary_import ADD COLUMN exchange INTEGER REFERENCES exchange ON DELETE SET NULL;
ALTER TABLE glossary_import ADD COLUMN made INTEGER NOT NULL DEFAULT 0;
CREATE INDEX memory_import_with ON memory_import (exchange) WHERE exchange IS NOT NULL;
CREATE INDEX glossary_import_with ON glossary_import (exchange) WHERE exchange IS NOT NULL;

-- A text that was signed off waits on while a newer one goes from stage to stage: where work stayed is worked out again from the log.
DELETE FROM job_figure;
UPDATE follower SET cursor = 0 WHERE name = 'counter';
