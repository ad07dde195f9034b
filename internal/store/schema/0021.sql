-- Of how much of what concerns somebody in teams a letter has told them (the last of their concerns),
-- and the round with which the next is to come: 0 while none is due.
CREATE TABLE letters (
	person_id INTEGER PRIMARY KEY,
	told INTEGER NOT NULL,
	due INTEGER NOT NULL DEFAULT 0
);

CREATE INDEX letter_due ON letters(due) WHERE due > 0;

-- Comments are found by what they say, in the conversation in which they stand now: also where it was
-- joined to another, or parted from it again.
CREATE TRIGGER comment_new AFTER INSERT ON comments WHEN NOT new.gone BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'comment', new.id);
END;

CREATE TRIGGER comment_changed AFTER UPDATE ON comments WHEN old.text <> new.text OR old.gone <> new.gone BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'comment', new.id);
END;

CREATE TRIGGER comment_removed AFTER DELETE ON comments BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (old.box_id, 'comment', old.id);
END;

CREATE TRIGGER commented_joined AFTER UPDATE OF merged_to ON conversations WHEN old.merged_to <> new.merged_to BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) SELECT box_id, 'comment', id FROM comments WHERE conversation_id = new.id;
	INSERT INTO stale_documents(box_id, kind, uid) SELECT box_id, kind, uid FROM documents WHERE conversation_id IN (new.id, old.merged_to) AND conversation_id > 0 AND kind = 'comment';
END;

INSERT INTO stale_documents(box_id, kind, uid) SELECT box_id, 'comment', id FROM comments WHERE NOT gone;

-- In which hour of somebody's day a line of the journal was written, by the clock on their wall
-- (numbers.Wall), and when they had last done something before it. 0: it was written before that was
-- noted, and is noted by the program before it serves.
ALTER TABLE entries ADD COLUMN wall INTEGER NOT NULL DEFAULT 0;

ALTER TABLE entries ADD COLUMN since INTEGER NOT NULL DEFAULT 0;

-- From where what left the inbox by it had come (numbers.OriginOf), and how many.
ALTER TABLE entries ADD COLUMN origins TEXT;

CREATE INDEX entry_uncounted ON entries(box_id) WHERE wall = 0;

-- What the lines of the journal that stand come to (numbers.Tallies), by day and, of some measures, by
-- hour; person 0 is whatever nobody did.
CREATE TABLE hour_tallies (
	box_id INTEGER NOT NULL,
	measure TEXT NOT NULL,
	wall INTEGER NOT NULL,
	detail TEXT NOT NULL,
	actor TEXT NOT NULL,
	person_id INTEGER NOT NULL,
	n INTEGER NOT NULL,
	PRIMARY KEY (box_id, measure, wall, detail, actor, person_id)
) WITHOUT ROWID;

CREATE TABLE day_tallies (
	box_id INTEGER NOT NULL,
	measure TEXT NOT NULL,
	day INTEGER NOT NULL,
	detail TEXT NOT NULL,
	actor TEXT NOT NULL,
	person_id INTEGER NOT NULL,
	n INTEGER NOT NULL,
	PRIMARY KEY (box_id, measure, day, detail, actor, person_id)
) WITHOUT ROWID;

-- How many were left to decide after the last that somebody did on a day.
CREATE TABLE evenings (
	box_id INTEGER NOT NULL,
	day INTEGER NOT NULL,
	at INTEGER NOT NULL,
	entry_id INTEGER NOT NULL,
	left_to_decide INTEGER NOT NULL,
	PRIMARY KEY (box_id, day)
) WITHOUT ROWID;

-- When whoever's box it is was away: until 0 means still.
CREATE TABLE aways (
	id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	begun INTEGER NOT NULL,
	until INTEGER NOT NULL
);

CREATE INDEX away_box ON aways(box_id, begun);

CREATE INDEX sitting_box ON sittings(box_id, person_id, begun);
