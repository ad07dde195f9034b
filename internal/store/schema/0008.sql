-- A draft may be open in two windows at once. Its version counts the changes; which
-- window (writer) made the last, and which of its own that was (turn), tells a change
-- that comes twice or late from one made without having seen the other's.
ALTER TABLE drafts ADD COLUMN version INTEGER NOT NULL DEFAULT 0;

ALTER TABLE drafts ADD COLUMN writer TEXT NOT NULL DEFAULT '';

ALTER TABLE drafts ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;
