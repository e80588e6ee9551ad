-- Whether there is an open strand of a name, beside the drafts of all entries.
CREATE INDEX strand_beside ON strand (name) WHERE closed_at IS NULL AND name <> 'draft';
