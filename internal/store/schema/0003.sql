-- Plans, held mail, and what Ebbe answers.

DROP INDEX conversation_why;

DROP INDEX inbox_queue;

ALTER TABLE conversations ADD COLUMN round INTEGER NOT NULL DEFAULT 0;

ALTER TABLE messages ADD COLUMN held TEXT NOT NULL DEFAULT '';

ALTER TABLE messages ADD COLUMN through TEXT NOT NULL DEFAULT '';

ALTER TABLE messages ADD COLUMN let_in INTEGER NOT NULL DEFAULT 0;

ALTER TABLE people ADD COLUMN delivery TEXT NOT NULL DEFAULT '{"on":"","since":0,"plans":[],"hand":{"mode":"","from":0,"until":{"at":0},"answer":""},"through":[],"counted":false,"backWaits":false,"notify":{"on":true,"rounds":false,"reminders":"all","people":[]}}';

CREATE TABLE on_its_ways (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	at integer,
	raw blob
);

CREATE TABLE outgoings (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	hold text,
	address text,
	name text,
	at integer,
	subject text,
	text text,
	original blob
);

CREATE TABLE postponeds (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	text text
);

CREATE INDEX conversation_held ON conversations(box_id, since) WHERE place = 'held';

CREATE INDEX idx_on_its_ways_at ON on_its_ways(at);

CREATE INDEX idx_postponeds_box_id ON postponeds(box_id);

CREATE INDEX inbox_queue ON conversations(box_id, since, id, reason, round) WHERE place = 'inbox';

CREATE INDEX message_held ON messages(box_id, held, received, conversation_id) WHERE held <> '';

CREATE INDEX message_let_in ON messages(let_in) WHERE let_in > 0;

CREATE INDEX message_through ON messages(box_id, through, received) WHERE through <> '';

CREATE UNIQUE INDEX outgoing_once ON outgoings(box_id,hold,address);
