-- Through whose hands of a team a draft has gone (together.Trail), and who began it: 0 is whoever
-- has it.
ALTER TABLE drafts ADD COLUMN trail TEXT;

ALTER TABLE drafts ADD COLUMN begun_by INTEGER NOT NULL DEFAULT 0;

CREATE INDEX draft_begun_by ON drafts(begun_by) WHERE begun_by > 0;

-- Files that members of a team have added to what they say; until they have said it
-- (comment_id 0) they are whoever's added them.
CREATE TABLE comment_files (
	id INTEGER PRIMARY KEY,
	box_id INTEGER NOT NULL,
	person_id INTEGER NOT NULL,
	comment_id INTEGER NOT NULL DEFAULT 0,
	name TEXT NOT NULL,
	type TEXT NOT NULL,
	size INTEGER NOT NULL,
	added INTEGER NOT NULL,
	content BLOB NOT NULL
);

CREATE INDEX comment_file_of ON comment_files(comment_id);

CREATE INDEX comment_file_box ON comment_files(box_id, person_id);

-- Telephone lines are accounts with a line (texting.Line) and, in place of servers, a gateway that
-- speaks to Ebbe at an address of its own.
ALTER TABLE accounts ADD COLUMN line TEXT;

ALTER TABLE accounts ADD COLUMN hook TEXT NOT NULL DEFAULT '';

CREATE UNIQUE INDEX account_hook ON accounts(hook) WHERE hook <> '';

-- By which name the gateway tells of a text that was sent, and when it has reached its telephone.
ALTER TABLE outgoings ADD COLUMN receipt TEXT NOT NULL DEFAULT '';

ALTER TABLE outgoings ADD COLUMN reached INTEGER NOT NULL DEFAULT 0;

CREATE INDEX outgoing_receipt ON outgoings(account_id, receipt) WHERE receipt <> '';

-- What is known of a telephone number in a box: whose it is, by their mail address, whether they
-- want no texts any more, and when a line has last answered it by itself.
CREATE TABLE numbers (
	box_id INTEGER NOT NULL,
	number TEXT NOT NULL,
	name TEXT NOT NULL DEFAULT '',
	address TEXT NOT NULL DEFAULT '',
	stopped INTEGER NOT NULL DEFAULT 0,
	answered INTEGER NOT NULL DEFAULT 0,
	PRIMARY KEY (box_id, number)
) WITHOUT ROWID;

CREATE INDEX number_address ON numbers(box_id, address) WHERE address <> '';
