// Package sharing keeps which conversations of people's own boxes are one with which of their
// teams', and which messages of one are seen in the other.
package sharing

import (
	"encoding/json"
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Sharings is what is asked and stored about it.
type Sharings store.Tx

func (t Sharings) db() *gorm.DB { return store.Tx(t).DB() }

// Row is a sharing (together.Sharing) with what it is of.
type Row struct {
	ID                 int64
	BoxID              int64 // somebody's own
	PersonID           int64 // whose that is
	ConversationID     int64 // there
	TeamBoxID          int64
	TeamConversationID int64 // 0 until the team has its first message
	Since              when.Instant
	Begins             when.Instant // together.Sharing.From
	Ended              when.Instant
	Addressed          bool
	Why                string // what the sharer says to the team about it
}

// TableName is where they are.
func (Row) TableName() string { return "sharings" }

// Sharing is what the rules look at.
func (r Row) Sharing() together.Sharing {
	return together.Sharing{From: r.Begins, Ended: r.Ended, Addressed: r.Addressed}
}

// Put stores a sharing, a new one if its ID is 0.
func (t Sharings) Put(r *Row) error { return sqlite.Put(t.db(), r, r.ID) }

// ByID is one that somebody's own box or a team's has part in; store.ErrNotFound if there is none.
func (t Sharings) ByID(box, id int64) (r Row, err error) {
	err = sqlite.Plain(t.db().Where("id = ? AND (box_id = ? OR team_box_id = ?)", id, box, box).Take(&r).Error)
	return r, err
}

// gathered are conversations and those that were joined into them, by the one they are in now.
const gathered = `WITH RECURSIVE gathered(id, of) AS (SELECT value, value FROM json_each(?)
	UNION SELECT c.id, g.of FROM gathered g CROSS JOIN conversations c ON c.merged_to = g.id AND c.merged_to > 0) `

// Of gives the sharings of conversations of a box, by conversation, those that have ended
// included: the oldest first.
func (t Sharings) Of(box int64, conversations []int64) (map[int64][]Row, error) {
	raw, _ := json.Marshal(append([]int64{}, conversations...)) // numbers always can be
	out := map[int64][]Row{}
	for _, q := range []string{
		"SELECT s.*, g.of FROM gathered g CROSS JOIN sharings s ON s.conversation_id = g.id WHERE s.box_id = ? ORDER BY s.id",
		"SELECT s.*, g.of FROM gathered g CROSS JOIN sharings s ON s.team_conversation_id = g.id WHERE s.team_box_id = ? ORDER BY s.id",
	} {
		var rows []struct {
			Row
			Of int64
		}
		if err := t.db().Raw(gathered+q, string(raw), box).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.Of] = append(out[r.Of], r.Row)
		}
	}
	return out, nil
}

// Among says whether any conversation of a box is shared, or has been.
func (t Sharings) Among(box int64) (any bool, err error) {
	err = t.db().Raw("SELECT EXISTS (SELECT 1 FROM sharings WHERE box_id = ?) OR EXISTS (SELECT 1 FROM sharings WHERE team_box_id = ?)", box, box).Scan(&any).Error
	return any, err
}

// Carried is a message that is seen in another box as well.
type Carried struct {
	SharingID int64
	MessageID int64
	BoxID     int64 // where it came in
	ToBoxID   int64
	There     int64 // which it is in the other box; 0: it is not there yet, -1: that cannot be
}

// TableName is where they are.
func (Carried) TableName() string { return "carried" }

// Queue notes messages that are to be seen in another box; one that is noted already stays as it is.
func (t Sharings) Queue(rows []Carried) error {
	for _, r := range rows {
		if err := t.db().Exec("INSERT OR IGNORE INTO carried(sharing_id, message_id, box_id, to_box_id) VALUES (?, ?, ?, ?)", r.SharingID, r.MessageID, r.BoxID, r.ToBoxID).Error; err != nil {
			return err
		}
	}
	return nil
}

