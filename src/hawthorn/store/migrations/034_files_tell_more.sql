-- Each job has a preview link of its own, with which its translator sees the pages that it is of.
ALTER TABLE preview ADD COLUMN job INTEGER REFERENCES job;
CREATE INDEX preview_of_job ON preview (job) WHERE job IS NOT NULL;

-- What other programs put beside the sentences of a unit, as XML: it goes out again as it came.
ALTER TABLE job_unit ADD COLUMN beside TEXT NOT NULL DEFAULT '';
