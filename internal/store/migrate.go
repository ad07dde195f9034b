package store

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
)

// migrations bring a database from any version to this one. Each may find the
// columns of later ones already there, as a new database gets all of them at
// once; each is one transaction.
var migrations = []*gormigrate.Migration{
	{ID: "0001", Migrate: func(db *gorm.DB) error {
		err := db.AutoMigrate(&Person{}, &OwnAddress{}, &Session{}, &Box{}, &Member{}, &Conversation{}, &Mark{}, &Message{},
			&Original{}, &Ref{}, &Correspondent{}, &FollowUp{}, &Entry{}, &Thing{}, &Request{}, &Meta{})
		return run(db, err,
			`CREATE VIRTUAL TABLE words USING fts5(subject, people, body, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2")`,
			`CREATE INDEX conversation_recent ON conversations(box_id, last_at, id)`,
			`CREATE INDEX mark_starred ON marks(person_id, conversation_id) WHERE starred`,
			`CREATE INDEX entry_take_back ON entries(person_id, id) WHERE kind = 'take-back' AND taken_back = 0`,
			`INSERT INTO boxes(id, name) VALUES (1, 'Mail')`)
	}},
	{ID: "0002", Migrate: sittings},
	{ID: "0003", Migrate: deliveries},
	{ID: "0004", Migrate: followUps},
	{ID: "0005", Migrate: accounts},
	{ID: "0006", Migrate: trust},
}

// run executes statements until one fails.
func run(db *gorm.DB, err error, statements ...string) error {
	for _, q := range statements {
		if err != nil {
			return err
		}
		err = db.Exec(q).Error
	}
	return err
}

// sittings is the schema of sittings, labels, places, drafts and saved lists,
// with what the queue is grouped and sorted by.
func sittings(db *gorm.DB) error {
	err := addColumns(db, map[string][]string{
		"people": {"habits TEXT NOT NULL DEFAULT '{}'", "site INTEGER NOT NULL DEFAULT 0"},
		"conversations": {"until TEXT NOT NULL DEFAULT ''", "site INTEGER NOT NULL DEFAULT 0", "title TEXT NOT NULL DEFAULT ''", "note TEXT NOT NULL DEFAULT ''",
			"labels TEXT NOT NULL DEFAULT ''", "account TEXT NOT NULL DEFAULT ''", "reach TEXT NOT NULL DEFAULT ''", "rank INTEGER NOT NULL DEFAULT 0", "size INTEGER NOT NULL DEFAULT 0"},
		"correspondents": {"answered_at INTEGER NOT NULL DEFAULT 0"},
		"entries":        {"sitting_id INTEGER NOT NULL DEFAULT 0", "ref INTEGER NOT NULL DEFAULT 0"},
	})
	if err == nil {
		err = db.AutoMigrate(&Label{}, &ConversationLabel{}, &Site{}, &Sitting{}, &SavedList{})
	}
	err = run(db, err,
		`CREATE TABLE touches (conversation_id INTEGER, entry_id INTEGER, PRIMARY KEY (conversation_id, entry_id)) WITHOUT ROWID`,
		`CREATE INDEX entry_sitting ON entries(sitting_id, id) WHERE sitting_id > 0`,
		`CREATE INDEX IF NOT EXISTS conversation_site ON conversations(site) WHERE site > 0`,
		`CREATE INDEX inbox_queue ON conversations(box_id, since, id, reason) WHERE place = 'inbox'`,
		`CREATE INDEX inbox_sender ON conversations(box_id, from_addr, since) WHERE place = 'inbox'`,
		`CREATE INDEX message_arrival ON messages(box_id, date, conversation_id) WHERE NOT own`,
		`INSERT OR IGNORE INTO touches SELECT json_extract(j.value, '$.after.id'), e.id FROM entries e, json_each(e.changes) j
			WHERE e.kind <> 'look' AND json_extract(j.value, '$.after.id') > 0`,
		`UPDATE conversations SET size = (SELECT COALESCE(SUM(size), 0) FROM messages m WHERE m.conversation_id = conversations.id)`,
		`UPDATE correspondents SET answered_at = a.at FROM (SELECT m.box_id box, json_extract(j.value, '$.address') address, MAX(m.date) at
			FROM messages m, json_each(m."to") j WHERE m.own GROUP BY 1, 2) a WHERE a.box = box_id AND a.address = correspondents.address`)
	if err != nil {
		return err
	}
	var boxes []int64
	if err := db.Model(&Box{}).Pluck("id", &boxes).Error; err != nil {
		return err
	}
	for _, box := range boxes {
		if err := (Tx{db: db}).readdress(box); err != nil {
			return err
		}
	}
	return nil
}

