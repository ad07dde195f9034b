package store

import (
	"errors"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
)

// State is what decisions change about some conversations and follow-ups.
type State struct {
	Conversations map[int64]inbox.Conversation
	FollowUps     map[string]followup.FollowUp
}

// State loads the named conversations and follow-ups of a box as the person
// sees them. What does not exist there is missing from the result.
func (t Tx) State(box, person int64, conversations []int64, followUps []string) (State, error) {
	s := State{map[int64]inbox.Conversation{}, map[string]followup.FollowUp{}}
	for chunk := range chunks(conversations) {
		var rows []struct {
			Conversation
			Mark Mark `gorm:"embedded;embeddedPrefix:mark_"`
		}
		err := t.db.Table("conversations c").
			Select("c.*, m.unread mark_unread, m.starred mark_starred, m.looks mark_looks").
			Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
			Where("c.box_id = ? AND c.merged_to = 0 AND c.id IN ?", box, chunk).Scan(&rows).Error
		if err != nil {
			return s, err
		}
		for _, r := range rows {
			s.Conversations[r.ID] = inbox.Conversation{ID: r.ID, Position: r.Position(), Unread: r.Mark.Unread, Starred: r.Mark.Starred, Looks: r.Mark.Looks}
		}
	}
	for chunk := range chunks(followUps) {
		var rows []FollowUp
		if err := t.db.Where("box_id = ? AND uid IN ?", box, chunk).Find(&rows).Error; err != nil {
			return s, err
		}
		for _, r := range rows {
			s.FollowUps[r.UID] = r.Data
		}
	}
	return s, nil
}

// chunks cuts ids into pieces that fit into one statement.
func chunks[T any](ids []T) func(yield func([]T) bool) {
	return func(yield func([]T) bool) {
		for len(ids) > 0 {
			n := min(len(ids), 500)
			if !yield(ids[:n]) {
				return
			}
			ids = ids[n:]
		}
	}
}

