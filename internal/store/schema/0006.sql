-- What keeps mail safe on real servers: what is open between two people found
-- without reading mail, errands that know what was decided, joined and parted
-- conversations, questions about what vanished elsewhere, and the way back from a
-- backup.

DROP INDEX entry_steps;

ALTER TABLE accounts ADD COLUMN empty_days INTEGER NOT NULL DEFAULT 0;

ALTER TABLE conversations ADD COLUMN apart NUMERIC NOT NULL DEFAULT 0;

ALTER TABLE copies ADD COLUMN put INTEGER NOT NULL DEFAULT 0;

ALTER TABLE errands ADD COLUMN left_places TEXT NOT NULL DEFAULT 'inbox,held,snoozed,archived,bin,junk';

ALTER TABLE folders ADD COLUMN careful NUMERIC NOT NULL DEFAULT 0;

ALTER TABLE folders ADD COLUMN trying INTEGER NOT NULL DEFAULT 0;

ALTER TABLE happenings ADD COLUMN folder_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE messages ADD COLUMN stub INTEGER NOT NULL DEFAULT 0;

ALTER TABLE messages ADD COLUMN reader INTEGER NOT NULL DEFAULT 1;

ALTER TABLE outgoings ADD COLUMN bcc TEXT NOT NULL DEFAULT 'null';

CREATE TABLE known_browsers (
	token_hash text,
	person_id integer,
	at integer,
	PRIMARY KEY (token_hash)
);

CREATE TABLE open_between (
	box_id INTEGER,
	address TEXT,
	due_at INTEGER,
	uid TEXT,
	PRIMARY KEY (box_id, address, due_at, uid)
) WITHOUT ROWID;

CREATE VIRTUAL TABLE people_words USING fts5(words, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2");

CREATE TABLE vanishings (
	folder_id integer,
	message_id integer,
	account_id integer,
	at integer,
	asked numeric,
	put_back numeric,
	PRIMARY KEY (folder_id,message_id)
);

CREATE INDEX correspondent_last ON correspondents(box_id, last_at);

CREATE INDEX correspondent_sent ON correspondents(box_id, answered_at) WHERE sent > 0;

CREATE INDEX entry_actor ON entries(box_id, actor, id);

CREATE INDEX entry_box ON entries(box_id, id);

CREATE INDEX entry_step ON entries(person_id, id) WHERE step AND actor = 'person';

CREATE INDEX idx_known_browsers_person_id ON known_browsers(person_id);

CREATE INDEX idx_vanishings_account_id ON vanishings(account_id);

CREATE INDEX message_raw ON messages(reader) WHERE raw;

CREATE INDEX open_between_uid ON open_between(box_id, uid);

CREATE INDEX outgoing_address ON outgoings(address, box_id, hold);

CREATE INDEX outgoing_conversation ON outgoings(conversation_id);

CREATE INDEX outgoing_quiet ON outgoings(box_id, id) WHERE quiet;

CREATE INDEX outgoing_unfiled ON outgoings(id) WHERE state = 'sent' AND NOT filed;

CREATE INDEX outgoing_unlaid ON outgoings(account_id, id) WHERE state = 'sent' AND filed AND NOT laid;

INSERT OR IGNORE INTO open_between SELECT f.box_id, m.from_addr, f.due_at, f.uid FROM follow_ups f
	JOIN messages m ON m.conversation_id = f.conversation_id AND m.held = '' AND m.box_id = f.box_id WHERE f.open AND f.conversation_id > 0 AND m.from_addr <> '';

INSERT INTO people_words(rowid, words) SELECT rowid, name || ' ' || address FROM correspondents;

INSERT INTO meta(name, value) VALUES ('afterwards: hash secrets', '1');

CREATE TRIGGER between_follow_up_change AFTER UPDATE ON follow_ups WHEN old.open <> new.open OR old.due_at <> new.due_at OR old.conversation_id <> new.conversation_id BEGIN
	DELETE FROM open_between WHERE box_id = old.box_id AND uid = old.uid;
	INSERT OR IGNORE INTO open_between SELECT new.box_id, from_addr, new.due_at, new.uid FROM messages WHERE new.open AND new.conversation_id > 0 AND conversation_id = new.conversation_id AND held = '' AND from_addr <> '';
END;

CREATE TRIGGER between_follow_up_gone AFTER DELETE ON follow_ups BEGIN
	DELETE FROM open_between WHERE box_id = old.box_id AND uid = old.uid;
END;

CREATE TRIGGER between_follow_up_new AFTER INSERT ON follow_ups WHEN new.open AND new.conversation_id > 0 BEGIN
	INSERT OR IGNORE INTO open_between SELECT new.box_id, from_addr, new.due_at, new.uid FROM messages WHERE conversation_id = new.conversation_id AND held = '' AND from_addr <> '';
END;

CREATE TRIGGER between_message_change AFTER UPDATE OF held, conversation_id ON messages WHEN new.held = '' AND new.from_addr <> '' BEGIN
	INSERT OR IGNORE INTO open_between SELECT f.box_id, new.from_addr, f.due_at, f.uid FROM follow_ups f WHERE f.conversation_id = new.conversation_id AND +f.box_id = new.box_id AND f.open;
END;

CREATE TRIGGER between_message_new AFTER INSERT ON messages WHEN new.held = '' AND new.from_addr <> '' BEGIN
	INSERT OR IGNORE INTO open_between SELECT f.box_id, new.from_addr, f.due_at, f.uid FROM follow_ups f WHERE f.conversation_id = new.conversation_id AND +f.box_id = new.box_id AND f.open;
END;

CREATE TRIGGER people_words_change AFTER UPDATE OF name ON correspondents WHEN old.name <> new.name BEGIN
	DELETE FROM people_words WHERE rowid = old.rowid;
	INSERT INTO people_words(rowid, words) VALUES (new.rowid, new.name || ' ' || new.address);
END;

CREATE TRIGGER people_words_gone AFTER DELETE ON correspondents BEGIN
	DELETE FROM people_words WHERE rowid = old.rowid;
END;

CREATE TRIGGER people_words_new AFTER INSERT ON correspondents BEGIN
	INSERT INTO people_words(rowid, words) VALUES (new.rowid, new.name || ' ' || new.address);
END;
