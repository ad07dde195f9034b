-- The words that stand in the indexes, each as often as it stands there: so the next word is
-- found without counting how many texts have the one before it.
DROP TABLE spelled;

CREATE VIRTUAL TABLE spelled USING fts5vocab(words, instance);

DROP TABLE document_spelled;

CREATE VIRTUAL TABLE document_spelled USING fts5vocab(document_words, instance);

-- Whose settings hold for a box: its person's, or of a team's box those of a row of people
-- that is the team's own, by which nobody signs in.
ALTER TABLE boxes ADD COLUMN keeper INTEGER NOT NULL DEFAULT 0;

UPDATE boxes SET keeper = COALESCE((SELECT MIN(m.person_id) FROM members m WHERE m.box_id = boxes.id), 0);

CREATE INDEX box_keeper ON boxes(keeper);

ALTER TABLE people ADD COLUMN team NUMERIC NOT NULL DEFAULT FALSE;

-- What each member of a team may do (together.Role), and since when they are one.
ALTER TABLE members ADD COLUMN role TEXT NOT NULL DEFAULT 'own';

ALTER TABLE members ADD COLUMN since INTEGER NOT NULL DEFAULT 0;

CREATE INDEX member_person ON members(person_id);

-- What is a person's own and about the mail of one box: of which.
ALTER TABLE drafts ADD COLUMN box_id INTEGER NOT NULL DEFAULT 0;

UPDATE drafts SET box_id = COALESCE((SELECT b.id FROM boxes b WHERE b.keeper = drafts.person_id), 0);

ALTER TABLE sittings ADD COLUMN box_id INTEGER NOT NULL DEFAULT 0;

UPDATE sittings SET box_id = COALESCE((SELECT b.id FROM boxes b WHERE b.keeper = sittings.person_id), 0);

ALTER TABLE saved_lists ADD COLUMN box_id INTEGER NOT NULL DEFAULT 0;

UPDATE saved_lists SET box_id = COALESCE((SELECT b.id FROM boxes b WHERE b.keeper = saved_lists.person_id), 0);

-- By which names stands what those wrote who have left a team, where the team keeps them.
ALTER TABLE boxes ADD COLUMN keeps_names NUMERIC NOT NULL DEFAULT TRUE;

CREATE TABLE former_members (
	box_id INTEGER NOT NULL,
	person_id INTEGER NOT NULL,
	name TEXT NOT NULL,
	PRIMARY KEY (box_id, person_id)
) WITHOUT ROWID;

-- Who of a team has a follow-up; 0: nobody. It follows from its data.
ALTER TABLE follow_ups ADD COLUMN owner INTEGER NOT NULL DEFAULT 0;

CREATE INDEX follow_up_owner ON follow_ups(box_id, owner) WHERE open AND owner > 0;

-- What members of a team say to each other about a conversation: never mail. Earlier is how it
-- stood before it was changed.
CREATE TABLE comments (
	id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	person_id INTEGER NOT NULL,
	at INTEGER NOT NULL,
	text TEXT NOT NULL,
	changed INTEGER NOT NULL DEFAULT 0,
	earlier TEXT NOT NULL DEFAULT '[]',
	gone NUMERIC NOT NULL DEFAULT FALSE
);

CREATE INDEX comment_conversation ON comments(conversation_id);

CREATE INDEX comment_box ON comments(box_id);

-- Who hears of each change of a conversation; stopped: who did and does not want to any more.
CREATE TABLE followers (
	conversation_id INTEGER NOT NULL,
	person_id INTEGER NOT NULL,
	box_id INTEGER NOT NULL,
	since INTEGER NOT NULL,
	stopped NUMERIC NOT NULL DEFAULT FALSE,
	PRIMARY KEY (conversation_id, person_id)
) WITHOUT ROWID;

CREATE INDEX follower_box ON followers(box_id, person_id);

-- Of which line of the journal somebody was to hear, and whether they have.
CREATE TABLE concerns (
	id INTEGER PRIMARY KEY,
	person_id INTEGER NOT NULL,
	box_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	entry_id INTEGER NOT NULL,
	heard NUMERIC NOT NULL DEFAULT FALSE
);

CREATE UNIQUE INDEX concern_entry ON concerns(entry_id, person_id, conversation_id);

CREATE INDEX concern_person ON concerns(person_id, id);

CREATE INDEX concern_box ON concerns(box_id, conversation_id);

CREATE INDEX concern_unheard ON concerns(person_id, box_id, conversation_id) WHERE NOT heard;

CREATE INDEX conversation_merged ON conversations(merged_to) WHERE merged_to > 0;