// Apply stores what the changes say, and with each what the agenda says of it.
func (t Tx) Apply(box, person int64, changes []inbox.Change) error {
	for _, c := range changes {
		if c.After != nil {
			if err := t.putConversation(box, person, c.Before, *c.After); err != nil {
				return err
			}
		}
		var err error
		switch {
		case c.FollowUpAfter != nil:
			err = t.PutFollowUp(box, *c.FollowUpAfter)
		case c.FollowUpBefore != nil:
			err = t.dropFollowUp(c.FollowUpBefore.UID)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (t Tx) putConversation(box, person int64, before *inbox.Conversation, c inbox.Conversation) error {
	if before == nil || before.Position != c.Position {
		p := c.Position
		err := t.db.Exec(`UPDATE conversations SET place = ?, reason = ?, since = ?, snoozed_at = ?, return_at = ?, return_local = ?, return_zone = ? WHERE id = ?`,
			p.Place, p.Reason, p.Since, p.SnoozedAt, p.Return.At, p.Return.Local, p.Return.Zone, c.ID).Error
		if err != nil {
			return err
		}
		thing, waits := agenda.OfConversation(c)
		if waits || before == nil || before.Place == inbox.Snoozed {
			if err := t.setThing(box, inbox.Return, c.ID, "", thing, waits); err != nil {
				return err
			}
		}
	}
	return t.db.Exec(`INSERT INTO marks(person_id, conversation_id, unread, starred, looks) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET unread = excluded.unread, starred = excluded.starred, looks = excluded.looks`,
		person, c.ID, c.Unread, c.Starred, c.Looks).Error
}

// PutFollowUp stores f and what the agenda says of it.
func (t Tx) PutFollowUp(box int64, f followup.FollowUp) error {
	row := FollowUp{UID: f.UID, BoxID: box, Open: f.Open(), DueAt: f.Due.At, ConversationID: f.Conversation, Finished: f.Finished, Card: f.Card, Data: f}
	if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
		return err
	}
	thing, waits := agenda.OfFollowUp(f)
	return t.setThing(box, inbox.Remind, 0, f.UID, thing, waits)
}

func (t Tx) dropFollowUp(uid string) error {
	if err := t.db.Delete(&FollowUp{UID: uid}).Error; err != nil {
		return err
	}
	return t.setThing(0, inbox.Remind, 0, uid, agenda.Thing{}, false)
}

// setThing makes the agenda say of one subject what follows from its state.
func (t Tx) setThing(box int64, kind inbox.Kind, conversation int64, followUp string, thing agenda.Thing, waits bool) error {
	if !waits {
		return t.db.Exec("DELETE FROM things WHERE kind = ? AND conversation_id = ? AND follow_up = ?", kind, conversation, followUp).Error
	}
	return t.db.Exec(`INSERT INTO things(box_id, at, kind, conversation_id, follow_up) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET at = excluded.at, box_id = excluded.box_id`, box, thing.At, kind, conversation, followUp).Error
}

// Due gives the things of the agenda that have to happen by now, at most n, in
// the order in which they have to.
func (t Tx) Due(now when.Instant, n int) (things []Thing, err error) {
	err = t.db.Where("at <= ?", now).Order("at, kind, conversation_id, follow_up").Limit(n).Find(&things).Error
	return things, err
}

// NextThing is the earliest instant on the agenda, zero if it is empty.
func (t Tx) NextThing() (at when.Instant, err error) {
	err = t.db.Model(&Thing{}).Select("COALESCE(MIN(at), 0)").Scan(&at).Error
	return at, err
}

// DropThing takes a row off the agenda whose subject no longer waits.
func (t Tx) DropThing(id int64) error { return t.db.Delete(&Thing{}, id).Error }

// Things gives all rows of the agenda, for checks.
func (t Tx) Things() (things []Thing, err error) {
	err = t.db.Order("at").Find(&things).Error
	return things, err
}

// Returns gives, for [from, to), when conversations come back and when open
// follow-ups are due in a box.
func (t Tx) Returns(box int64, from, to when.Instant) (back, due []when.Instant, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ? AND return_at >= ? AND return_at < ?", box, inbox.Snoozed, from, to).
		Limit(10_000).Pluck("return_at", &back).Error
	if err == nil {
		err = t.db.Model(&FollowUp{}).Where("box_id = ? AND open AND due_at >= ? AND due_at < ?", box, from, to).
			Limit(10_000).Pluck("due_at", &due).Error
	}
	return back, due, err
}

// Record writes lines into the journal and gives them their IDs.
func (t Tx) Record(entries ...*Entry) error { return create(t, entries, 50) }

// LastStep is the newest decision of the person that can still be taken back.
func (t Tx) LastStep(person int64) (e Entry, err error) {
	err = plain(t.db.Where("person_id = ? AND step", person).Order("id DESC").Take(&e).Error)
	return e, err
}

// LastTakeBack is the newest taking back of the person that can still be done
// again: no other decision has come after it.
func (t Tx) LastTakeBack(person int64) (e Entry, err error) {
	err = plain(t.db.Where("person_id = ? AND kind = ? AND taken_back = 0", person, inbox.TakeBack).Order("id DESC").Take(&e).Error)
	if err != nil {
		return e, err
	}
	step, err := t.LastStep(person)
	if err == nil && step.ID > e.ID && step.Of == 0 {
		err = ErrNotFound
	} else if errors.Is(err, ErrNotFound) {
		err = nil
	}
	return e, err
}

// SetTakenBack notes in entry id by which entry it was taken back, or with
// zero that it holds again.
func (t Tx) SetTakenBack(id, by int64, step bool) error {
	return t.db.Model(&Entry{}).Where("id = ?", id).Updates(map[string]any{"taken_back": by, "step": step}).Error
}

// History pages back through the journal of a box, newest first, from before
// the entry with that ID (zero: from the end). Looks are left out.
func (t Tx) History(box, before int64, n int) (entries []Entry, err error) {
	q := t.db.Where("box_id = ? AND kind NOT IN ?", box, []inbox.Kind{inbox.Look, inbox.SeenReminder}).Omit("Changes")
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	err = q.Order("id DESC").Limit(n).Find(&entries).Error
	return entries, err
}

// Steps gives the moments in [from, to] at which the number left to decide in
// a box changed.
func (t Tx) Steps(box int64, from, to when.Instant) (steps []numbers.Step, err error) {
	err = t.db.Model(&Entry{}).Select("at", "delta").Where("box_id = ? AND at >= ? AND at <= ? AND delta <> 0", box, from, to).Order("at, id").Scan(&steps).Error
	return steps, err
}

// Decided counts by kind how many conversations left the inbox in [from, to] by
// decisions of a person that still stand.
func (t Tx) Decided(box int64, from, to when.Instant) (map[inbox.Kind]int, error) {
	var rows []struct {
		Kind inbox.Kind
		N    int
	}
	err := t.db.Model(&Entry{}).Select("kind, -SUM(delta) n").
		Where("box_id = ? AND at >= ? AND at <= ? AND delta < 0 AND actor = ? AND step", box, from, to, ByPerson).Group("kind").Scan(&rows).Error
	by := map[inbox.Kind]int{}
	for _, r := range rows {
		by[r.Kind] = r.N
	}
	return by, err
}

// Wipe forgets the answers to requests from before that instant.
func (t Tx) Wipe(before when.Instant) error {
	return t.db.Where("at < ?", before).Delete(&Request{}).Error
}

// Answered gives the stored answer to a request, or ErrNotFound.
func (t Tx) Answered(person int64, key string) ([]byte, error) {
	var r Request
	err := plain(t.db.Where("person_id = ? AND key = ?", person, key).Take(&r).Error)
	return r.Answer, plain(err)
}

// Answer stores the answer to a request.
func (t Tx) Answer(r Request) error { return t.db.Create(&r).Error }

// MoveReturn sets when a snoozed conversation comes back, where only the rules
// of a time zone have changed.
func (t Tx) MoveReturn(box, id int64, m when.Moment) error {
	err := t.db.Exec("UPDATE conversations SET return_at = ? WHERE id = ? AND box_id = ?", m.At, id, box).Error
	if err == nil {
		err = t.db.Exec("UPDATE things SET at = ? WHERE kind = ? AND conversation_id = ? AND follow_up = ''", m.At, inbox.Return, id).Error
	}
	return err
}

// NextReturn is when the next snoozed conversation of a box comes back; zero
// if none is snoozed.
func (t Tx) NextReturn(box int64) (at when.Instant, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ?", box, inbox.Snoozed).Select("COALESCE(MIN(return_at), 0)").Scan(&at).Error
	return at, err
}
