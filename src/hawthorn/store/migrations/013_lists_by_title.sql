-- Lists of entries by title, from either end.
CREATE INDEX summary_by_title ON summary (title COLLATE NOCASE, edition) WHERE locale <> '*';
