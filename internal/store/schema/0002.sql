-- Sittings, labels, places, drafts and saved lists, with what the queue is grouped
-- and sorted by.

ALTER TABLE conversations ADD COLUMN until TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN site INTEGER NOT NULL DEFAULT 0;

ALTER TABLE conversations ADD COLUMN title TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN note TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN labels TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN account TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN reach TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN rank INTEGER NOT NULL DEFAULT 0;

ALTER TABLE conversations ADD COLUMN size INTEGER NOT NULL DEFAULT 0;

ALTER TABLE correspondents ADD COLUMN answered_at INTEGER NOT NULL DEFAULT 0;

ALTER TABLE entries ADD COLUMN ref INTEGER NOT NULL DEFAULT 0;

ALTER TABLE entries ADD COLUMN sitting_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE people ADD COLUMN habits TEXT NOT NULL DEFAULT '{}';

ALTER TABLE people ADD COLUMN site INTEGER NOT NULL DEFAULT 0;

CREATE TABLE conversation_labels (
	label_id integer,
	conversation_id integer,
	PRIMARY KEY (label_id,conversation_id)
);

CREATE TABLE drafts (
	person_id integer,
	conversation_id integer,
	text text,
	begun integer,
	changed integer,
	PRIMARY KEY (person_id,conversation_id)
);

CREATE TABLE labels (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	parent integer,
	name text,
	color text,
	mark text,
	gone numeric
);

CREATE TABLE saved_lists (
	id integer PRIMARY KEY AUTOINCREMENT,
	person_id integer,
	name text,
	query text,
	folded numeric,
	rank integer
);

CREATE TABLE sites (
	id integer PRIMARY KEY AUTOINCREMENT,
	person_id integer,
	name text,
	gone numeric
);

CREATE TABLE sittings (
	id integer PRIMARY KEY AUTOINCREMENT,
	person_id integer,
	begun integer,
	ended integer,
	"order" text,
	minutes integer,
	queue text
);

CREATE TABLE touches (
	conversation_id INTEGER,
	entry_id INTEGER,
	PRIMARY KEY (conversation_id, entry_id)
) WITHOUT ROWID;

CREATE INDEX conversation_site ON conversations(site) WHERE site > 0;

CREATE INDEX entry_sitting ON entries(sitting_id, id) WHERE sitting_id > 0;

CREATE INDEX idx_conversation_labels_conversation_id ON conversation_labels(conversation_id);

CREATE INDEX idx_labels_box_id ON labels(box_id);

CREATE INDEX idx_saved_lists_person_id ON saved_lists(person_id);

CREATE INDEX idx_sites_person_id ON sites(person_id);

CREATE INDEX idx_sittings_person_id ON sittings(person_id);

CREATE INDEX inbox_queue ON conversations(box_id, since, id, reason) WHERE place = 'inbox';

CREATE INDEX inbox_sender ON conversations(box_id, from_addr, since) WHERE place = 'inbox';

CREATE INDEX message_arrival ON messages(box_id, date, conversation_id) WHERE NOT own;

INSERT OR IGNORE INTO touches SELECT json_extract(j.value, '$.after.id'), e.id FROM entries e, json_each(e.changes) j
	WHERE e.kind <> 'look' AND json_extract(j.value, '$.after.id') > 0;

UPDATE conversations SET size = (SELECT COALESCE(SUM(size), 0) FROM messages m WHERE m.conversation_id = conversations.id);

UPDATE correspondents SET answered_at = a.at FROM (SELECT m.box_id box, json_extract(j.value, '$.address') address, MAX(m.date) at
	FROM messages m, json_each(m."to") j WHERE m.own GROUP BY 1, 2) a WHERE a.box = box_id AND a.address = correspondents.address;

INSERT INTO meta(name, value) VALUES ('afterwards: readdress', '1');
