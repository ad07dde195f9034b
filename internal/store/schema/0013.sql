-- The stream a message came in, where something was said of it; else it is that of its
-- kind. The stream a conversation is in, likewise, and whether the user has put it there
-- for good: what comes in it comes in that stream.
ALTER TABLE messages ADD COLUMN stream TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN stream TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN kept NUMERIC NOT NULL DEFAULT 0;

CREATE INDEX conversations_kept ON conversations(box_id, last_at) WHERE kept;

-- What a rule has done with a message that is no entry of the journal: it was let
-- through, or told of.
ALTER TABLE rule_runs ADD COLUMN did TEXT NOT NULL DEFAULT '';