// addColumns adds columns, each with its definition, where they are missing.
func addColumns(db *gorm.DB, to map[string][]string) error {
	for table, columns := range to {
		for _, c := range columns {
			if !db.Migrator().HasColumn(table, strings.Fields(c)[0]) {
				if err := db.Exec(fmt.Sprintf("ALTER TABLE %s ADD COLUMN %s", table, c)).Error; err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// deliveries is the schema of plans, held mail, and what Ebbe answers.
func deliveries(db *gorm.DB) error {
	usual, err := json.Marshal(delivery.Usual())
	if err != nil {
		return err
	}
	err = addColumns(db, map[string][]string{
		"people":        {"delivery TEXT NOT NULL DEFAULT '" + string(usual) + "'"},
		"conversations": {"round INTEGER NOT NULL DEFAULT 0"},
		"messages":      {"held TEXT NOT NULL DEFAULT ''", "through TEXT NOT NULL DEFAULT ''", "let_in INTEGER NOT NULL DEFAULT 0"},
	})
	if err == nil {
		err = db.AutoMigrate(&Outgoing{}, &Postponed{})
	}
	return run(db, err,
		`DROP INDEX IF EXISTS conversation_why`, // what it was for, inbox_queue does
		`DROP INDEX IF EXISTS inbox_queue`,
		`CREATE INDEX inbox_queue ON conversations(box_id, since, id, reason, round) WHERE place = 'inbox'`,
		`CREATE INDEX conversation_held ON conversations(box_id, since) WHERE place = 'held'`,
		`CREATE INDEX message_held ON messages(box_id, held, received, conversation_id) WHERE held <> ''`,
		`CREATE INDEX message_through ON messages(box_id, through, received) WHERE through <> ''`,
		`CREATE INDEX message_let_in ON messages(let_in) WHERE let_in > 0`)
}

// followUps is the schema of follow-ups with stages, projects and people, and of
// the calendar.
func followUps(db *gorm.DB) error {
	usual, err := json.Marshal(followup.Usual())
	if err != nil {
		return err
	}
	err = addColumns(db, map[string][]string{
		"people":    {"follow_up TEXT NOT NULL DEFAULT '" + string(usual) + "'", "feed TEXT NOT NULL DEFAULT ''"},
		"outgoings": {"entry_id INTEGER NOT NULL DEFAULT 0", "withdrawn INTEGER NOT NULL DEFAULT 0"},
	})
	var old []struct {
		BoxID int64
		Data  followup.FollowUp `gorm:"serializer:json"`
	}
	if err == nil && !db.Migrator().HasColumn("follow_ups", "stage") { // of an older version
		if err = db.Table("follow_ups").Find(&old).Error; err == nil {
			err = run(db, nil, `DROP TABLE follow_ups`)
		}
	}
	err = run(db, err, `DROP INDEX IF EXISTS thing_subject`)
	if err == nil {
		err = db.AutoMigrate(&FollowUp{}, &FollowUpLabel{}, &Event{}, &Thing{})
	}
	err = run(db, err,
		`CREATE TABLE revisions (box_id INTEGER PRIMARY KEY, rev INTEGER)`,
		`CREATE TABLE follow_ups_gone (box_id INTEGER, uid TEXT, rev INTEGER, PRIMARY KEY (box_id, uid)) WITHOUT ROWID`,
		`CREATE INDEX followup_project ON follow_ups(box_id, project) WHERE project <> ''`,
		`CREATE INDEX followup_context ON follow_ups(box_id, context) WHERE context <> ''`,
		`CREATE INDEX followup_rev ON follow_ups(box_id, rev)`,
		`CREATE INDEX followup_due ON follow_ups(box_id, due_at) WHERE open`,
		`CREATE INDEX followup_waits ON follow_ups(box_id, waits_since, uid) WHERE waits_since > 0`,
		`CREATE INDEX followup_finished ON follow_ups(box_id, finished, uid) WHERE NOT open`,
		`CREATE INDEX followup_cards ON follow_ups(box_id) WHERE card`,
		`CREATE INDEX event_cards ON events(box_id) WHERE card`,
		`CREATE INDEX event_repeats ON events(box_id) WHERE repeats`,
		`CREATE UNIQUE INDEX person_feed ON people(feed) WHERE feed <> ''`)
	for _, f := range old {
		if err == nil {
			err = (Tx{db: db}).PutFollowUps(f.BoxID, []followup.FollowUp{f.Data})
		}
	}
	return err
}

// accounts is the schema of accounts, of where messages lie on their servers,
// of drafts of every kind, and of messages on their way out. What was written
// before there were accounts is kept, and not sent by itself now.
func accounts(db *gorm.DB) error {
	type beginning struct { // a draft as it was: the beginning of an answer
		PersonID, ConversationID int64
		Text                     string
		Begun, Changed           when.Instant
	}
	var old []beginning
	var err error
	if db.Migrator().HasTable("drafts") && !db.Migrator().HasColumn("drafts", "mode") {
		if err = db.Table("drafts").Find(&old).Error; err == nil {
			err = run(db, nil, `DROP TABLE drafts`)
		}
	}
	if err == nil {
		err = addColumns(db, map[string][]string{"people": {"inward TEXT NOT NULL DEFAULT ''"}, "outgoings": {
			"account_id INTEGER NOT NULL DEFAULT 0", "draft_id INTEGER NOT NULL DEFAULT 0", "conversation_id INTEGER NOT NULL DEFAULT 0", "state TEXT NOT NULL DEFAULT 'kept'",
			"recipients TEXT NOT NULL DEFAULT '[]'", "next INTEGER NOT NULL DEFAULT 0", "attempts INTEGER NOT NULL DEFAULT 0", "rule TEXT NOT NULL DEFAULT ''", "again TEXT NOT NULL DEFAULT ''", "begins TEXT NOT NULL DEFAULT '{}'", "problem TEXT NOT NULL DEFAULT ''", "sent_at INTEGER NOT NULL DEFAULT 0",
			"quiet INTEGER NOT NULL DEFAULT 0", "filed INTEGER NOT NULL DEFAULT 0", "laid INTEGER NOT NULL DEFAULT 0"}})
	}
	if err == nil {
		err = db.AutoMigrate(&Outgoing{}, &Draft{}, &DraftFile{}, &Account{}, &Folder{}, &Copy{}, &Awaited{}, &Happening{}, &Errand{}, &Unasked{}, &DraftCopy{}, &Template{})
	}
	err = run(db, err,
		`UPDATE outgoings SET state = 'withdrawn' WHERE withdrawn AND state = 'kept'`,
		`UPDATE outgoings SET quiet = 1 WHERE entry_id = 0 AND state = 'kept'`, // automatic answers, the only ones no step has written
		`DROP TABLE IF EXISTS on_its_ways`,                                     // the demo's mail comes from its post office
		`DELETE FROM things WHERE kind = 'posted'`,
		`CREATE INDEX outgoing_next ON outgoings(next) WHERE state = 'waiting'`,
		`CREATE INDEX outgoing_open ON outgoings(box_id, id) WHERE state <> 'sent'`,
		`CREATE UNIQUE INDEX IF NOT EXISTS person_inward ON people(inward) WHERE inward <> ''`,
		`CREATE INDEX errand_at ON errands(at)`)
	for _, b := range old {
		if err == nil {
			err = db.Create(&Draft{PersonID: b.PersonID, ConversationID: b.ConversationID, Mode: writing.Reply, Text: b.Text, Begun: b.Begun, Changed: b.Changed}).Error
		}
	}
	return err
}

// readdress computes anew how directly each conversation of a box is addressed
// to its reader, and at which of the reader's addresses.
func (t Tx) readdress(box int64) error {
	addresses, err := t.OwnAddresses(box)
	if err != nil {
		return err
	}
	own := map[string]bool{}
	for _, a := range addresses {
		own[a.Address] = true
	}
	for last := int64(0); ; {
		var rows []struct {
			ID      int64
			Kind    mail.Kind
			Account string
			Reach   mail.Reach
			Rank    int
			To      []mail.Address `gorm:"serializer:json"`
			Cc      []mail.Address `gorm:"serializer:json"`
		}
		err := t.db.Raw(`SELECT c.id, c.kind, c.account, c.reach, c.rank, m."to", m.cc FROM conversations c JOIN messages m ON m.id =
			(SELECT x.id FROM messages x WHERE x.conversation_id = c.id ORDER BY x.own, x.date DESC LIMIT 1)
			WHERE +c.box_id = ? AND c.id > ? AND c.merged_to = 0 ORDER BY c.id LIMIT 1000`, box, last).Scan(&rows).Error // by ID, not by an index of the box
		if err != nil || len(rows) == 0 {
			return err
		}
		type changed struct {
			ID      int64      `json:"id"`
			Account string     `json:"account"`
			Reach   mail.Reach `json:"reach"`
			Rank    int        `json:"rank"`
		}
		var changes []changed
		for _, r := range rows {
			last = r.ID
			reach, account := mail.ReachOf(r.To, r.Cc, own)
			rank := inbox.Rank(r.Kind, reach)
			if reach != r.Reach || account != r.Account || rank != r.Rank {
				changes = append(changes, changed{r.ID, account, reach, rank})
			}
		}
		raw, err := json.Marshal(changes)
		if err == nil {
			err = t.db.Exec(`UPDATE conversations SET account = j.value->>'account', reach = j.value->>'reach', rank = j.value->>'rank'
				FROM json_each(?) j WHERE conversations.id = j.value->>'id'`, string(raw)).Error
		}
		if err != nil {
			return err
		}
	}
}
