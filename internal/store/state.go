package store

import (
	"encoding/json"
	"errors"
	"slices"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
)

// State is what decisions change about some conversations and follow-ups.
type State struct {
	Conversations map[int64]inbox.Conversation
	FollowUps     map[string]followup.FollowUp
	Events        map[string]calendar.Event
}

// State loads the named conversations of a box as the person sees them, and the
// follow-ups and events with these UIDs. What does not exist there is missing
// from the result.
func (t Tx) State(box, person int64, conversations []int64, uids []string) (State, error) {
	s := State{map[int64]inbox.Conversation{}, map[string]followup.FollowUp{}, map[string]calendar.Event{}}
	for chunk := range slices.Chunk(conversations, atOnce) {
		var rows []struct {
			Conversation
			Mark Mark `gorm:"embedded;embeddedPrefix:mark_"`
		}
		err := t.db.Table("conversations c").
			Select("c.*, m.unread mark_unread, m.starred mark_starred, m.looks mark_looks").
			Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
			Where("+c.box_id = ? AND c.merged_to = 0 AND c.id IN ?", box, chunk).Scan(&rows).Error
		if err != nil {
			return s, err
		}
		for _, r := range rows {
			s.Conversations[r.ID] = r.State(r.Mark)
		}
	}
	for chunk := range slices.Chunk(uids, atOnce) {
		var rows []FollowUp
		if err := t.db.Where("box_id = ? AND uid IN ?", box, chunk).Find(&rows).Error; err != nil {
			return s, err
		}
		for _, r := range rows {
			s.FollowUps[r.UID] = r.Data
		}
		var events []Event
		if err := t.db.Where("box_id = ? AND uid IN ?", box, chunk).Find(&events).Error; err != nil {
			return s, err
		}
		for _, e := range events {
			s.Events[e.UID] = e.Data
		}
	}
	return s, nil
}

// atOnce is how many IDs or rows one statement names.
const atOnce = 500

// Apply stores what the changes say, and with each what the agenda says of it.
func (t Tx) Apply(box, person int64, changes []inbox.Change) error {
	var recount []int64
	for _, c := range changes {
		if c.Regroup != nil {
			if err := t.regroup(box, *c.Regroup); err != nil {
				return err
			}
			recount = append(recount, c.Regroup.From, c.Regroup.Into)
		}
	}
	for chunk := range slices.Chunk(changes, atOnce) {
		if err := t.putConversations(box, person, chunk); err != nil {
			return err
		}
	}
	var put []followup.FollowUp
	for _, c := range changes {
		var err error
		switch {
		case c.FollowUpAfter != nil:
			put = append(put, *c.FollowUpAfter)
		case c.FollowUpBefore != nil:
			err = t.dropFollowUp(box, c.FollowUpBefore.UID)
		case c.EventAfter != nil:
			err = t.PutEvent(box, *c.EventAfter)
		case c.EventBefore != nil:
			err = t.dropEvent(box, c.EventBefore.UID)
		}
		if err != nil {
			return err
		}
	}
	for _, id := range recount {
		if err := t.Recount(box, id); err != nil && !errors.Is(err, ErrNotFound) { // what was joined to another has nothing to count
			return err
		}
	}
	return t.PutFollowUps(box, put)
}

// image is inbox.Conversation as it goes into the columns.
type image struct {
	inbox.Conversation
	Local   string       `json:"local"`
	Zone    string       `json:"zone"`
	At      when.Instant `json:"at"`
	Waits   bool         `json:"waits"`
	Labeled bool         `json:"labeled"` // its labels changed
	Carried bool         `json:"carried"` // a server has to hear of it
	Left    inbox.Place  `json:"left"`    // the place it has left with this; empty: none
}

