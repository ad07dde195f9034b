-- When a person leaves this Ebbe with all that is theirs; 0: they stay.
ALTER TABLE people ADD COLUMN leaves INTEGER NOT NULL DEFAULT 0;

-- Where copies of everything were written, and when: who leaves is still in these.
CREATE TABLE backups (
	path TEXT PRIMARY KEY,
	at INTEGER NOT NULL
);
