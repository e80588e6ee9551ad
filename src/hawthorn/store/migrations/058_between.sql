-- What stands at a stage between the draft (1) and what is out (2): what waits there was looked for in all that was ever signed off.
CREATE INDEX standing_between ON standing (stage, edition) WHERE until IS NULL AND stage > 2;
DROP INDEX submission_signed;
