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
