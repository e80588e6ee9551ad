-- What stands at a stage between the draft (1) and what is out (2): what waits there was looked for in all that was ever signed off.
CREATE INDEX standing_between ON standing (stage, edition) WHERE until IS NULL AND stage > 2;
DROP INDEX submission_signed;
-- What is still to be sent, or never will be: it was counted, for whoever measures, among all that was ever sent.
CREATE INDEX outbox_left ON outbox (follower, state) WHERE state <> 'done';
