package talk

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/store"
)

// Answering is an answer that somebody has begun and not sent.
type Answering struct {
	PersonID       int64
	Begun, Changed when.Instant
	Text           string
	Trail          together.Trail `gorm:"serializer:json"` // by whom they were given it
}

// Answering gives the answers to a conversation that others than that person have begun, the
// one that was changed last first.
func (t Talk) Answering(box, person, conversation int64) (out []Answering, err error) {
	err = t.db().Raw(gathered+"SELECT d.person_id, d.begun, d.changed, d.text, d.trail FROM gathered g CROSS JOIN drafts d ON d.conversation_id = g.id WHERE d.box_id = ? AND d.person_id <> ? AND d.outgoing_id = 0 AND d.mode IN ? AND d.text <> '' ORDER BY d.changed DESC",
		conversation, box, person, []writing.Mode{writing.Reply, writing.ReplyAll}).Scan(&out).Error
	return out, err
}

// Answered is the line of the last answer that another than that person has sent to a
// conversation since then, with what it says; its ID is 0 if there is none.
func (t Talk) Answered(box, person, conversation int64, since when.Instant) (e store.Entry, text string, err error) {
	var row struct {
		ID, PersonID int64
		At           when.Instant
		Text         string
	}
	err = t.db().Raw(gathered+`SELECT e.id, e.person_id, e.at, COALESCE(o.text, '') text FROM gathered g CROSS JOIN touches h ON h.conversation_id = g.id CROSS JOIN entries e ON e.id = h.entry_id LEFT JOIN outgoings o ON o.id = e.ref AND o.box_id = e.box_id
		WHERE +e.box_id = ? AND e.kind = ? AND e.taken_back = 0 AND e.person_id <> ? AND e.at >= ? ORDER BY e.id DESC LIMIT 1`,
		conversation, box, inbox.SendMail, person, since).Scan(&row).Error
	return store.Entry{ID: row.ID, PersonID: row.PersonID, At: row.At}, row.Text, err
}
