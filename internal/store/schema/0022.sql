-- Who answered whom, and how long it took (numbers.Answers): what somebody wrote to the reader, or the
-- reader to them, and when it was answered; answered 0 is not yet. at is the one, or the other. It is made
-- of the messages of a conversation, after these have changed.
CREATE TABLE answers (
	box_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	address TEXT NOT NULL,
	own INTEGER NOT NULL,
	asked INTEGER NOT NULL,
	answered INTEGER NOT NULL,
	at INTEGER NOT NULL,
	PRIMARY KEY (conversation_id, address, asked, own, answered)
) WITHOUT ROWID;

CREATE INDEX answer_at ON answers(box_id, at, own, address, asked, answered);

CREATE INDEX answer_with ON answers(box_id, address, own, at, asked, answered);

-- When a conversation between people began, and whether the reader began it.
CREATE TABLE openings (
	conversation_id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	at INTEGER NOT NULL,
	own INTEGER NOT NULL
);

CREATE INDEX opening_at ON openings(box_id, at, own);

-- The conversations of which that has to be made anew.
CREATE TABLE stale_answers (
	conversation_id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL
);

CREATE TRIGGER answers_message_new AFTER INSERT ON messages WHEN new.held = '' AND (new.own OR new.kind = 'person') BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) VALUES (new.conversation_id, new.box_id);
END;

CREATE TRIGGER answers_message_changed AFTER UPDATE OF conversation_id, held, own, kind, date ON messages
WHEN old.conversation_id <> new.conversation_id OR old.held <> new.held OR old.own <> new.own OR old.kind <> new.kind OR old.date <> new.date BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) VALUES (old.conversation_id, old.box_id);
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) VALUES (new.conversation_id, new.box_id);
END;

CREATE TRIGGER answers_message_gone AFTER DELETE ON messages BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) VALUES (old.conversation_id, old.box_id);
END;

CREATE TRIGGER answers_junk AFTER UPDATE OF place ON conversations WHEN old.place <> new.place AND (old.place = 'junk' OR new.place = 'junk') BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) VALUES (new.id, new.box_id);
END;

INSERT INTO stale_answers(conversation_id, box_id) SELECT id, box_id FROM conversations WHERE merged_to = 0;

-- What the reader notes about people, by their addresses.
CREATE TABLE remarks (
	box_id INTEGER NOT NULL,
	address TEXT NOT NULL,
	text TEXT NOT NULL,
	changed INTEGER NOT NULL,
	PRIMARY KEY (box_id, address)
) WITHOUT ROWID;

-- What was offered in a week in review and refused, and, with no offer, until when somebody has looked at it.
CREATE TABLE refused (
	box_id INTEGER NOT NULL,
	person_id INTEGER NOT NULL,
	offer TEXT NOT NULL,
	at INTEGER NOT NULL,
	PRIMARY KEY (box_id, person_id, offer)
) WITHOUT ROWID;

-- That somebody digs an inbox out: since when, how many were left then, and how many pieces of ten minutes
-- they mean to take a day.
CREATE TABLE digs (
	box_id INTEGER PRIMARY KEY,
	begun INTEGER NOT NULL,
	left_then INTEGER NOT NULL,
	tens INTEGER NOT NULL
);

-- The running numbers of whole months (counted from that of 1970), so that those of a year are not read day
-- by day; and, as the measure "hours", when a person decides: by the day of the week (0 is Sunday) and hour.
CREATE TABLE month_tallies (
	box_id INTEGER NOT NULL,
	month INTEGER NOT NULL,
	measure TEXT NOT NULL,
	detail TEXT NOT NULL,
	actor TEXT NOT NULL,
	n INTEGER NOT NULL,
	PRIMARY KEY (box_id, month, measure, detail, actor)
) WITHOUT ROWID;

INSERT INTO month_tallies(box_id, month, measure, detail, actor, n)
	SELECT box_id, (strftime('%Y', day * 86400, 'unixepoch') - 1970) * 12 + strftime('%m', day * 86400, 'unixepoch') - 1, measure, detail, actor, SUM(n) FROM day_tallies GROUP BY 1, 2, 3, 4, 5;

INSERT INTO month_tallies(box_id, month, measure, detail, actor, n)
	SELECT box_id, (strftime('%Y', wall * 3600, 'unixepoch') - 1970) * 12 + strftime('%m', wall * 3600, 'unixepoch') - 1, 'hours', ((wall / 24 + 4) % 7) || ' ' || (wall % 24), actor, SUM(n)
	FROM hour_tallies WHERE measure = 'decided' AND actor = 'person' GROUP BY 1, 2, 3, 4, 5;

-- How often the answers of a box have been made anew: who has read them knows whether they still are so.
CREATE TABLE answer_revisions (
	box_id INTEGER PRIMARY KEY,
	rev INTEGER NOT NULL
);

-- To whom mail was written is told by the addresses of whoever's box it is: where these change, all of it is
-- looked through anew.
CREATE TRIGGER answers_address_new AFTER INSERT ON own_addresses BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) SELECT c.id, c.box_id FROM boxes b CROSS JOIN conversations c ON c.box_id = b.id WHERE b.keeper = new.person_id AND b.keeper > 0;
END;

CREATE TRIGGER answers_address_gone AFTER DELETE ON own_addresses BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) SELECT c.id, c.box_id FROM boxes b CROSS JOIN conversations c ON c.box_id = b.id WHERE b.keeper = old.person_id AND b.keeper > 0;
END;

CREATE TRIGGER answers_keeper AFTER UPDATE OF keeper ON boxes WHEN old.keeper <> new.keeper BEGIN
	INSERT OR IGNORE INTO stale_answers(conversation_id, box_id) SELECT id, box_id FROM conversations WHERE box_id = new.id;
END;
