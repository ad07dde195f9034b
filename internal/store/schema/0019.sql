-- Which conversation of somebody's own box is one with which of a team's (together.Sharing).
CREATE TABLE sharings (
	id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	person_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	team_box_id INTEGER NOT NULL,
	team_conversation_id INTEGER NOT NULL DEFAULT 0,
	since INTEGER NOT NULL,
	begins INTEGER NOT NULL DEFAULT 0,
	ended INTEGER NOT NULL DEFAULT 0,
	addressed NUMERIC NOT NULL DEFAULT FALSE,
	why TEXT NOT NULL DEFAULT ''
);

CREATE INDEX sharing_own ON sharings(conversation_id);

CREATE INDEX sharing_team ON sharings(team_conversation_id);

CREATE INDEX sharing_box ON sharings(box_id);

CREATE INDEX sharing_team_box ON sharings(team_box_id, person_id);

-- Messages of one box that are seen in another by such a sharing, and which they are there: 0
-- until they are, -1 where that cannot be.
CREATE TABLE carried (
	sharing_id INTEGER NOT NULL,
	message_id INTEGER NOT NULL,
	box_id INTEGER NOT NULL,
	to_box_id INTEGER NOT NULL,
	there INTEGER NOT NULL DEFAULT 0,
	PRIMARY KEY (sharing_id, message_id)
) WITHOUT ROWID;

CREATE INDEX carried_waiting ON carried(sharing_id) WHERE there = 0;

CREATE INDEX carried_there ON carried(there) WHERE there > 0;

CREATE INDEX carried_box ON carried(box_id, message_id);

CREATE INDEX carried_to_box ON carried(to_box_id);

-- Whether a member of a team writes from its address by their own name, as they last chose, and
-- whether a draft does.
ALTER TABLE members ADD COLUMN named NUMERIC NOT NULL DEFAULT FALSE;

ALTER TABLE drafts ADD COLUMN named NUMERIC NOT NULL DEFAULT FALSE;

-- When a member of a team was last given something, by which turns go.
ALTER TABLE members ADD COLUMN given INTEGER NOT NULL DEFAULT 0;