// putConversations stores the conversations of the changes, all at once.
func (t Tx) putConversations(box, person int64, changes []inbox.Change) error {
	var images []image
	var labeled []int64
	for _, c := range changes {
		if c.After == nil {
			continue
		}
		thing, waits := agenda.OfConversation(*c.After)
		i := image{Conversation: *c.After, At: thing.At, Waits: waits, Local: c.After.Return.Local, Zone: c.After.Return.Zone}
		i.Carried = c.Before == nil || c.Before.Place != c.After.Place || c.Before.Unread != c.After.Unread || c.Before.Starred != c.After.Starred
		if c.Before != nil && c.Before.Place != c.After.Place {
			i.Left = c.Before.Place
		}
		if i.Labeled = c.Before == nil || c.Before.Labels != c.After.Labels; i.Labeled {
			labeled = append(labeled, c.After.ID)
		}
		images = append(images, i)
	}
	if len(images) == 0 {
		return nil
	}
	raw, err := json.Marshal(images)
	if err != nil {
		return err
	}
	all := map[string]any{"all": string(raw), "box": box, "person": person}
	statements := []string{
		`UPDATE conversations SET place = j.value->>'place', reason = j.value->>'reason', since = j.value->>'since', snoozed_at = j.value->>'snoozedAt',
			return_at = j.value->>'$.return.at', return_local = j.value->>'local', return_zone = j.value->>'zone', until = j.value->>'until', site = j.value->>'site', round = COALESCE(j.value->>'round', 0),
			title = COALESCE(j.value->>'title', ''), note = COALESCE(j.value->>'note', ''), labels = COALESCE(j.value->>'labels', '')
			FROM json_each(@all) j WHERE conversations.id = j.value->>'id'`,
		`INSERT INTO marks(person_id, conversation_id, unread, starred, looks)
			SELECT @person, value->>'id', value->>'unread', value->>'starred', value->>'looks' FROM json_each(@all) WHERE true
			ON CONFLICT DO UPDATE SET unread = excluded.unread, starred = excluded.starred, looks = excluded.looks`,
		`DELETE FROM things WHERE kind = 'return' AND follow_up = '' AND conversation_id IN (SELECT value->>'id' FROM json_each(@all) WHERE NOT value->>'waits')`,
		`INSERT INTO things(box_id, at, kind, conversation_id, follow_up)
			SELECT @box, value->>'at', 'return', value->>'id', '' FROM json_each(@all) WHERE value->>'waits'
			ON CONFLICT DO UPDATE SET at = excluded.at`,
		`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT value->>'id', @box, 1, 0, 0, '', value->>'left' FROM json_each(@all) WHERE value->>'carried' AND EXISTS (SELECT 1 FROM accounts WHERE box_id = @box)
			ON CONFLICT DO UPDATE SET rev = rev + 1, attempts = 0, at = 0,
				left_places = CASE WHEN excluded.left_places = '' THEN left_places WHEN left_places = '' THEN excluded.left_places ELSE left_places || ',' || excluded.left_places END`,
	}
	for _, q := range statements {
		if err := t.db.Exec(q, all).Error; err != nil {
			return err
		}
	}
	if len(labeled) == 0 {
		return nil
	}
	if err := t.db.Where("conversation_id IN ?", labeled).Delete(&ConversationLabel{}).Error; err != nil {
		return err
	}
	var rows []ConversationLabel
	for _, i := range images {
		if i.Labeled {
			for _, l := range i.Labels.IDs() {
				rows = append(rows, ConversationLabel{LabelID: l, ConversationID: i.ID})
			}
		}
	}
	return create(t, rows, 400)
}

// setThing makes the agenda say of one subject what follows from its state.
func (t Tx) setThing(box int64, kind inbox.Kind, conversation int64, followUp string, thing agenda.Thing, waits bool) error {
	if !waits {
		return t.db.Exec("DELETE FROM things WHERE kind = ? AND conversation_id = ? AND follow_up = ? AND box_id = ?", kind, conversation, followUp, box).Error
	}
	return t.db.Exec(`INSERT INTO things(box_id, at, kind, conversation_id, follow_up) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET at = excluded.at`, box, thing.At, kind, conversation, followUp).Error
}

// BoxesDue gives the boxes in which something has to happen by now.
func (t Tx) BoxesDue(now when.Instant) (boxes []int64, err error) {
	err = t.db.Model(&Thing{}).Where("at <= ?", now).Distinct().Order("box_id").Pluck("box_id", &boxes).Error
	return boxes, err
}

// Due gives the things of the agenda of a box that have to happen by now, at most
// n, in the order in which they have to.
func (t Tx) Due(box int64, now when.Instant, n int) (things []Thing, err error) {
	err = t.db.Where("+box_id = ? AND at <= ?", box, now).Order("at, kind, conversation_id, follow_up").Limit(n).Find(&things).Error
	return things, err
}

// LeftOf counts those of the things that are on the agenda as they were.
func (t Tx) LeftOf(things []Thing) (left int64, err error) {
	raw := make([][2]int64, len(things))
	for i, th := range things {
		raw[i] = [2]int64{th.ID, int64(th.At)}
	}
	all, _ := json.Marshal(raw) // numbers always can be
	err = t.db.Raw("SELECT COUNT(*) FROM json_each(?) j CROSS JOIN things t ON t.id = j.value->>0 AND +t.at = j.value->>1", string(all)).Scan(&left).Error
	return left, err
}

