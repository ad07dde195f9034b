-- The stream a message came in, where something was said of it; else it is that of its
-- kind. The stream a conversation is in, likewise, and whether the user has put it there
-- for good: what comes in it comes in that stream.
ALTER TABLE messages ADD COLUMN stream TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN stream TEXT NOT NULL DEFAULT '';

ALTER TABLE conversations ADD COLUMN kept NUMERIC NOT NULL DEFAULT 0;

CREATE INDEX conversations_kept ON conversations(box_id, last_at) WHERE kept;

-- What a rule has done with a message that is no entry of the journal: it was let
-- through, or told of.
ALTER TABLE rule_runs ADD COLUMN did TEXT NOT NULL DEFAULT '';

CREATE INDEX rule_runs_did ON rule_runs(box_id, did, at) WHERE did <> '';

-- What the junk test looked at in each message of others as it came: its signs, four
-- bytes each (sorting.JunkSign), as long as something may be learned of them; how much it
-- looked like junk then, in thousandths, and by which words; what the account's server
-- had found; whose address it may be taken for. And what it was in the end: 1 junk,
-- -1 kept, 0 not known.
CREATE TABLE junk_tests (
	message_id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	from_addr TEXT NOT NULL,
	came INTEGER NOT NULL,
	signs BLOB,
	score INTEGER NOT NULL,
	words TEXT NOT NULL,
	found TEXT NOT NULL,
	script TEXT NOT NULL,
	seems TEXT NOT NULL,
	why TEXT NOT NULL DEFAULT '',
	was INTEGER NOT NULL DEFAULT 0
);

CREATE INDEX junk_tests_came ON junk_tests(box_id, came);

CREATE INDEX junk_tests_signs ON junk_tests(came) WHERE signs IS NOT NULL;

CREATE INDEX junk_tests_from ON junk_tests(box_id, from_addr, came) WHERE was = 1;

-- In how many messages that were junk, and that were kept, a sign was; 0: all of them.
CREATE TABLE junk_signs (
	box_id INTEGER NOT NULL,
	sign INTEGER NOT NULL,
	junk INTEGER NOT NULL,
	good INTEGER NOT NULL,
	PRIMARY KEY (box_id, sign)
) WITHOUT ROWID;

CREATE INDEX correspondents_at ON correspondents(box_id, substr(address, instr(address, '@') + 1)) WHERE received > 0;

CREATE INDEX correspondents_named ON correspondents(box_id, name) WHERE sent > 0;

-- Rules that are offered, as the reader has done the same several times: what they would
-- be about and do, in words, by whom that is, and what became of the offer: open, taken or
-- refused.
CREATE TABLE offers (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	box_id INTEGER NOT NULL,
	about TEXT NOT NULL,
	does TEXT NOT NULL,
	name TEXT NOT NULL,
	times INTEGER NOT NULL,
	at INTEGER NOT NULL,
	state TEXT NOT NULL
);

CREATE UNIQUE INDEX offers_once ON offers(box_id, about, does);
