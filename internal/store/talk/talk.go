// Package talk keeps what the members of a team say to each other about a conversation, who
// follows it, and of what each of them is to hear.
package talk

import (
	"encoding/json"

	"gorm.io/gorm"

	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Talk is what is asked and stored about it, each of one box.
type Talk store.Tx

func (t Talk) db() *gorm.DB { return store.Tx(t).DB() }

// Comment is what somebody said to the others of a team about a conversation.
type Comment struct {
	ID             int64
	BoxID          int64
	ConversationID int64
	PersonID       int64
	At             when.Instant
	Text           string       // as it was typed
	Changed        when.Instant // 0: never
	Earlier        []Version    `gorm:"serializer:json"` // the oldest first
	Gone           bool         // it was deleted
}

// Version is how a comment stood until then.
type Version struct {
	Until when.Instant `json:"until"`
	Text  string       `json:"text"`
}

// gathered are a conversation and those that were joined into it.
const gathered = "WITH RECURSIVE gathered(id) AS (SELECT ? UNION SELECT c.id FROM gathered g CROSS JOIN conversations c ON c.merged_to = g.id AND c.merged_to > 0) "

// Of gives what was said about a conversation, the oldest first, also before it was joined of
// several.
func (t Talk) Of(box, conversation int64) (out []Comment, err error) {
	err = t.db().Raw(gathered+"SELECT m.* FROM gathered g CROSS JOIN comments m ON m.conversation_id = g.id WHERE m.box_id = ? AND NOT m.gone ORDER BY m.at, m.id", conversation, box).Scan(&out).Error
	return out, err
}

// Comment is one, deleted or not; store.ErrNotFound if there is none.
func (t Talk) Comment(box, id int64) (c Comment, err error) {
	err = sqlite.Plain(t.db().Where("box_id = ? AND id = ?", box, id).Take(&c).Error)
	return c, err
}

// Put stores a comment, a new one if its ID is 0.
func (t Talk) Put(c *Comment) error { return sqlite.Put(t.db(), c, c.ID) }

// Commented gives comments by their IDs.
func (t Talk) Commented(ids []int64) (map[int64]Comment, error) {
	var rows []Comment
	err := t.db().Where("id IN ?", ids).Find(&rows).Error
	out := map[int64]Comment{}
	for _, c := range rows {
		out[c.ID] = c
	}
	return out, err
}

// Followers gives those who follow a conversation.
func (t Talk) Followers(box, conversation int64) (ids []int64, err error) {
	err = t.db().Raw("SELECT person_id FROM followers WHERE conversation_id = ? AND +box_id = ? AND NOT stopped ORDER BY since, person_id", conversation, box).Scan(&ids).Error
	return ids, err
}

// Follow has somebody follow conversations of a box, or not any more.
func (t Talk) Follow(box, person int64, conversations []int64, follows bool, now when.Instant) error {
	raw, _ := json.Marshal(append([]int64{}, conversations...)) // numbers always can be
	return t.db().Exec(`INSERT INTO followers(conversation_id, person_id, box_id, since, stopped) SELECT j.value, ?, ?, ?, ? FROM json_each(?) j WHERE true
		ON CONFLICT DO UPDATE SET stopped = excluded.stopped, since = IIF(stopped, excluded.since, since)`, person, box, now, !follows, string(raw)).Error
}

// Concern is a line of the journal of which somebody is to hear.
type Concern struct {
	ID             int64
	BoxID          int64
	ConversationID int64
	EntryID        int64
	Heard          bool
	Entry          store.Entry `gorm:"-"`
	Subject        string      // what the conversation is called
}

// concerned are the concerns of somebody in the boxes they work in.
const concerned = " FROM concerns k CROSS JOIN members m ON m.box_id = k.box_id AND m.person_id = k.person_id WHERE k.person_id = ?"

// Concerns gives what somebody is to hear of, heard or not, the newest first: of one box, or
// with 0 of all in which they work.
func (t Talk) Concerns(person, box, before int64, most int) (out []Concern, err error) {
	args := []any{person}
	where := ""
	if box != 0 {
		where, args = where+" AND k.box_id = ?", append(args, box)
	}
	if before != 0 {
		where, args = where+" AND k.id < ?", append(args, before)
	}
	if err = t.db().Raw("SELECT k.*"+concerned+where+" ORDER BY k.id DESC LIMIT ?", append(args, most)...).Scan(&out).Error; err != nil {
		return out, err
	}
	return t.told(out)
}

// Unheard gives what somebody has not heard of yet in any box in which they work, later than the
// concern with that ID, the newest first.
func (t Talk) Unheard(person, after int64, most int) (out []Concern, err error) {
	if err = t.db().Raw("SELECT k.*"+concerned+" AND k.id > ? AND NOT k.heard ORDER BY k.id DESC LIMIT ?", person, after, most).Scan(&out).Error; err != nil {
		return out, err
	}
	return t.told(out)
}

// Newest is the ID of the newest concern of somebody; 0 without any.
func (t Talk) Newest(person int64) (id int64, err error) {
	err = t.db().Raw("SELECT COALESCE(MAX(id), 0) FROM concerns WHERE person_id = ?", person).Scan(&id).Error
	return id, err
}

// told gives concerns with their lines of the journal, and how their conversations are called.
func (t Talk) told(out []Concern) (_ []Concern, err error) {
	if len(out) == 0 {
		return out, nil
	}
	entries, of := make([]int64, len(out)), make([]int64, len(out))
	for i, c := range out {
		entries[i], of[i] = c.EntryID, c.ConversationID
	}
	var rows []store.Entry
	if err = t.db().Where("id IN ?", entries).Find(&rows).Error; err != nil {
		return nil, err
	}
	entry := map[int64]store.Entry{}
	for _, e := range rows {
		entry[e.ID] = e
	}
	var called []struct {
		ID      int64
		Subject string
	}
	if err = t.db().Raw("SELECT id, COALESCE(NULLIF(title, ''), subject) subject FROM conversations WHERE id IN ?", of).Scan(&called).Error; err != nil {
		return nil, err
	}
	subjects := map[int64]string{}
	for _, c := range called {
		subjects[c.ID] = c.Subject
	}
	for i, c := range out {
		out[i].Entry, out[i].Subject = entry[c.EntryID], subjects[c.ConversationID]
	}
	return out, nil
}

// UnheardIn is of how much of a conversation somebody has not heard.
func (t Talk) UnheardIn(box, person, conversation int64) (n int, err error) {
	err = t.db().Raw(gathered+"SELECT COUNT(*) FROM gathered g CROSS JOIN concerns k ON k.person_id = ? AND k.box_id = ? AND k.conversation_id = g.id AND NOT k.heard", conversation, person, box).Scan(&n).Error
	return n, err
}

// Hear notes that somebody has heard of all there is of a conversation, or with 0 of all of a
// box.
func (t Talk) Hear(box, person, conversation int64) error {
	if conversation == 0 {
		return t.db().Exec("UPDATE concerns SET heard = TRUE WHERE person_id = ? AND box_id = ? AND NOT heard", person, box).Error
	}
	return t.db().Exec(gathered+"UPDATE concerns SET heard = TRUE WHERE person_id = ? AND box_id = ? AND NOT heard AND conversation_id IN (SELECT id FROM gathered)", conversation, person, box).Error
}

// Tell has somebody who works in its box hear of a line of the journal, whether they follow what it
// is about or not; told is false if they do not work there any more.
func (t Talk) Tell(person int64, e store.Entry) (told bool, err error) {
	if err = t.db().Raw("SELECT EXISTS (SELECT 1 FROM members WHERE box_id = ? AND person_id = ?)", e.BoxID, person).Scan(&told).Error; err != nil || !told {
		return false, err
	}
	return true, t.db().Exec("INSERT OR IGNORE INTO concerns(person_id, box_id, conversation_id, entry_id) VALUES (?, ?, ?, ?)", person, e.BoxID, e.ConversationID, e.ID).Error
}

// Forget removes what somebody followed in a box they do not work in any more.
func (t Talk) Forget(box, person int64) error {
	for _, table := range []string{"followers", "concerns"} {
		if err := t.db().Exec("DELETE FROM "+table+" WHERE box_id = ? AND person_id = ?", box, person).Error; err != nil {
			return err
		}
	}
	return nil
}

// Gone removes all of it that is about a conversation which is removed for good, also what the
// lines of the journal hold of comments, which can be taken back no more.
func (t Talk) Gone(box, conversation int64) error {
	for _, q := range []string{
		gathered + `, its(id) AS (SELECT h.entry_id FROM gathered g CROSS JOIN touches h ON h.conversation_id = g.id),
			said(id) AS (SELECT e.id FROM its i CROSS JOIN entries e ON e.id = i.id WHERE e.kind = 'comment'
				UNION SELECT e.id FROM said s CROSS JOIN its i CROSS JOIN entries e ON e.id = i.id AND +e.of = s.id)
			UPDATE entries SET chosen = NULL, step = FALSE WHERE id IN (SELECT id FROM said) AND +box_id = ?`,
		gathered + "DELETE FROM comments WHERE conversation_id IN (SELECT id FROM gathered) AND +box_id = ?",
		gathered + "DELETE FROM followers WHERE conversation_id IN (SELECT id FROM gathered) AND +box_id = ?",
		gathered + "DELETE FROM concerns WHERE conversation_id IN (SELECT id FROM gathered) AND box_id = ?",
	} {
		if err := t.db().Exec(q, conversation, box).Error; err != nil {
			return err
		}
	}
	return nil
}
