-- The indexes of words anew: the text comes first among their columns, as each place in the
-- first of them takes two bytes less, and most places are there. Beside them the beginnings
-- of words. Eight parts of an index are put together at once instead of four, as what comes
-- in is then written less often. What is in them is put there in the background, the newest first; "unfolded"
-- says up to which message it is not.
DROP TABLE words;

CREATE VIRTUAL TABLE words USING fts5(body, subject, people, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2");

INSERT INTO words(words, rank) VALUES ('automerge', 8);

CREATE VIRTUAL TABLE starts USING fts5(beginnings, content='', contentless_delete=1, detail=none, tokenize="ascii");

INSERT INTO starts(starts, rank) VALUES ('automerge', 8);

DROP TABLE document_words;

CREATE VIRTUAL TABLE document_words USING fts5(body, subject, people, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2");

INSERT INTO document_words(document_words, rank) VALUES ('automerge', 8);

CREATE VIRTUAL TABLE document_starts USING fts5(beginnings, content='', contentless_delete=1, detail=none, tokenize="ascii");

INSERT INTO document_starts(document_starts, rank) VALUES ('automerge', 8);

-- What a file says comes last among the columns: whoever asks for another does not read it.
DROP TRIGGER message_gone;

DROP TRIGGER message_moved;

CREATE TABLE documents_anew (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	box_id INTEGER NOT NULL,
	kind TEXT NOT NULL,
	conversation_id INTEGER NOT NULL,
	message_id INTEGER NOT NULL,
	part INTEGER NOT NULL,
	uid TEXT NOT NULL,
	title TEXT NOT NULL,
	person TEXT NOT NULL,
	at INTEGER NOT NULL,
	text TEXT NOT NULL
);

INSERT INTO documents_anew(id, box_id, kind, conversation_id, message_id, part, uid, title, person, at, text)
	SELECT id, box_id, kind, conversation_id, message_id, part, uid, title, person, at, text FROM documents;

DROP TABLE documents;

ALTER TABLE documents_anew RENAME TO documents;

CREATE INDEX documents_message ON documents(message_id) WHERE message_id > 0;

CREATE INDEX documents_of ON documents(box_id, kind, uid) WHERE message_id = 0;

CREATE INDEX documents_conversation ON documents(conversation_id) WHERE conversation_id > 0;

CREATE TRIGGER message_moved AFTER UPDATE OF conversation_id ON messages WHEN old.conversation_id <> new.conversation_id BEGIN
	UPDATE documents SET conversation_id = new.conversation_id WHERE message_id = new.id AND message_id > 0;
	UPDATE facts SET conversation_id = new.conversation_id WHERE message_id = new.id;
END;

CREATE TRIGGER message_gone AFTER DELETE ON messages BEGIN
	DELETE FROM words WHERE rowid = old.id;
	DELETE FROM starts WHERE rowid = old.id;
	DELETE FROM document_words WHERE rowid IN (SELECT id FROM documents WHERE message_id = old.id AND message_id > 0);
	DELETE FROM document_starts WHERE rowid IN (SELECT id FROM documents WHERE message_id = old.id AND message_id > 0);
	DELETE FROM documents WHERE message_id = old.id AND message_id > 0;
	DELETE FROM unread_files WHERE message_id = old.id;
	DELETE FROM facts WHERE message_id = old.id;
END;

INSERT INTO stale_documents(box_id, kind, uid) SELECT DISTINCT box_id, kind, uid FROM documents WHERE message_id = 0;

DELETE FROM meta WHERE name = 'unfolded';

INSERT INTO meta(name, value) SELECT 'unfolded', MAX(id) FROM messages WHERE true HAVING COUNT(*) > 0;

-- A saved list can stand on the rail, with how much is on it; asked is what was asked for
-- in Find, if it was saved there.
ALTER TABLE saved_lists ADD COLUMN counted NUMERIC NOT NULL DEFAULT FALSE;

ALTER TABLE saved_lists ADD COLUMN asked TEXT NOT NULL DEFAULT '';
