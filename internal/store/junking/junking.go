// Package junking keeps what the junk test looked at in each message, and what has been
// learned of that.
package junking

import (
	"encoding/json"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Test is what the junk test looked at in a message.
type Test struct {
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
	BoxID     int64
	FromAddr  string
	Came      when.Instant
	Signs     []byte     // sorting.SignBytes; nil once nothing more is learned of it
	Score     int        // when it came, in thousandths
	Words     string     // those that said most for junk, with spaces between
	Found     mail.Found `gorm:"serializer:json"`
	Script    string
	Seems     string // the address that it may be taken for
	Why       string // why it was put into junk, in a sentence; empty: it was not, by the test
	Was       int    // 1 junk, -1 kept, 0 not known
}

// TableName is the table.
func (Test) TableName() string { return "junk_tests" }

// Tests is what is asked and stored about junk, each of one box.
type Tests store.Tx

func (t Tests) db() *gorm.DB { return store.Tx(t).DB() }

// Put stores tests of new messages.
func (t Tests) Put(tests []Test) error { return sqlite.Create(t.db(), tests, 100) }

// Of gives the tests of messages of a box, by their IDs.
func (t Tests) Of(box int64, messages []int64) (map[int64]*Test, error) {
	var rows []*Test
	err := t.db().Where("+box_id = ? AND message_id IN (SELECT value FROM json_each(?))", box, asJSON(messages)).Find(&rows).Error
	out := map[int64]*Test{}
	for _, r := range rows {
		out[r.MessageID] = r
	}
	return out, err
}

// Within gives the tests of the messages of conversations of a box.
func (t Tests) Within(box int64, conversations []int64) (out []InConversation, err error) {
	err = t.db().Raw(`SELECT j.*, m.conversation_id, c.place FROM json_each(?) x CROSS JOIN conversations c ON c.id = x.value CROSS JOIN messages m ON m.conversation_id = c.id CROSS JOIN junk_tests j ON j.message_id = m.id
		WHERE j.box_id = ? ORDER BY j.message_id`, asJSON(conversations), box).Scan(&out).Error
	return out, err
}

// InConversation is a test with the conversation of its message.
type InConversation struct {
	Test
	ConversationID int64
	Place          inbox.Place // of that
}

// SetWhy notes why a message was put into junk.
func (t Tests) SetWhy(message int64, why string) error {
	return t.db().Exec("UPDATE junk_tests SET why = ? WHERE message_id = ?", why, message).Error
}

// SetWas notes what messages were in the end.
func (t Tests) SetWas(message int64, was int) error {
	return t.db().Exec("UPDATE junk_tests SET was = ? WHERE message_id = ?", was, message).Error
}

// JunkFrom counts the messages from an address, learned as junk, that came since.
func (t Tests) JunkFrom(box int64, from string, since when.Instant) (n int, err error) {
	err = t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM junk_tests WHERE box_id = ? AND from_addr = ? AND was = 1 AND came >= ? LIMIT 100)", box, from, since).Scan(&n).Error
	return n, err
}

// row is a sign with its tally.
type row struct {
	BoxID int64            `gorm:"primaryKey;autoIncrement:false"`
	Sign  sorting.JunkSign `gorm:"primaryKey;autoIncrement:false"`
	Junk  int
	Good  int
}

func (row) TableName() string { return "junk_signs" }

// Model gives what was learned of these signs.
func (t Tests) Model(box int64, signs []sorting.JunkSign) (m sorting.JunkModel, err error) {
	raw, err := json.Marshal(append([]sorting.JunkSign{0}, signs...))
	if err != nil {
		return m, err
	}
	var rows []row
	if err := t.db().Raw("SELECT s.* FROM json_each(?) j CROSS JOIN junk_signs s ON s.box_id = ? AND s.sign = j.value", string(raw), box).Scan(&rows).Error; err != nil {
		return m, err
	}
	m.Of = make(map[sorting.JunkSign]sorting.JunkTally, len(rows))
	for _, r := range rows {
		if tally := (sorting.JunkTally{Junk: r.Junk, Good: r.Good}); r.Sign == 0 {
			m.JunkTally = tally
		} else {
			m.Of[r.Sign] = tally
		}
	}
	return m, nil
}