// NextThing is the earliest instant after the one given at which something is on
// the agenda of any box, zero if nothing is to happen by itself.
func (t Tx) NextThing(after when.Instant) (at when.Instant, err error) {
	err = t.db.Model(&Thing{}).Where("at > ? AND at < ?", after, held).Select("COALESCE(MIN(at), 0)").Scan(&at).Error
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
func (t Tx) Record(entries ...*Entry) error {
	if err := create(t, entries, 50); err != nil {
		return err
	}
	var touched [][2]int64 // conversation, entry
	for _, e := range entries {
		if e.Kind == inbox.Look {
			continue
		}
		ids := append([]int64{e.ConversationID}, e.Touched...)
		for _, c := range e.Changes {
			ids = append(ids, c.Conversation())
		}
		for _, id := range ids {
			if id != 0 {
				touched = append(touched, [2]int64{id, e.ID})
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
	return t.db.Exec("INSERT OR IGNORE INTO touches(conversation_id, entry_id) SELECT value->>0, value->>1 FROM json_each(?)", string(raw)).Error
}

// LastStep is the newest decision that the person took here and that can still
// be taken back. What followed from elsewhere is taken back from the history.
func (t Tx) LastStep(person int64) (e Entry, err error) {
	err = plain(t.db.Where("person_id = ? AND step AND actor = 'person'", person).Order("id DESC").Take(&e).Error)
	return e, err
}

// LastTakeBack is the newest taking back of the person that can still be done
// again: no other decision has come after it.
func (t Tx) LastTakeBack(person int64) (e Entry, err error) {
	err = plain(t.db.Where("person_id = ? AND kind = 'take-back' AND taken_back = 0", person).Order("id DESC").Take(&e).Error)
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

// Past narrows the history: the zero value is all of it.
type Past struct {
	Before       int64        // entries before the one with this ID
	Until        when.Instant // and from before this instant
	Actor        Actor
	Conversation int64
}

// History pages back through the journal of a box, newest first. Looks are
// left out.
func (t Tx) History(box int64, p Past, n int) (entries []Entry, err error) {
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
func (t Tx) Entry(box, id int64) (e Entry, err error) {
	err = plain(t.db.Where("box_id = ? AND id = ?", box, id).Take(&e).Error)
	return e, err
}

// Since gives the newest entry after the one with that ID that changed one of
// the conversations and still stands, or ErrNotFound.
func (t Tx) Since(box, id int64, conversations []int64) (e Entry, err error) {
	for chunk := range slices.Chunk(conversations, atOnce) {
		err = plain(t.db.Where("+box_id = ? AND id > ? AND taken_back = 0 AND kind NOT IN ? AND id IN (SELECT entry_id FROM touches WHERE conversation_id IN ? AND entry_id > ?)",
			box, id, []inbox.Kind{inbox.TakeBack, inbox.Again, inbox.SeenReminder}, chunk, id).Omit("Changes").Order("id DESC").Take(&e).Error)
		if err == nil || !errors.Is(err, ErrNotFound) {
			return e, err
		}
	}
	return e, ErrNotFound
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

// Wipe forgets the answers to requests from before that instant, and the sessions
// that have run out by now.
func (t Tx) Wipe(before, now when.Instant) error {
	if err := t.db.Where("expires <= ?", now).Delete(&Session{}).Error; err != nil {
		return err
	}
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

// MoveReturn sets when a snoozed conversation comes back, where nothing was
// decided about it: the rules of a time zone have changed, or the day on which
// what waits for someday is looked through.
func (t Tx) MoveReturn(box, id int64, m when.Moment) error {
	err := t.db.Exec("UPDATE conversations SET return_at = ?, return_local = ?, return_zone = ? WHERE id = ? AND box_id = ?", m.At, m.Local, m.Zone, id, box).Error
	if err == nil {
		err = t.db.Exec("UPDATE things SET at = ? WHERE kind = ? AND conversation_id = ? AND follow_up = ''", m.At, inbox.Return, id).Error
	}
	return err
}

// NextReturn is when the next snoozed conversation of a box comes back; zero
// if none is snoozed.
func (t Tx) NextReturn(box int64) (at when.Instant, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ?", box, inbox.Snoozed).Select("COALESCE(MIN(return_at), 0)").Where("return_at > 0").Scan(&at).Error
	return at, err
}

// SetGone deletes a label or place, or has it back.
func (t Tx) SetGone(of any, ids []int64, gone bool) error {
	if len(ids) == 0 {
		return nil
	}
	return t.db.Model(of).Where("id IN ? AND gone <> ?", ids, gone).Update("gone", gone).Error
}

// Originals gives the Message-ID of the newest message by somebody else in each
// of the conversations, or of the newest of all.
func (t Tx) Originals(conversations []int64) (map[int64]string, error) {
	out := map[int64]string{}
	for chunk := range slices.Chunk(conversations, atOnce) {
		var rows []Message
		if err := t.db.Select("conversation_id", "message_id").Where("conversation_id IN ? AND held = ''", chunk).Order("NOT own, date, id").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ConversationID] = r.MessageID
		}
	}
	return out, nil
}
