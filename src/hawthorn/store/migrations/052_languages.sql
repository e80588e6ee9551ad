-- The language in which somebody is spoken to (BCP 47); empty for that of the house.
ALTER TABLE actor ADD COLUMN language TEXT NOT NULL DEFAULT '';