// CameBy gives, of messages of a box, by which sharings they were carried into it.
func (t Sharings) CameBy(box int64, messages []int64) (map[int64][]int64, error) {
	raw, _ := json.Marshal(append([]int64{}, messages...)) // numbers always can be
	var rows []Carried
	err := t.db().Raw("SELECT k.* FROM json_each(?) j CROSS JOIN carried k ON k.there = j.value AND k.there > 0 WHERE +k.to_box_id = ?", string(raw), box).Scan(&rows).Error
	out := map[int64][]int64{}
	for _, r := range rows {
		out[r.There] = append(out[r.There], r.SharingID)
	}
	return out, err
}

// Waiting gives sharings of which something is to be carried, the oldest first.
func (t Sharings) Waiting(n int) (out []Row, err error) {
	err = t.db().Raw("SELECT s.* FROM sharings s WHERE s.id IN (SELECT k.sharing_id FROM carried k WHERE k.there = 0 AND EXISTS (SELECT 1 FROM messages m WHERE m.id = k.message_id AND m.stub = 0)) ORDER BY s.id LIMIT ?", n).Scan(&out).Error
	return out, err
}

// Next gives up to n messages that a sharing is to carry, the oldest first. Those of which only the
// header is here are not among them.
func (t Sharings) Next(sharing int64, n int) (out []Carried, err error) {
	err = t.db().Raw("SELECT k.* FROM carried k JOIN messages m ON m.id = k.message_id WHERE k.sharing_id = ? AND k.there = 0 AND m.stub = 0 ORDER BY m.date, m.id LIMIT ?", sharing, n).Scan(&out).Error
	return out, err
}

// Waits says how many messages a sharing has still to carry.
func (t Sharings) Waits(sharing int64) (n int, err error) {
	err = t.db().Raw("SELECT COUNT(*) FROM carried WHERE sharing_id = ? AND there = 0", sharing).Row().Scan(&n)
	return n, err
}

// GiveUp settles what a sharing that has ended was still to carry.
func (t Sharings) GiveUp(sharing int64) error {
	return t.db().Exec("UPDATE carried SET there = -1 WHERE sharing_id = ? AND there = 0", sharing).Error
}

// Settle notes what became of a message that was to be carried.
func (t Sharings) Settle(k Carried) error {
	return t.db().Exec("UPDATE carried SET there = ? WHERE sharing_id = ? AND message_id = ?", k.There, k.SharingID, k.MessageID).Error
}

// Same gives messages of some boxes by their Message-IDs (RFC 5322, section 3.6.4), those that
// have one.
func (t Sharings) Same(boxes []int64, ids []string) (out []store.Message, err error) {
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []store.Message
		if err := t.db().Where("box_id IN ? AND message_id IN ? AND message_id <> ''", boxes, chunk).Order("+id").Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	return out, nil
}

// Leave ends all that somebody shares with a team: they are no member any more.
func (t Sharings) Leave(team, person int64, now when.Instant) error {
	return t.db().Exec("UPDATE sharings SET ended = ? WHERE team_box_id = ? AND person_id = ? AND ended = 0", now, team, person).Error
}

// Gone forgets that messages were carried which are removed for good, whose IDs are given as a
// list in JSON.
func (t Sharings) Gone(ids string) error {
	for _, q := range []string{
		"DELETE FROM carried WHERE there > 0 AND there IN (SELECT value FROM json_each(?))",
		"DELETE FROM carried WHERE (box_id, message_id) IN (SELECT m.box_id, m.id FROM json_each(?) j CROSS JOIN messages m ON m.id = j.value)",
	} {
		if err := t.db().Exec(q, ids).Error; err != nil {
			return err
		}
	}
	return nil
}

// Removed forgets the sharings of a conversation of a box that is removed for good.
func (t Sharings) Removed(box, conversation int64) error {
	for _, q := range []string{
		"DELETE FROM carried WHERE sharing_id IN (SELECT id FROM sharings WHERE conversation_id = ? AND +box_id = ?)",
		"DELETE FROM carried WHERE sharing_id IN (SELECT id FROM sharings WHERE team_conversation_id = ? AND +team_box_id = ?)",
		"DELETE FROM sharings WHERE conversation_id = ? AND +box_id = ?",
		"DELETE FROM sharings WHERE team_conversation_id = ? AND +team_box_id = ?",
	} {
		if err := t.db().Exec(q, conversation, box).Error; err != nil {
			return err
		}
	}
	return nil
}
