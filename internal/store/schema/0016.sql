-- The words that stand in the indexes, each once: what is common is asked for by its words,
-- which can be read one after another, rather than by how they begin.
CREATE VIRTUAL TABLE spelled USING fts5vocab(words, row);

CREATE VIRTUAL TABLE document_spelled USING fts5vocab(document_words, row);

-- What some message of a conversation is like, a bit each (search.Traits), and its size
-- stand in the index by which the newest come first: what few have is found without looking
-- at all.
ALTER TABLE conversations ADD COLUMN traits INTEGER NOT NULL DEFAULT 0;

UPDATE conversations SET traits = COALESCE((SELECT MAX(x.own) << 6 FROM messages x WHERE x.conversation_id = conversations.id), 0)
	| COALESCE((SELECT SUM(DISTINCT 1 << (8 + (unicode(x.language) * 26 + unicode(substr(x.language, 2))) % 32)) FROM messages x WHERE x.conversation_id = conversations.id AND length(x.language) >= 2), 0)
	| CASE WHEN files = 0 THEN 0 ELSE 128 + COALESCE((SELECT
		MAX(x.files LIKE '%"image/%')
		| MAX(x.files LIKE '%"application/pdf%' OR x.files LIKE '%.pdf"%') << 1
		| MAX(x.files LIKE '%"text/%' OR x.files LIKE '%rtf%' OR x.files LIKE '%"application/msword%' OR x.files LIKE '%opendocument.text%' OR x.files LIKE '%wordprocessingml%' OR x.files LIKE '%.doc%' OR x.files LIKE '%.odt"%' OR x.files LIKE '%.txt"%') << 2
		| MAX(x.files LIKE '%"text/csv%' OR x.files LIKE '%ms-excel%' OR x.files LIKE '%opendocument.spreadsheet%' OR x.files LIKE '%spreadsheetml%' OR x.files LIKE '%.xls%' OR x.files LIKE '%.ods"%' OR x.files LIKE '%.csv"%') << 3
		| MAX(x.files LIKE '%"text/calendar%' OR x.files LIKE '%.ics"%') << 4
		| MAX(x.files LIKE '%"application/%zip%' OR x.files LIKE '%"application/x-%' OR x.files LIKE '%.zip"%' OR x.files LIKE '%.gz"%' OR x.files LIKE '%.tar"%' OR x.files LIKE '%.tgz"%' OR x.files LIKE '%.7z"%') << 5
		FROM messages x WHERE x.conversation_id = conversations.id), 0) END;

DROP INDEX conversation_recent;

CREATE INDEX conversation_recent ON conversations(box_id, last_at, id, traits, size);

-- Who looks after the people of this Ebbe, whose access is paused, the sealed secret of
-- their codes by the time (RFC 6238) with the last one that was used, and what they are
-- told when they sign in next.
ALTER TABLE people ADD COLUMN admin NUMERIC NOT NULL DEFAULT FALSE;

ALTER TABLE people ADD COLUMN paused NUMERIC NOT NULL DEFAULT FALSE;

ALTER TABLE people ADD COLUMN codes BLOB;

ALTER TABLE people ADD COLUMN code_used INTEGER NOT NULL DEFAULT 0;

ALTER TABLE people ADD COLUMN tell TEXT NOT NULL DEFAULT '';

UPDATE people SET admin = TRUE WHERE id = (SELECT MIN(id) FROM people);

-- When a session was begun and last used, with what browser and from where.
ALTER TABLE sessions ADD COLUMN begun INTEGER NOT NULL DEFAULT 0;

ALTER TABLE sessions ADD COLUMN seen INTEGER NOT NULL DEFAULT 0;

ALTER TABLE sessions ADD COLUMN browser TEXT NOT NULL DEFAULT '';

ALTER TABLE sessions ADD COLUMN origin TEXT NOT NULL DEFAULT '';

UPDATE sessions SET begun = expires - 2592000000, seen = CAST(strftime('%s', 'now') AS INTEGER) * 1000;

CREATE INDEX session_person ON sessions(person_id);

-- Links by which somebody can come to this Ebbe once; a hash of the secret part of each.
CREATE TABLE invitations (
	token_hash TEXT PRIMARY KEY,
	name TEXT NOT NULL,
	address TEXT NOT NULL,
	made_by INTEGER NOT NULL,
	made INTEGER NOT NULL,
	expires INTEGER NOT NULL
);

-- Codes by which a person gets in once when a password or a device is lost; a hash of each.
CREATE TABLE recovery_codes (
	person_id INTEGER NOT NULL,
	code_hash TEXT NOT NULL,
	PRIMARY KEY (person_id, code_hash)
);

-- Passkeys (WebAuthn) of a person: what is public of each, as the package for them keeps it.
CREATE TABLE passkeys (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	person_id INTEGER NOT NULL,
	name TEXT NOT NULL,
	credential TEXT NOT NULL,
	made INTEGER NOT NULL,
	used INTEGER NOT NULL
);

CREATE INDEX passkey_person ON passkeys(person_id);
