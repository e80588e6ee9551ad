-- By what readers filter and sort: the values of fields that their types mark for it, of each edition that is drafted (stage 1) or out (2), shared ones
-- with it, and where it stands in lists. A place has two numbers, and the cell of a tenth of a degree in which it lies.
CREATE TABLE filter_value (
  edition INTEGER NOT NULL REFERENCES edition, stage INTEGER NOT NULL, field TEXT NOT NULL, ord INTEGER NOT NULL,
  text TEXT NOT NULL, number REAL, other REAL, cell INTEGER,
  pinned INTEGER NOT NULL DEFAULT 0, sort INTEGER NOT NULL DEFAULT 0, PRIMARY KEY (edition, stage, field, ord)
) STRICT, WITHOUT ROWID;
CREATE INDEX filter_value_text ON filter_value (stage, field, text, edition);
CREATE INDEX filter_value_listed ON filter_value (stage, field, text, pinned DESC, sort DESC, edition DESC);
CREATE INDEX filter_value_number ON filter_value (stage, field, number, edition) WHERE number IS NOT NULL;
CREATE INDEX filter_value_cell ON filter_value (stage, field, cell, edition) WHERE cell IS NOT NULL;
CREATE INDEX listed_in_order ON listed (stage, locale, pinned DESC, sort DESC, edition DESC) WHERE until IS NULL;
