-- Planned dispatches over whose instant a quiet period lies by what is known now, and which nobody lets pass it: they will be held then.
ALTER TABLE dispatch ADD COLUMN resting INTEGER NOT NULL DEFAULT 0;
