package store

import (
	"encoding/json"
	"errors"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Actor is who or what acted.
type Actor string

// The actors of the journal.
const (
	ByPerson Actor = "person"
	ByClock  Actor = "clock"
	ByMail   Actor = "mail"
	ByServer Actor = "server" // something else that works on the same mailbox
	ByRule   Actor = "rule"
)

// Entry is one line of the journal. Its ID orders the journal.
type Entry struct {
	ID             int64
	BoxID          int64
	PersonID       int64
	Actor          Actor
	Kind           inbox.Kind
	At             when.Instant
	Delta          int            // by how much it moved the number left to decide
	Count          int            // conversations or follow-ups it touched
	ConversationID int64          // the first of them, for its line in the history
	Text           string         // what it was about, in words
	Step           bool           // can still be taken back
	Of             int64          // the entry this one takes back or does again
	TakenBack      int64          // the entry that has taken this one back
	Ref            int64          // the label or place it is about, or 0
	SittingID      int64          // the sitting in which it was decided, or 0
	Wall           numbers.Wall   // in which hour of the box's day it was
	Since          when.Instant   // when whoever did it had last done something; 0: never, or it is nobody's
	Origins        map[string]int `gorm:"serializer:json"` // of what left the inbox by it: from where that had come (numbers.OriginOf)
	Besides        map[string]int `gorm:"serializer:json"` // what it counts for besides what its changes say (numbers.Line)
	Changes        []inbox.Change `gorm:"serializer:packed"`
	Chosen         *Chosen        `gorm:"serializer:json"` // what was set up otherwise by it; nil if nothing
	Touched        []int64        `gorm:"-"`               // conversations it is about besides those in Changes
	Quiet          bool           `gorm:"-"`               // it is no news to those who follow what it is about
}

// Chosen is how something stood that a person sets up, before it was changed and
// after, in the form of the room that knows it.
type Chosen struct {
	Before json.RawMessage `json:"before"`
	After  json.RawMessage `json:"after"`
}

// Choose is a change of what is set up, from before to after.
func Choose(before, after any) (*Chosen, error) {
	from, err := json.Marshal(before)
	if err != nil {
		return nil, err
	}
	to, err := json.Marshal(after)
	return &Chosen{from, to}, err
}

// Read gives how it stood before and after.
func (c *Chosen) Read(before, after any) error {
	if c == nil {
		return ErrNotFound
	}
	if err := json.Unmarshal(c.Before, before); err != nil {
		return err
	}
	return json.Unmarshal(c.After, after)
}

// Back is the change that takes c back.
func (c *Chosen) Back() *Chosen {
	if c == nil {
		return nil
	}
	return &Chosen{c.After, c.Before}
}

// Journal is what is asked and stored about entries, sittings and requests that were answered.
type Journal Tx

// Record writes lines into the journal and gives them their IDs.
func (t Journal) Record(entries ...*Entry) error {
	if len(entries) == 0 {
		return nil
	}
	if err := t.place(entries); err != nil {
		return err
	}
	if err := sqlite.Create(t.db, entries, 50); err != nil {
		return err
	}
	if err := t.Tally(1, entries...); err != nil {
		return err
	}
	if err := t.evening(entries); err != nil {
		return err
	}
	var touched, news [][2]int64 // conversation, entry
	for _, e := range entries {
		if e.Kind == inbox.Look {
			continue
		}
		ids := append([]int64{e.ConversationID}, e.Touched...)
		for _, c := range e.Changes {
			ids = append(ids, c.Conversation())
		}
		for _, id := range ids {
			if id == 0 {
				continue
			}
			touched = append(touched, [2]int64{id, e.ID})
			if !e.Quiet {
				news = append(news, [2]int64{id, e.ID})
			}
		}
	}
	if len(touched) == 0 {
		return nil
	}
	raw, err := json.Marshal(touched)
	if err != nil {
		return err
	}
	if err := t.db.Exec("INSERT OR IGNORE INTO touches(conversation_id, entry_id) SELECT value->>0, value->>1 FROM json_each(?)", string(raw)).Error; err != nil {
		return err
	}
	return t.concern(entries[0].BoxID, news)
}

// concern has those hear of lines of a box who follow the conversations they are about, but
// whoever did it themselves.
func (t Journal) concern(box int64, news [][2]int64) error {
	var followed bool
	if len(news) == 0 {
		return nil
	}
	if err := t.db.Raw("SELECT EXISTS (SELECT 1 FROM followers WHERE box_id = ?)", box).Scan(&followed).Error; err != nil || !followed {
		return err
	}
	raw, err := json.Marshal(news)
	if err != nil {
		return err
	}
	return t.db.Exec(`INSERT OR IGNORE INTO concerns(person_id, box_id, conversation_id, entry_id) SELECT f.person_id, e.box_id, f.conversation_id, e.id
		FROM json_each(?) j CROSS JOIN followers f ON f.conversation_id = j.value->>0 AND NOT f.stopped CROSS JOIN entries e ON e.id = j.value->>1
		WHERE e.actor <> 'person' OR e.person_id <> f.person_id`, string(raw)).Error
}

// LastStep is the newest decision that the person took here and that can still
// be taken back. What followed from elsewhere is taken back from the history.
func (t Journal) LastStep(box, person int64) (e Entry, err error) {
	err = sqlite.Plain(t.db.Where("person_id = ? AND box_id = ? AND step AND actor = 'person'", person, box).Order("id DESC").Take(&e).Error)
	return e, err
}

// LastTakeBack is the newest taking back of the person that can still be done
// again: no other decision has come after it.
func (t Journal) LastTakeBack(box, person int64) (e Entry, err error) {
	err = sqlite.Plain(t.db.Where("person_id = ? AND box_id = ? AND kind = 'take-back' AND taken_back = 0", person, box).Order("id DESC").Take(&e).Error)
	if err != nil {
		return e, err
	}
	step, err := t.LastStep(box, person)
	if err == nil && step.ID > e.ID && step.Of == 0 {
		err = ErrNotFound
	} else if errors.Is(err, ErrNotFound) {
		err = nil
	}
	return e, err
}

// SetTakenBack notes in entry id by which entry it was taken back, or with
// zero that it holds again.
func (t Journal) SetTakenBack(id, by int64, step bool) error {
	var e Entry
	if err := sqlite.Plain(t.db.Where("id = ?", id).Take(&e).Error); err != nil {
		return err
	}
	if (e.TakenBack != 0) != (by != 0) {
		if err := t.Tally(-1, &e); err != nil {
			return err
		}
		e.TakenBack = by
		if err := t.Tally(1, &e); err != nil {
			return err
		}
	}
	return t.db.Model(&Entry{}).Where("id = ?", id).Updates(map[string]any{"taken_back": by, "step": step}).Error
}

// Past filters the history: the zero value is all of it.
type Past struct {
	Before       int64        // entries before the one with this ID
	Until        when.Instant // and from before this instant
	Actor        Actor
	Conversation int64
}

// History pages back through the journal of a box, newest first. Looks are
// left out.
func (t Journal) History(box int64, p Past, n int) (entries []Entry, err error) {
	by := "box_id = ?"
	if p.Conversation > 0 { // by what touched it, not by an index of the box
		by = "+box_id = ?"
	}
	q := t.db.Where(by+" AND kind NOT IN ?", box, []inbox.Kind{inbox.Look, inbox.SeenReminder}).Omit("Changes")
	if p.Before > 0 {
		q = q.Where("id < ?", p.Before)
	}
	if p.Until > 0 { // the journal is ordered by its IDs, as by its instants
		var last int64
		if err := t.db.Raw("SELECT id FROM entries INDEXED BY entry_at WHERE box_id = ? AND at < ? ORDER BY at DESC LIMIT 1", box, p.Until).Scan(&last).Error; err != nil {
			return nil, err
		}
		q = q.Where("id <= ?", last)
	}
	if p.Actor != "" {
		q = q.Where("actor = ?", p.Actor)
	}
	if p.Conversation > 0 {
		q = q.Where("id IN (SELECT entry_id FROM touches WHERE conversation_id = ?)", p.Conversation)
	}
	err = q.Order("id DESC").Limit(n).Find(&entries).Error
	return entries, err
}

// Entry loads one line of the journal.
func (t Journal) Entry(box, id int64) (e Entry, err error) {
	err = sqlite.Plain(t.db.Where("box_id = ? AND id = ?", box, id).Take(&e).Error)
	return e, err
}

// Since gives the newest entry after the one with that ID that changed one of
// the conversations and still stands, or ErrNotFound.
func (t Journal) Since(box, id int64, conversations []int64) (e Entry, err error) {
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		err = sqlite.Plain(t.db.Where("+box_id = ? AND id > ? AND taken_back = 0 AND kind NOT IN ? AND id IN (SELECT entry_id FROM touches WHERE conversation_id IN ? AND entry_id > ?)",
			box, id, []inbox.Kind{inbox.TakeBack, inbox.Again, inbox.SeenReminder, inbox.TellOf}, chunk, id).Omit("Changes").Order("id DESC").Take(&e).Error)
		if err == nil || !errors.Is(err, ErrNotFound) {
			return e, err
		}
	}
	return e, ErrNotFound
}

// SetGone deletes a label or place, or has it back.
func (t Journal) SetGone(of any, ids []int64, gone bool) error {
	if len(ids) == 0 {
		return nil
	}
	return t.db.Model(of).Where("id IN ? AND gone <> ?", ids, gone).Update("gone", gone).Error
}
