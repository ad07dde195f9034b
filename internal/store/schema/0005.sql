-- Accounts, where messages lie on their servers, drafts of every kind, and messages
-- on their way out. What was written before there were accounts is kept, and not
-- sent by itself now.

ALTER TABLE drafts RENAME TO drafts_before;

ALTER TABLE outgoings ADD COLUMN account_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN draft_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN conversation_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN state TEXT NOT NULL DEFAULT 'kept';

ALTER TABLE outgoings ADD COLUMN recipients TEXT NOT NULL DEFAULT '[]';

ALTER TABLE outgoings ADD COLUMN next INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN rule TEXT NOT NULL DEFAULT '';

ALTER TABLE outgoings ADD COLUMN again TEXT NOT NULL DEFAULT '';

ALTER TABLE outgoings ADD COLUMN begins TEXT NOT NULL DEFAULT '{}';

ALTER TABLE outgoings ADD COLUMN attempts INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN problem TEXT NOT NULL DEFAULT '';

ALTER TABLE outgoings ADD COLUMN sent_at INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN quiet NUMERIC NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN filed NUMERIC NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN laid NUMERIC NOT NULL DEFAULT 0;

ALTER TABLE people ADD COLUMN inward TEXT NOT NULL DEFAULT '';

CREATE TABLE accounts (
	id integer PRIMARY KEY AUTOINCREMENT,
	box_id integer,
	person_id integer,
	name text,
	address text,
	full_name text,
	signature text,
	mailbox text,
	sending text,
	login text,
	secret blob,
	token numeric,
	carries text,
	paused numeric,
	begun integer,
	synced integer,
	trouble text,
	expected integer,
	brought integer
);

CREATE TABLE awaiteds (
	folder_id integer,
	message_id integer,
	PRIMARY KEY (folder_id,message_id)
);

CREATE TABLE copies (
	folder_id integer,
	uid integer,
	message_id integer,
	seen numeric,
	star numeric,
	PRIMARY KEY (folder_id,uid)
);

CREATE TABLE draft_copies (
	account_id integer,
	message_id text,
	draft_id integer,
	PRIMARY KEY (account_id,message_id)
);

CREATE TABLE draft_files (
	id integer PRIMARY KEY AUTOINCREMENT,
	draft_id integer,
	name text,
	type text,
	size integer,
	passed numeric,
	content blob
);

CREATE TABLE drafts (
	id integer PRIMARY KEY AUTOINCREMENT,
	person_id integer,
	conversation_id integer,
	mode text,
	message_id integer,
	account_id integer,
	"to" text,
	cc text,
	bcc text,
	subject text,
	text text,
	rich numeric,
	bare numeric,
	receipt numeric,
	begun integer,
	changed integer,
	outgoing_id integer
);

CREATE TABLE errands (
	conversation_id integer,
	box_id integer,
	rev integer,
	attempts integer,
	at integer,
	problem text,
	PRIMARY KEY (conversation_id)
);

CREATE TABLE folders (
	id integer PRIMARY KEY AUTOINCREMENT,
	account_id integer,
	name text,
	role text,
	validity integer,
	low integer,
	high integer,
	whole numeric,
	mod_seq integer,
	gone numeric
);

CREATE TABLE happenings (
	id integer PRIMARY KEY AUTOINCREMENT,
	account_id integer,
	message_id integer
);

CREATE TABLE templates (
	id integer PRIMARY KEY AUTOINCREMENT,
	person_id integer,
	name text,
	subject text,
	text text
);

CREATE TABLE unaskeds (
	person_id integer,
	message_id integer,
	PRIMARY KEY (person_id,message_id)
);

CREATE INDEX draft_conversation ON drafts(conversation_id);

CREATE INDEX errand_at ON errands(at);

CREATE UNIQUE INDEX folder_name ON folders(account_id,name);

CREATE INDEX idx_accounts_box_id ON accounts(box_id);

CREATE INDEX idx_copies_message_id ON copies(message_id);

CREATE INDEX idx_draft_files_draft_id ON draft_files(draft_id);

CREATE INDEX idx_drafts_person_id ON drafts(person_id);

CREATE INDEX idx_errands_box_id ON errands(box_id);

CREATE INDEX idx_happenings_account_id ON happenings(account_id);

CREATE INDEX idx_templates_person_id ON templates(person_id);

CREATE INDEX outgoing_next ON outgoings(next) WHERE state = 'waiting';

CREATE INDEX outgoing_open ON outgoings(box_id, id) WHERE state <> 'sent';

CREATE UNIQUE INDEX person_inward ON people(inward) WHERE inward <> '';

INSERT INTO drafts(person_id, conversation_id, mode, message_id, account_id, "to", cc, bcc, subject, text, rich, bare, receipt, begun, changed, outgoing_id)
	SELECT person_id, conversation_id, 'reply', 0, 0, 'null', 'null', 'null', '', text, 0, 0, 0, begun, changed, 0 FROM drafts_before;

DROP TABLE drafts_before;

-- Automatic answers are the only ones that no step has written.
UPDATE outgoings SET quiet = 1 WHERE entry_id = 0 AND state = 'kept';

UPDATE outgoings SET state = 'withdrawn' WHERE withdrawn AND state = 'kept';

-- The demo's mail comes from its post office.
DROP TABLE on_its_ways;

DELETE FROM things WHERE kind = 'posted';
