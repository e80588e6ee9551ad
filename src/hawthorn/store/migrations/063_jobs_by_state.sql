-- The jobs in a state, into a language, and of one translator, newest first: those of a bureau have an index already.
CREATE INDEX job_by_state ON job (state);
CREATE INDEX job_by_locale ON job (locale);
CREATE INDEX job_by_translator ON job (translator) WHERE translator IS NOT NULL;
