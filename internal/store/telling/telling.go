// Package telling keeps what machines tell in their messages of parcels, bills and the
// like.
package telling

import (
	"encoding/json"

	"gorm.io/gorm"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Told is one fact that a message of a box tells.
type Told struct {
	ID             int64
	BoxID          int64
	ConversationID int64
	MessageID      int64
	Kind           facts.Kind
	Thing          string       // facts.Fact.Key
	At             when.Instant // when the message was written
	Ends           when.Instant // facts.Fact.Ends
	Fact           facts.Fact   `gorm:"column:data;serializer:json"`
}

// TableName is the table.
func (Told) TableName() string { return "facts" }

// Of are the facts of a message as they are kept.
func Of(m store.Message, said []facts.Fact) (out []Told) {
	for _, f := range said {
		out = append(out, Told{BoxID: m.BoxID, ConversationID: m.ConversationID, MessageID: m.ID, Kind: f.Kind, Thing: f.Key(), At: m.Date, Ends: f.Ends(m.Date), Fact: f})
	}
	return out
}

// Facts is what is asked and stored of facts, each of one box.
type Facts store.Tx

func (t Facts) db() *gorm.DB { return store.Tx(t).DB() }

// Put stores the facts of new messages.
func (t Facts) Put(told []Told) error { return sqlite.Create(t.db(), told, 100) }

// Replace stores the facts of a message in place of those that are known of it.
func (t Facts) Replace(message int64, told []Told) error {
	if err := t.db().Exec("DELETE FROM facts WHERE message_id = ?", message).Error; err != nil {
		return err
	}
	return t.Put(told)
}

// inView are facts of messages that are not held.
const inView = " CROSS JOIN messages m ON m.id = f.message_id AND m.held = '' "

// Of gives the facts of conversations of a box, those of the newest message first.
func (t Facts) Of(box int64, conversations []int64) (out []Told, err error) {
	ids, err := json.Marshal(conversations)
	if err != nil {
		return nil, err
	}
	err = t.db().Raw("SELECT f.* FROM json_each(?) x CROSS JOIN facts f ON f.conversation_id = x.value"+inView+"WHERE f.box_id = ? ORDER BY f.at DESC, f.message_id DESC, f.id", string(ids), box).Scan(&out).Error
	return out, err
}

// Newest gives what was told last of each of these things of a box.
func (t Facts) Newest(box int64, things []string) (map[string]Told, error) {
	in, err := json.Marshal(things)
	if err != nil {
		return nil, err
	}
	var rows []Told
	err = t.db().Raw("SELECT f.* FROM json_each(?) x CROSS JOIN facts f ON f.box_id = ? AND f.thing = x.value AND f.thing <> ''"+inView+"ORDER BY f.at, f.id", string(in), box).Scan(&rows).Error
	out := map[string]Told{}
	for _, r := range rows {
		out[r.Thing] = r
	}
	return out, err
}

// MaxOpen is how many facts of which something is expected are looked at.
const MaxOpen = 200

// Open gives the facts of a box of which something is expected at now, the earliest to end
// first: of what several messages tell of one thing what the newest in view tells, and
// nothing that lies in the bin or in junk.
func (t Facts) Open(box int64, now when.Instant) (out []Told, err error) {
	err = t.db().Raw("SELECT f.* FROM facts f INDEXED BY facts_open"+inView+`CROSS JOIN conversations c ON c.id = f.conversation_id AND c.place NOT IN ('bin', 'junk')
		WHERE f.box_id = @box AND f.ends > @now AND NOT (f.thing <> '' AND EXISTS (SELECT 1 FROM facts n CROSS JOIN messages v ON v.id = n.message_id AND v.held = ''
			WHERE n.box_id = @box AND n.thing = f.thing AND n.thing <> '' AND (n.at > f.at OR n.at = f.at AND n.id > f.id)))
		ORDER BY f.ends, f.id LIMIT @n`, map[string]any{"box": box, "now": now, "n": MaxOpen}).Scan(&out).Error
	return out, err
}

// Awaiting gives the conversations of a box that are snoozed until something has arrived of
// which one of these messages tells that it has.
func (t Facts) Awaiting(box int64, messages []int64) (ids []int64, err error) {
	in, err := json.Marshal(messages)
	if err != nil {
		return nil, err
	}
	err = t.db().Raw(`SELECT DISTINCT c.id FROM json_each(?) x CROSS JOIN facts n ON n.message_id = x.value AND n.thing <> '' AND n.data->>'state' IN (?, ?)
		CROSS JOIN facts f ON f.box_id = n.box_id AND f.thing = n.thing AND f.thing <> '' CROSS JOIN conversations c ON c.id = f.conversation_id AND c.place = 'snoozed' AND c.until = ?
		WHERE n.box_id = ?`, string(in), facts.Arrived, facts.ToCollect, inbox.UntilArrival, box).Scan(&ids).Error
	return ids, err
}

// OnlyCodes says that each message of a conversation tells a code.
func (t Facts) OnlyCodes(box, conversation int64) (only bool, err error) {
	err = t.db().Raw("SELECT COUNT(*) > 0 AND SUM(EXISTS (SELECT 1 FROM facts f WHERE f.message_id = m.id AND f.kind = ?)) = COUNT(*) FROM messages m WHERE m.conversation_id = ? AND +m.box_id = ?",
		facts.Code, conversation, box).Scan(&only).Error
	return only, err
}
