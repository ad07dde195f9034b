-- What grows stands apart from what is looked at: the bytes of the outbox in a
-- table of their own, and only until they stand in a conversation; the sum of the
-- journal; the questions about the outbox answered by indexes of what is open.

CREATE TABLE outgoing_bytes (
	outgoing_id INTEGER PRIMARY KEY,
	bytes BLOB NOT NULL
);

INSERT INTO outgoing_bytes SELECT id, original FROM outgoings WHERE original IS NOT NULL AND NOT (filed AND laid);

ALTER TABLE outgoings DROP COLUMN original;

-- The message it has become in its conversation, or 0.
ALTER TABLE outgoings ADD COLUMN message_id INTEGER NOT NULL DEFAULT 0;

-- A message may have nobody hidden, or nobody at all; earlier versions did not let
-- that be said in databases that were older than they.
ALTER TABLE outgoings RENAME COLUMN bcc TO bcc_before;

ALTER TABLE outgoings ADD COLUMN bcc TEXT;

UPDATE outgoings SET bcc = bcc_before;

ALTER TABLE outgoings DROP COLUMN bcc_before;

ALTER TABLE outgoings RENAME COLUMN recipients TO recipients_before;

ALTER TABLE outgoings ADD COLUMN recipients TEXT;

UPDATE outgoings SET recipients = recipients_before;

ALTER TABLE outgoings DROP COLUMN recipients_before;

DROP INDEX outgoing_open;

CREATE INDEX outgoing_open ON outgoings(box_id, id) WHERE state NOT IN ('sent', 'withdrawn');

CREATE INDEX outgoing_stuck ON outgoings(box_id) WHERE state IN ('refused', 'hanging');

CREATE INDEX outgoing_sending ON outgoings(id) WHERE state = 'sending';

CREATE INDEX mark_unread ON marks(person_id, conversation_id) WHERE unread;

CREATE INDEX inbox_round ON conversations(box_id, round, since) WHERE place = 'inbox' AND round > 0;

CREATE INDEX conversation_sender ON conversations(box_id, from_addr, last_at, id);

CREATE TABLE balances (
	box_id INTEGER PRIMARY KEY,
	left_to_decide INTEGER NOT NULL
);

INSERT INTO balances SELECT box_id, SUM(delta) FROM entries GROUP BY box_id;

CREATE TRIGGER balance_new AFTER INSERT ON entries WHEN new.delta <> 0 BEGIN
	INSERT INTO balances VALUES (new.box_id, new.delta) ON CONFLICT DO UPDATE SET left_to_decide = left_to_decide + new.delta;
END;

-- One message can lie in several boxes. What it is, its bytes, is kept once, with
-- the message that came first (original_id, or 0 for the message itself); where it
-- stands is a row of each box.
ALTER TABLE messages ADD COLUMN original_id INTEGER NOT NULL DEFAULT 0;

DROP INDEX message_hash;

CREATE UNIQUE INDEX message_hash ON messages(hash, box_id);

-- What cannot be made up later is noted as it happens, of each person: which
-- conversation was open, for how long, whether to its end; and which notices were
-- shown.
CREATE TABLE readings (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	person_id INTEGER NOT NULL,
	box_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	message_id INTEGER NOT NULL,
	at INTEGER NOT NULL,
	seconds INTEGER NOT NULL,
	whole INTEGER NOT NULL
);

CREATE INDEX reading_person ON readings(person_id, at);

CREATE INDEX reading_conversation ON readings(conversation_id, person_id);

CREATE TABLE notices (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	person_id INTEGER NOT NULL,
	box_id INTEGER NOT NULL,
	at INTEGER NOT NULL,
	text TEXT NOT NULL
);

CREATE INDEX notice_person ON notices(person_id, at);
