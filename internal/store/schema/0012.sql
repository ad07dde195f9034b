-- How important a message was weighed to be when it came, in thousandths (0: never
-- weighed), and why; of a conversation, as it is weighed now, and what its reader has
-- said of that.
ALTER TABLE messages ADD COLUMN importance INTEGER NOT NULL DEFAULT 0;

ALTER TABLE messages ADD COLUMN because TEXT NOT NULL DEFAULT '';

-- The list it came from, by its List-Id (RFC 2919).
ALTER TABLE messages ADD COLUMN list TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN importance INTEGER NOT NULL DEFAULT 0;

ALTER TABLE conversations ADD COLUMN because TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN said TEXT NOT NULL DEFAULT '';

-- What comes in it goes past the inbox.
ALTER TABLE conversations ADD COLUMN silent NUMERIC NOT NULL DEFAULT 0;

-- What importance looks at in each message of others, and what has become of it:
-- a lesson, whose weight is 0 as long as nothing is known.
CREATE TABLE weighed (
	message_id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	from_addr TEXT NOT NULL,
	traits TEXT NOT NULL,
	came INTEGER NOT NULL,
	worth REAL NOT NULL DEFAULT 0,
	weight REAL NOT NULL DEFAULT 0,
	answer INTEGER NOT NULL DEFAULT 0
);

CREATE INDEX weighed_came ON weighed(box_id, came);

CREATE INDEX weighed_from ON weighed(box_id, from_addr, came);

CREATE INDEX weighed_corrected ON weighed(box_id, came) WHERE weight >= 8;

-- The sum of all lessons, by what they have in common.
CREATE TABLE tallies (
	box_id INTEGER NOT NULL,
	feature TEXT NOT NULL,
	yes REAL NOT NULL,
	no REAL NOT NULL,
	n INTEGER NOT NULL,
	answered INTEGER NOT NULL,
	quick INTEGER NOT NULL,
	PRIMARY KEY (box_id, feature)
) WITHOUT ROWID;

CREATE INDEX tallies_senders ON tallies(box_id, n) WHERE feature >= 'from:' AND feature < 'from;';

-- Conversations about which something was done that has not been learned from.
CREATE TABLE unlearned (
	conversation_id INTEGER PRIMARY KEY
);

CREATE TRIGGER touched_unlearned AFTER INSERT ON touches BEGIN
	INSERT OR IGNORE INTO unlearned(conversation_id) VALUES (new.conversation_id);
END;

-- Messages of the last year that came before they were weighed.
CREATE TABLE unweighed (
	message_id INTEGER PRIMARY KEY
);

INSERT INTO unweighed(message_id) SELECT id FROM messages WHERE NOT own AND date > (strftime('%s', 'now') - 400 * 86400) * 1000;

-- What the reader wants done with messages that come in. Rev is new with each change.
CREATE TABLE rules (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	box_id INTEGER NOT NULL,
	rank INTEGER NOT NULL,
	rev INTEGER NOT NULL,
	gone INTEGER NOT NULL DEFAULT 0,
	data TEXT NOT NULL
);

CREATE INDEX rules_of ON rules(box_id, rank, id) WHERE NOT gone;

CREATE INDEX rules_rev ON rules(rev);

-- What a rule has done with a message, by its entry of the journal; 0: it would have.
CREATE TABLE rule_runs (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	rule_id INTEGER NOT NULL,
	box_id INTEGER NOT NULL,
	message_id INTEGER NOT NULL,
	conversation_id INTEGER NOT NULL,
	at INTEGER NOT NULL,
	entry_id INTEGER NOT NULL
);

CREATE INDEX rule_runs_of ON rule_runs(rule_id, id);

-- Lists that were left, and when: by their List-Id, or the address they are from.
CREATE TABLE left_lists (
	box_id INTEGER NOT NULL,
	list TEXT NOT NULL,
	at INTEGER NOT NULL,
	PRIMARY KEY (box_id, list)
) WITHOUT ROWID;
