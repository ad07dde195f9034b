package mailboxes

import (
	"slices"
	"strings"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Errand says that a conversation has been decided about and the servers do
// not know yet.
type Errand struct {
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	BoxID          int64
	Rev            int64  // grows with each decision
	LeftPlaces     string // the places it has left by decisions, between commas; empty: nothing was decided about its place
	Attempts       int
	At             when.Instant // of the next try
	Problem        string
}

// Errands is what is asked and stored about what servers have to hear.
type Errands store.Tx

func (t Errands) db() *gorm.DB { return store.Tx(t).DB() }

// Errands gives up to n conversations of a box about which the server of an
// account may have to hear of a decision by now, and those that lie on no
// server at all: those after the one given, in order.
func (t Errands) Errands(box, account int64, now when.Instant, after Errand, n int) (out []Errand, err error) {
	const lies = "SELECT 1 FROM messages m JOIN copies k ON k.message_id = m.id JOIN folders f ON f.id = k.folder_id WHERE m.conversation_id = errands.conversation_id"
	err = t.db().Where("box_id = ? AND at <= ? AND (at, conversation_id) > (?, ?) AND (EXISTS ("+lies+" AND f.account_id = ?) OR NOT EXISTS ("+lies+"))", box, now, after.At, after.ConversationID, account).
		Order("at, conversation_id").Limit(n).Find(&out).Error
	return out, err
}

// Left are the places that the conversation has left by decisions of which its
// servers have not heard.
func (e Errand) Left() (out []inbox.Place) {
	for _, p := range strings.Split(e.LeftPlaces, ",") {
		if p != "" {
			out = append(out, inbox.Place(p))
		}
	}
	return out
}

// AddErrands notes that the servers do not know yet what was decided about the
// conversations of these messages, as far as they are junk.
func (t Errands) AddErrands(box int64, messages []int64, now when.Instant) error {
	for chunk := range slices.Chunk(messages, sqlite.AtOnce) {
		err := t.db().Exec(`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT DISTINCT c.id, c.box_id, 1, 0, ?, '', 'inbox' FROM conversations c JOIN messages m ON m.conversation_id = c.id
			WHERE m.id IN ? AND c.box_id = ? AND c.place = 'junk'
			ON CONFLICT(conversation_id) DO UPDATE SET rev = rev + 1, left_places = CASE WHEN left_places = '' THEN 'inbox' ELSE left_places || ',inbox' END`, now, chunk, box).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// CarryMarks notes that the servers are to show these conversations of a box as
// they are marked here. It moves nothing.
func (t Errands) CarryMarks(box int64, conversations []int64) error {
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		err := t.db().Exec(`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT id, box_id, 1, 0, 0, '', '' FROM conversations WHERE id IN ? AND +box_id = ? ON CONFLICT DO NOTHING`, chunk, box).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// CarrySnoozed notes that the servers are to put what is snoozed in a box where that lies.
func (t Errands) CarrySnoozed(box int64) error {
	return t.db().Exec(`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
		SELECT id, box_id, 1, 0, 0, '', '' FROM conversations WHERE box_id = ? AND place = 'snoozed' ON CONFLICT DO NOTHING`, box).Error
}

// NewestOf gives the newest message of each conversation that came from
// somebody else.
func (t Errands) NewestOf(box int64, conversations []int64) (map[int64]int64, error) {
	out := map[int64]int64{}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		var rows []store.Message
		if err := t.db().Select("id", "conversation_id").Where("+box_id = ? AND conversation_id IN ? AND NOT own", box, chunk).Order("date, id").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, m := range rows {
			out[m.ConversationID] = m.ID
		}
	}
	return out, nil
}

// OpenErrands gives, by conversation, the decisions of which its servers have not
// heard yet.
func (t Errands) OpenErrands(box int64, conversations []int64) (map[int64]Errand, error) {
	out := map[int64]Errand{}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		var found []Errand
		if err := t.db().Where("box_id = ? AND conversation_id IN ?", box, chunk).Find(&found).Error; err != nil {
			return nil, err
		}
		for _, e := range found {
			out[e.ConversationID] = e
		}
	}
	return out, nil
}

// CarriedOut forgets errands, unless something more was decided meanwhile.
func (t Errands) CarriedOut(done []Errand) error {
	for _, e := range done {
		if err := t.db().Where("conversation_id = ? AND rev = ?", e.ConversationID, e.Rev).Delete(&Errand{}).Error; err != nil {
			return err
		}
	}
	return nil
}

// PostponeErrands notes that errands were not carried out, why, and when to try again.
func (t Errands) PostponeErrands(failed []Errand, at when.Instant, problem string) error {
	for _, e := range failed {
		err := t.db().Model(&Errand{}).Where("conversation_id = ? AND rev = ?", e.ConversationID, e.Rev).
			Updates(map[string]any{"attempts": e.Attempts + 1, "at": at, "problem": problem}).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// NotCarriedOut counts the decisions of a box that a server has not heard of
// for another reason than that they are new, with the last reason.
func (t Errands) NotCarriedOut(box int64) (n int, problem string, err error) {
	var row struct {
		N       int
		Problem string
	}
	err = t.db().Raw("SELECT COUNT(*) n, COALESCE(MAX(problem), '') problem FROM errands WHERE box_id = ? AND attempts > 0", box).Scan(&row).Error
	return row.N, row.Problem, err
}
