-- A draft may be open in two windows at once. Its version counts the changes; which
-- window (writer) made the last, and which of its own that was (turn), tells a change
-- that comes twice or late from one made without having seen the other's.
ALTER TABLE drafts ADD COLUMN version INTEGER NOT NULL DEFAULT 0;

ALTER TABLE drafts ADD COLUMN writer TEXT NOT NULL DEFAULT '';

ALTER TABLE drafts ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;

-- What the newest message of somebody else begins with, as slips show it; with the
-- message, so that it is known when that is the newest again. Conversations from
-- before are read in the background, those that have come last first.
ALTER TABLE messages ADD COLUMN begins TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN begins TEXT NOT NULL DEFAULT '';

CREATE TABLE unbegun (
	conversation_id INTEGER PRIMARY KEY
);

INSERT INTO unbegun SELECT id FROM conversations WHERE merged_to = 0;

-- What a notification that waits leads to.
ALTER TABLE postponeds ADD COLUMN conversation_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE postponeds ADD COLUMN follow_up TEXT NOT NULL DEFAULT '';
