-- The dispatch that went without it, of one that keeps what was in the way then, so that each leads to the other. Of those of before it is
-- not known.
ALTER TABLE dispatch ADD COLUMN held_back_from INTEGER REFERENCES dispatch;
CREATE INDEX dispatch_held_back ON dispatch (held_back_from) WHERE held_back_from IS NOT NULL;
