-- A unit keeps what came of each of its sentences, what the translator noted, and why what came could not be taken.

ALTER TABLE job_unit ADD COLUMN segments TEXT NOT NULL DEFAULT '';
ALTER TABLE job_unit ADD COLUMN notes TEXT NOT NULL DEFAULT '[]';
ALTER TABLE job_unit ADD COLUMN trouble TEXT NOT NULL DEFAULT '';
