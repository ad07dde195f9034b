-- Texts besides messages by which conversations are found, or which are found by
-- themselves: what files say, the reader's own names of conversations and notes,
-- follow-ups, events. A file is read once for a message; what it said stands in text, so
-- that the place can be shown.
CREATE TABLE documents (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	box_id INTEGER NOT NULL,
	kind TEXT NOT NULL,
	conversation_id INTEGER NOT NULL,
	message_id INTEGER NOT NULL,
	part INTEGER NOT NULL,
	uid TEXT NOT NULL,
	title TEXT NOT NULL,
	text TEXT NOT NULL,
	person TEXT NOT NULL,
	at INTEGER NOT NULL
);

CREATE INDEX documents_message ON documents(message_id) WHERE message_id > 0;

CREATE INDEX documents_of ON documents(box_id, kind, uid) WHERE message_id = 0;

CREATE INDEX documents_conversation ON documents(conversation_id) WHERE conversation_id > 0;

CREATE VIRTUAL TABLE document_words USING fts5(subject, people, body, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2");

-- What was changed and is not yet in document_words as it is now: it is put there before
-- the transaction that changed it ends. It may stand there more than once.
CREATE TABLE stale_documents (
	box_id INTEGER NOT NULL,
	kind TEXT NOT NULL,
	uid TEXT NOT NULL
);

CREATE INDEX stale_documents_of ON stale_documents(box_id, kind, uid);

CREATE TRIGGER conversation_named AFTER UPDATE OF title, note ON conversations WHEN old.title <> new.title OR old.note <> new.note BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'name', new.id);
END;

CREATE TRIGGER conversation_new AFTER INSERT ON conversations WHEN new.title <> '' OR new.note <> '' BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'name', new.id);
END;

CREATE TRIGGER conversation_gone AFTER DELETE ON conversations WHEN old.title <> '' OR old.note <> '' BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (old.box_id, 'name', old.id);
END;

CREATE TRIGGER follow_up_new AFTER INSERT ON follow_ups BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'follow-up', new.uid);
END;

CREATE TRIGGER follow_up_changed AFTER UPDATE ON follow_ups WHEN old.data <> new.data OR old.conversation_id <> new.conversation_id BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'follow-up', new.uid);
END;

CREATE TRIGGER follow_up_gone AFTER DELETE ON follow_ups BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (old.box_id, 'follow-up', old.uid);
END;

CREATE TRIGGER event_new AFTER INSERT ON events BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'event', new.uid);
END;

CREATE TRIGGER event_changed AFTER UPDATE ON events WHEN old.data <> new.data OR old.conversation_id <> new.conversation_id BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (new.box_id, 'event', new.uid);
END;

CREATE TRIGGER event_gone AFTER DELETE ON events BEGIN
	INSERT INTO stale_documents(box_id, kind, uid) VALUES (old.box_id, 'event', old.uid);
END;

INSERT INTO stale_documents(box_id, kind, uid) SELECT box_id, 'name', id FROM conversations WHERE title <> '' OR note <> '';

INSERT INTO stale_documents(box_id, kind, uid) SELECT box_id, 'follow-up', uid FROM follow_ups;

INSERT INTO stale_documents(box_id, kind, uid) SELECT box_id, 'event', uid FROM events;

-- What machines say in their messages of parcels, bills and the like. What is said of one
-- thing has the same key; it ends when nothing is expected of it any more, 0 if that is over.
CREATE TABLE facts (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	box_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	message_id INTEGER NOT NULL,
	kind TEXT NOT NULL,
	thing TEXT NOT NULL,
	at INTEGER NOT NULL,
	ends INTEGER NOT NULL,
	data TEXT NOT NULL
);

CREATE INDEX facts_conversation ON facts(conversation_id);

CREATE INDEX facts_message ON facts(message_id);

CREATE INDEX facts_open ON facts(box_id, ends);

CREATE INDEX facts_thing ON facts(box_id, thing) WHERE thing <> '';

-- Messages whose files have not been read, and which of them are being read: what breaks
-- the program off is read no second time.
CREATE TABLE unread_files (
	message_id INTEGER PRIMARY KEY,
	tries INTEGER NOT NULL DEFAULT 0
);

CREATE TRIGGER message_gone AFTER DELETE ON messages BEGIN
	DELETE FROM document_words WHERE rowid IN (SELECT id FROM documents WHERE message_id = old.id AND message_id > 0);
	DELETE FROM documents WHERE message_id = old.id AND message_id > 0;
	DELETE FROM unread_files WHERE message_id = old.id;
	DELETE FROM facts WHERE message_id = old.id;
END;

CREATE TRIGGER message_moved AFTER UPDATE OF conversation_id ON messages WHEN old.conversation_id <> new.conversation_id BEGIN
	UPDATE documents SET conversation_id = new.conversation_id WHERE message_id = new.id AND message_id > 0;
	UPDATE facts SET conversation_id = new.conversation_id WHERE message_id = new.id;
END;

-- How new the newest of each 4,096 messages is, by ID: what is common is looked for in
-- the newest first.
CREATE TABLE message_blocks (
	block INTEGER PRIMARY KEY,
	newest INTEGER NOT NULL
);

INSERT INTO message_blocks(block, newest) SELECT id >> 12, MAX(date) FROM messages GROUP BY 1;

-- Up to which message the words of messages that came before this version have still to be
-- folded, downwards, and their files to be found.
INSERT INTO meta(name, value) SELECT 'unfolded', MAX(id) FROM messages WHERE true HAVING COUNT(*) > 0;

-- What a person has looked for, and opened something of.
CREATE TABLE searches (
	person_id INTEGER NOT NULL,
	asked TEXT NOT NULL,
	at INTEGER NOT NULL,
	PRIMARY KEY (person_id, asked)
) WITHOUT ROWID;
