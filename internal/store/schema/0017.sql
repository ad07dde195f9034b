-- When a person leaves this Ebbe with all that is theirs; 0: they stay.
ALTER TABLE people ADD COLUMN leaves INTEGER NOT NULL DEFAULT 0;

-- Where copies of everything were written, and when: who leaves is still in these.
CREATE TABLE backups (
	path TEXT PRIMARY KEY,
	at INTEGER NOT NULL
);

-- How new the newest of a box's messages among each 4,096 is, by ID: what is common is
-- looked for in the newest first, and where nothing of the box is it is not looked for.
DROP TABLE message_blocks;

CREATE TABLE message_blocks (
	box_id INTEGER NOT NULL,
	block INTEGER NOT NULL,
	newest INTEGER NOT NULL,
	PRIMARY KEY (box_id, block)
) WITHOUT ROWID;

INSERT INTO message_blocks(box_id, block, newest) SELECT box_id, id >> 12, MAX(date) FROM messages GROUP BY 1, 2;

CREATE INDEX documents_box ON documents(box_id);

-- Which messages are a box's, with what is asked of thousands of them at once.
CREATE INDEX message_box ON messages(box_id, id, date, held);
