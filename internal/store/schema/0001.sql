-- The schema with which Ebbe began: conversations, messages, the journal, the
-- agenda.

CREATE TABLE boxes (
	id integer PRIMARY KEY AUTOINCREMENT,
	name text
);

CREATE TABLE conversations (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	place text,
	reason text,
	since integer,
	snoozed_at integer,
	return_at integer,
	return_local text,
	return_zone text,
	subject text,
	base text,
	last_at integer,
	first_at integer,
	messages integer,
	files integer,
	kind text,
	from_name text,
	from_addr text,
	own_last numeric,
	merged_to integer
);

CREATE TABLE correspondents (
	box_id integer,
	address text,
	name text,
	received integer,
	sent integer,
	first_at integer,
	last_at integer,
	PRIMARY KEY (box_id,address)
);

CREATE TABLE entries (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	person_id integer,
	actor text,
	kind text,
	at integer,
	delta integer,
	count integer,
	conversation_id integer,
	text text,
	step numeric,
	"of" integer,
	taken_back integer,
	changes text
);

CREATE TABLE follow_ups (
	uid text,
	box_id integer,
	open numeric,
	due_at integer,
	conversation_id integer,
	finished integer,
	card numeric,
	data text,
	PRIMARY KEY (uid)
);

CREATE TABLE marks (
	person_id integer,
	conversation_id integer,
	unread numeric,
	starred numeric,
	looks integer,
	PRIMARY KEY (person_id,conversation_id)
);

CREATE TABLE members (
	box_id integer,
	person_id integer,
	PRIMARY KEY (box_id,person_id)
);

CREATE TABLE messages (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	hash blob,
	message_id text,
	conversation_id integer,
	date integer,
	received integer,
	subject text,
	from_name text,
	from_addr text,
	"to" text,
	cc text,
	files text,
	kind text,
	own numeric,
	raw numeric,
	size integer
);

CREATE TABLE meta (
	name text,
	value text,
	PRIMARY KEY (name)
);

CREATE TABLE originals (
	message_id integer,
	bytes blob,
	PRIMARY KEY (message_id)
);

CREATE TABLE own_addresses (
	person_id integer,
	address text,
	account text,
	PRIMARY KEY (person_id,address)
);

CREATE TABLE people (
	id integer PRIMARY KEY AUTOINCREMENT,
	name text,
	address text,
	password text,
	week text,
	theme text,
	created integer
);

CREATE TABLE refs (
	box_id integer,
	message_id text,
	conversation_id integer,
	PRIMARY KEY (box_id,message_id)
);

CREATE TABLE requests (
	person_id integer,
	key text,
	at integer,
	answer blob,
	PRIMARY KEY (person_id,key)
);

CREATE TABLE sessions (
	token_hash text,
	person_id integer,
	csrf text,
	expires integer,
	PRIMARY KEY (token_hash)
);

CREATE TABLE things (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	at integer,
	kind text,
	conversation_id integer,
	follow_up text
);

CREATE VIRTUAL TABLE words USING fts5(subject, people, body, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2");

CREATE INDEX conversation_base ON conversations(box_id,base,last_at);

CREATE INDEX conversation_queue ON conversations(box_id,place,since,id);

CREATE INDEX conversation_recent ON conversations(box_id, last_at, id);

CREATE INDEX conversation_return ON conversations(box_id,place,return_at);

CREATE INDEX conversation_why ON conversations(box_id,place,reason,since);

CREATE INDEX entry_at ON entries(box_id,at,delta);

CREATE INDEX entry_steps ON entries(person_id,step);

CREATE INDEX entry_take_back ON entries(person_id, id) WHERE kind = 'take-back' AND taken_back = 0;

CREATE INDEX followup_cards ON follow_ups(box_id) WHERE card;

CREATE INDEX followup_due ON follow_ups(box_id,open,due_at);

CREATE INDEX idx_follow_ups_conversation_id ON follow_ups(conversation_id);

CREATE UNIQUE INDEX idx_people_address ON people(address);

CREATE INDEX idx_refs_conversation_id ON refs(conversation_id);

CREATE INDEX idx_requests_at ON requests(at);

CREATE INDEX idx_things_at ON things(at);

CREATE INDEX mark_starred ON marks(person_id, conversation_id) WHERE starred;

CREATE INDEX message_conversation ON messages(conversation_id,date);

CREATE UNIQUE INDEX message_hash ON messages(box_id,hash);

CREATE INDEX message_mid ON messages(box_id,message_id);

CREATE UNIQUE INDEX thing_subject ON things(kind,conversation_id,follow_up);

INSERT INTO boxes(id, name) VALUES (1, 'Mail');