// Learn adds to what was learned.
func (t Tests) Learn(box int64, m sorting.JunkModel) error {
	rows := []row{{box, 0, m.Junk, m.Good}}
	for sign, n := range m.Of {
		if n != (sorting.JunkTally{}) {
			rows = append(rows, row{box, sign, n.Junk, n.Good})
		}
	}
	return t.db().Clauses(clause.OnConflict{DoUpdates: clause.Assignments(map[string]any{
		"junk": gorm.Expr("MAX(0, junk_signs.junk + excluded.junk)"), "good": gorm.Expr("MAX(0, junk_signs.good + excluded.good)")})}).CreateInBatches(rows, 200).Error
}

// Forget lets go of the signs of up to n messages that came before, of which nothing more
// is learned, and says of how many.
func (t Tests) Forget(before when.Instant, n int) (int, error) {
	res := t.db().Exec("UPDATE junk_tests SET signs = NULL WHERE message_id IN (SELECT message_id FROM junk_tests WHERE signs IS NOT NULL AND came < ? LIMIT ?)", before, n)
	return int(res.RowsAffected), res.Error
}

// Last gives the tests of the newest n messages that came to a box since, with their
// signs.
func (t Tests) Last(box int64, since when.Instant, n int) (out []Test, err error) {
	err = t.db().Where("box_id = ? AND came >= ?", box, since).Order("came DESC").Limit(n).Find(&out).Error
	return out, err
}

// Listed is a conversation in junk, with why.
type Listed struct {
	ID    int64
	Why   string
	Score int
	Since when.Instant
}

// Listed gives what lies in junk of a box, the newest first, n at most.
func (t Tests) Listed(box int64, n int) (out []Listed, err error) {
	err = t.db().Raw(`SELECT c.id, c.since, COALESCE((SELECT j.why FROM messages m CROSS JOIN junk_tests j ON j.message_id = m.id WHERE m.conversation_id = c.id ORDER BY m.id DESC LIMIT 1), '') why,
		COALESCE((SELECT MAX(j.score) FROM messages m CROSS JOIN junk_tests j ON j.message_id = m.id WHERE m.conversation_id = c.id), 1000) score
		FROM conversations c WHERE c.box_id = ? AND c.place = 'junk' AND c.merged_to = 0 ORDER BY c.since DESC LIMIT ?`, box, n).Scan(&out).Error
	return out, err
}

// Namesake gives the address of somebody of that name whom the reader writes to, if it is
// another than this one.
func (t Tests) Namesake(box int64, name, address string) (known string, err error) {
	var found []string
	err = t.db().Raw("SELECT address FROM correspondents INDEXED BY correspondents_named WHERE box_id = ? AND name = ? AND sent > 0 LIMIT 10", box, name).Scan(&found).Error
	for _, a := range found {
		if a == address {
			return "", err
		}
	}
	if len(found) > 0 {
		known = found[0]
	}
	return known, err
}

// Written gives those whom the reader has written to last, n of them.
func (t Tests) Written(box int64, n int) (out []mail.Address, err error) {
	err = t.db().Raw("SELECT address, name FROM correspondents WHERE box_id = ? AND sent > 0 ORDER BY answered_at DESC LIMIT ?", box, n).Scan(&out).Error
	return out, err
}

// Hit is how many people at a domain write to a box, and to how many the reader has.
type Hit struct{ People, Written int }

// Hits counts them, 1,000 at most.
func (t Tests) Hits(box int64, domain string) (h Hit, err error) {
	err = t.db().Raw(`SELECT COUNT(*) people, COALESCE(SUM(sent > 0), 0) written FROM (SELECT sent FROM correspondents INDEXED BY correspondents_at WHERE box_id = ? AND substr(address, instr(address, '@') + 1) = ? AND received > 0 LIMIT 1000)`, box, domain).Scan(&h).Error
	return h, err
}

func asJSON(ids []int64) string {
	raw, _ := json.Marshal(append([]int64{}, ids...)) // numbers always can be
	return string(raw)
}
