package plantest

import (
	"context"
	"database/sql"
)

var ctx = context.Background()

// fill puts enough rows into the tables that the statistics say what they would
// say of a mailbox of some years.
func fill(db *sql.DB) error {
	for _, q := range []string{
		`PRAGMA foreign_keys = off`,
		`CREATE TEMP TABLE n AS WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 20000) SELECT i FROM c`,
		`INSERT INTO people(id, name, address, week) VALUES (1, 'A', 'a@m.example', '{}')`,
		`INSERT INTO conversations(id, box_id, place, reason, since, return_at, until, site, subject, base, last_at, messages, kind, from_addr, merged_to, labels, title, note)
			SELECT i, 1, CASE WHEN i % 20 = 0 THEN 'inbox' WHEN i % 31 = 0 THEN 'snoozed' WHEN i % 37 = 0 THEN 'bin' ELSE 'archived' END, 'arrived', i * 1000, CASE WHEN i % 31 = 0 THEN i * 2000 ELSE 0 END, '', 0,
			'S' || i, 's' || i, i * 1000, 3, 'person', 'w' || (i % 997) || '@x.example', 0, '', '', '' FROM n`,
		`INSERT INTO marks(person_id, conversation_id, unread, starred, looks) SELECT 1, i, i % 3 = 0, i % 50 = 0, 0 FROM n`,
		`INSERT INTO messages(id, box_id, hash, message_id, conversation_id, date, received, subject, from_name, from_addr, kind, own, size, held, through, let_in)
			SELECT i * 3 + k.j, 1, randomblob(32), 'm' || (i * 3 + k.j), i, i * 1000 + k.j, i * 1000, 'S' || i, 'W', 'w' || (i % 997) || '@x.example', 'person', k.j = 2, 3000, '', '', 0 FROM n, (SELECT 0 j UNION SELECT 1 UNION SELECT 2) k`,
		`INSERT INTO originals(message_id, bytes) SELECT id, 'x' FROM messages`,
		`INSERT INTO refs(box_id, message_id, conversation_id) SELECT 1, message_id, conversation_id FROM messages`,
		`INSERT INTO correspondents(box_id, address, name, received, sent, first_at, last_at, answered_at) SELECT 1, 'w' || i || '@x.example', 'W', 3, 1, 1, i, i FROM n WHERE i < 997`,
		`INSERT INTO entries(id, box_id, person_id, actor, kind, at, delta, count, conversation_id, step, taken_back, sitting_id) SELECT i, 1, 1, 'person', 'archive', i * 1000, -1, 1, i, 1, 0, 0 FROM n`,
		`INSERT INTO touches(conversation_id, entry_id) SELECT i, i FROM n`,
		`INSERT INTO outgoings(id, box_id, hold, address, at, subject, text, state, account_id, conversation_id, filed, laid) SELECT i, 1, 'message/' || i, 'w@x.example', i, 'S', 'T', CASE WHEN i % 500 = 0 THEN 'waiting' ELSE 'sent' END, 1, i, 1, 1 FROM n WHERE i < 5000`,
		`INSERT INTO accounts(id, box_id, person_id, name) VALUES (1, 1, 1, 'A'), (2, 1, 1, 'B')`,
		`INSERT INTO folders(id, account_id, name, role) SELECT i, 1 + i % 2, 'F' || i, 'other' FROM n WHERE i <= 10`,
		`INSERT INTO copies(folder_id, uid, message_id, seen, star) SELECT 1 + id % 10, id, id, 1, 0 FROM messages`,
		`INSERT INTO follow_ups(box_id, uid, open, due_at, stage, project, person, context, priority, conversation_id, finished, card, rev, data) SELECT 1, 'u' || i, i % 4 = 0, i * 1000, 'todo', 'p' || (i % 50), 'w' || (i % 997) || '@x.example', '', 5, i, 0, 0, i, '{}' FROM n WHERE i % 4 = 0`,
		`INSERT INTO events(box_id, uid, start_at, end_at, repeats, conversation_id, card, data) SELECT 1, 'e' || i, i * 1000, i * 1000 + 500, 0, i, 0, '{}' FROM n WHERE i % 20 = 0`,
		`ANALYZE`,
	} {
		if _, err := db.Exec(q); err != nil {
			return err
		}
	}
	return nil
}

// parts gives the indexes that hold a part of their table only.
func parts(db *sql.DB) (map[string]bool, error) {
	rows, err := db.Query(`SELECT name FROM sqlite_master WHERE type = 'index' AND sql LIKE '%WHERE%'`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]bool{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		out[name] = true
	}
	return out, rows.Err()
}
