// Package holding answers what is held, and what has come in of it.
package holding

import (
	"encoding/json"

	"gorm.io/gorm"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// Heap is what is held of one stream: mail, and for people also what has come
// back from a snooze and waits for the next delivery.
type Heap struct {
	Stream   delivery.Stream
	Messages int
	Oldest   when.Instant // when the first of it came
}

// Held is what is asked of it.
type Held store.Tx

func (t Held) db() *gorm.DB { return store.Tx(t).DB() }

// Heaps gives what is held in a box, by stream; streams without any are missing.
func (t Held) Heaps(box int64) (map[delivery.Stream]Heap, error) {
	var rows []Heap
	err := t.db().Raw(`SELECT stream, SUM(n) messages, MIN(oldest) oldest FROM (
		SELECT held stream, COUNT(*) n, MIN(received) oldest FROM messages WHERE box_id = @box AND held <> '' GROUP BY held
		UNION ALL SELECT @people, COUNT(*), MIN(since) FROM conversations WHERE box_id = @box AND place = 'held' AND snoozed_at > 0 HAVING COUNT(*) > 0) GROUP BY stream`,
		map[string]any{"box": box, "people": delivery.StreamPeople}).Scan(&rows).Error
	out := map[delivery.Stream]Heap{}
	for _, h := range rows {
		out[h.Stream] = h
	}
	return out, err
}

// Since gives of each message that is held in the conversations since when it is.
func (t Held) Since(box int64, conversations []int64) (at []when.Instant, err error) {
	raw, _ := json.Marshal(append([]int64{}, conversations...)) // numbers always can be
	err = t.db().Raw("SELECT received FROM messages INDEXED BY message_held WHERE box_id = ? AND held <> '' AND conversation_id IN (SELECT value FROM json_each(?))", box, string(raw)).Scan(&at).Error
	return at, err
}

// Rounds gives the rounds that brought something that is in the inbox since
// that instant.
func (t Held) Rounds(box int64, since when.Instant) (rounds []when.Instant, err error) {
	err = t.db().Raw("SELECT DISTINCT round FROM conversations WHERE box_id = ? AND place = 'inbox' AND since >= ? AND round > 0", box, since).Scan(&rounds).Error
	return rounds, err
}

// Thing is a held conversation, as looking for one thing shows it.
type Thing struct {
	ID       int64
	FromName string
	FromAddr string
	Subject  string
	At       when.Instant // of its newest held message
	Messages int
}

// Matching gives up to n held conversations, the newest first, of which a
// held message is from that address or says that.
func (t Held) Matching(box int64, said, address string, n int) (out []Thing, err error) {
	db := t.db().Table("messages m INDEXED BY message_held").
		Select("m.conversation_id id, m.from_name, m.from_addr, m.subject, MAX(m.received) at, COUNT(*) messages").
		Where("m.box_id = ? AND m.held <> ''", box)
	if address != "" {
		db = db.Where("m.from_addr = ?", address)
	}
	if s := words.SoughtBy(search.Query{Words: said}); s.Messages != "" {
		db = db.Where("m.id IN (SELECT rowid FROM words WHERE words MATCH ?)", s.Messages)
	}
	err = db.Group("m.conversation_id").Order("at DESC, m.conversation_id DESC").Limit(n).Scan(&out).Error
	return out, err
}

// Lately gives the newest n messages that each entry let through, by its ID.
func (t Held) Lately(box int64, entries []string, n int) (map[string][]store.Message, error) {
	var rows []store.Message
	raw, _ := json.Marshal(append([]string{}, entries...)) // texts always can be
	err := t.db().Raw(`SELECT m.id, m.conversation_id, m.through, m.from_name, m.from_addr, m.subject, m.received FROM json_each(?) e
		JOIN messages m ON m.id IN (SELECT x.id FROM messages x WHERE x.box_id = ? AND x.through = e.value AND x.through <> '' ORDER BY x.received DESC LIMIT ?)
		ORDER BY m.received DESC`, string(raw), box, n).Scan(&rows).Error
	out := map[string][]store.Message{}
	for _, m := range rows {
		out[m.Through] = append(out[m.Through], m)
	}
	return out, err
}
