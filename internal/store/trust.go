package store

import (
	"crypto/sha256"
	"encoding/hex"

	"gorm.io/gorm"
)

// trust is the schema of what keeps mail safe on real servers: what is open
// between two people found without reading mail, errands that know what was
// decided, joined and parted conversations, questions about what vanished
// elsewhere, and the way back from a backup.
func trust(db *gorm.DB) error {
	err := addColumns(db, map[string][]string{
		"messages":      {"reader INTEGER NOT NULL DEFAULT 1", "stub INTEGER NOT NULL DEFAULT 0"},
		"accounts":      {"empty_days INTEGER NOT NULL DEFAULT 0"},
		"copies":        {"put INTEGER NOT NULL DEFAULT 0"},
		"folders":       {"careful INTEGER NOT NULL DEFAULT 0", "trying INTEGER NOT NULL DEFAULT 0"},
		"conversations": {"apart INTEGER NOT NULL DEFAULT 0"},
		"outgoings":     {"bcc TEXT NOT NULL DEFAULT 'null'"},
		"happenings":    {"folder_id INTEGER NOT NULL DEFAULT 0"},
		"errands":       {"left_places TEXT NOT NULL DEFAULT 'inbox,held,snoozed,archived,bin,junk'"},
	})
	if err == nil {
		err = db.AutoMigrate(&Folder{}, &Account{}, &Vanishing{}, &KnownBrowser{})
	}
	if err == nil {
		err = hashSecrets(db)
	}
	return run(db, err,
		// What is open between the reader and whoever wrote in a conversation
		// follows from follow-ups and messages; SQLite keeps it in step.
		`CREATE TABLE IF NOT EXISTS open_between (box_id INTEGER, address TEXT, due_at INTEGER, uid TEXT, PRIMARY KEY (box_id, address, due_at, uid)) WITHOUT ROWID`,
		`CREATE INDEX IF NOT EXISTS open_between_uid ON open_between(box_id, uid)`,
		`INSERT OR IGNORE INTO open_between SELECT f.box_id, m.from_addr, f.due_at, f.uid FROM follow_ups f JOIN messages m ON m.conversation_id = f.conversation_id AND m.held = '' AND m.box_id = f.box_id WHERE f.open AND f.conversation_id > 0 AND m.from_addr <> ''`,
		`CREATE TRIGGER IF NOT EXISTS between_follow_up_new AFTER INSERT ON follow_ups WHEN new.open AND new.conversation_id > 0 BEGIN
			INSERT OR IGNORE INTO open_between SELECT new.box_id, from_addr, new.due_at, new.uid FROM messages WHERE conversation_id = new.conversation_id AND held = '' AND from_addr <> ''; END`,
		`CREATE TRIGGER IF NOT EXISTS between_follow_up_change AFTER UPDATE ON follow_ups WHEN old.open <> new.open OR old.due_at <> new.due_at OR old.conversation_id <> new.conversation_id BEGIN
			DELETE FROM open_between WHERE box_id = old.box_id AND uid = old.uid;
			INSERT OR IGNORE INTO open_between SELECT new.box_id, from_addr, new.due_at, new.uid FROM messages WHERE new.open AND new.conversation_id > 0 AND conversation_id = new.conversation_id AND held = '' AND from_addr <> ''; END`,
		`CREATE TRIGGER IF NOT EXISTS between_follow_up_gone AFTER DELETE ON follow_ups BEGIN DELETE FROM open_between WHERE box_id = old.box_id AND uid = old.uid; END`,
		`CREATE TRIGGER IF NOT EXISTS between_message_new AFTER INSERT ON messages WHEN new.held = '' AND new.from_addr <> '' BEGIN
			INSERT OR IGNORE INTO open_between SELECT f.box_id, new.from_addr, f.due_at, f.uid FROM follow_ups f WHERE f.conversation_id = new.conversation_id AND +f.box_id = new.box_id AND f.open; END`,
		`CREATE TRIGGER IF NOT EXISTS between_message_change AFTER UPDATE OF held, conversation_id ON messages WHEN new.held = '' AND new.from_addr <> '' BEGIN
			INSERT OR IGNORE INTO open_between SELECT f.box_id, new.from_addr, f.due_at, f.uid FROM follow_ups f WHERE f.conversation_id = new.conversation_id AND +f.box_id = new.box_id AND f.open; END`,

		`CREATE INDEX IF NOT EXISTS message_raw ON messages(reader) WHERE raw`,

		// The names and addresses one writes to are completed from an index of
		// their words.
		`CREATE VIRTUAL TABLE IF NOT EXISTS people_words USING fts5(words, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2")`,
		`INSERT INTO people_words(rowid, words) SELECT rowid, name || ' ' || address FROM correspondents`,
		`CREATE TRIGGER IF NOT EXISTS people_words_new AFTER INSERT ON correspondents BEGIN INSERT INTO people_words(rowid, words) VALUES (new.rowid, new.name || ' ' || new.address); END`,
		`CREATE TRIGGER IF NOT EXISTS people_words_change AFTER UPDATE OF name ON correspondents WHEN old.name <> new.name BEGIN
			DELETE FROM people_words WHERE rowid = old.rowid; INSERT INTO people_words(rowid, words) VALUES (new.rowid, new.name || ' ' || new.address); END`,
		`CREATE TRIGGER IF NOT EXISTS people_words_gone AFTER DELETE ON correspondents BEGIN DELETE FROM people_words WHERE rowid = old.rowid; END`,
		`CREATE INDEX IF NOT EXISTS correspondent_sent ON correspondents(box_id, answered_at) WHERE sent > 0`,
		`CREATE INDEX IF NOT EXISTS correspondent_last ON correspondents(box_id, last_at)`,

		`DROP INDEX IF EXISTS entry_steps`,
		`CREATE INDEX IF NOT EXISTS entry_step ON entries(person_id, id) WHERE step AND actor = 'person'`,
		`CREATE INDEX IF NOT EXISTS entry_box ON entries(box_id, id)`,
		`CREATE INDEX IF NOT EXISTS entry_actor ON entries(box_id, actor, id)`,
		`CREATE INDEX IF NOT EXISTS outgoing_conversation ON outgoings(conversation_id)`,
		`CREATE INDEX IF NOT EXISTS outgoing_address ON outgoings(address, box_id, hold)`,
		`CREATE INDEX IF NOT EXISTS outgoing_quiet ON outgoings(box_id, id) WHERE quiet`,
		`CREATE INDEX IF NOT EXISTS outgoing_unfiled ON outgoings(id) WHERE state = 'sent' AND NOT filed`,
		`CREATE INDEX IF NOT EXISTS outgoing_unlaid ON outgoings(account_id, id) WHERE state = 'sent' AND filed AND NOT laid`,
	)
}

// HashOf is the form in which a secret is kept that the program only has to
// recognise: its SHA-256 in hex. The secrets are random and long, so nothing more
// is needed.
func HashOf(secret string) string {
	h := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(h[:])
}

// hashSecrets puts hashes in place of the secrets that were kept as they are.
func hashSecrets(db *gorm.DB) error {
	var people []struct {
		ID           int64
		Feed, Inward string
	}
	if err := db.Table("people").Select("id, feed, inward").Find(&people).Error; err != nil {
		return err
	}
	for _, p := range people {
		for column, value := range map[string]string{"feed": p.Feed, "inward": p.Inward} {
			if value != "" && len(value) != 64 {
				if err := db.Exec("UPDATE people SET "+column+" = ? WHERE id = ?", HashOf(value), p.ID).Error; err != nil {
					return err
				}
			}
		}
	}
	return nil
}
