package store

import (
	"encoding/json"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Thing is one row of the agenda.
type Thing struct {
	ID             int64
	BoxID          int64
	At             when.Instant
	Kind           inbox.Kind
	ConversationID int64
	FollowUp       string // UID of a follow-up or an event
}

// WhenSaid is the instant of what happens only when the user says so.
const WhenSaid = when.Instant(1) << 52

// Kept says that t happens only when the user says so.
func (t Thing) Kept() bool { return t.At == WhenSaid }

// Agenda is what is asked and stored about what must happen, and when.
type Agenda Tx

// setThing makes the agenda say of one subject what follows from its state.
func (t Agenda) setThing(box int64, kind inbox.Kind, conversation int64, followUp string, thing agenda.Thing, waits bool) error {
	if !waits {
		return t.db.Exec("DELETE FROM things WHERE kind = ? AND conversation_id = ? AND follow_up = ? AND box_id = ?", kind, conversation, followUp, box).Error
	}
	return t.db.Exec(`INSERT INTO things(box_id, at, kind, conversation_id, follow_up) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET at = excluded.at`, box, thing.At, kind, conversation, followUp).Error
}

// Put says when something happens to a conversation of a box that does not follow from its
// state alone.
func (t Agenda) Put(box int64, kind inbox.Kind, conversation int64, at when.Instant) error {
	return t.setThing(box, kind, conversation, "", agenda.Thing{At: at}, true)
}

// BoxesDue gives the boxes in which something has to happen by now.
func (t Agenda) BoxesDue(now when.Instant) (boxes []int64, err error) {
	err = t.db.Model(&Thing{}).Where("at <= ?", now).Distinct().Order("box_id").Pluck("box_id", &boxes).Error
	return boxes, err
}

// Due gives the things of the agenda of a box that have to happen by now, at most
// n, in the order in which they have to.
func (t Agenda) Due(box int64, now when.Instant, n int) (things []Thing, err error) {
	err = t.db.Where("+box_id = ? AND at <= ?", box, now).Order("at, kind, conversation_id, follow_up").Limit(n).Find(&things).Error
	return things, err
}

// LeftOf counts those of the things that are on the agenda as they were.
func (t Agenda) LeftOf(things []Thing) (left int64, err error) {
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
func (t Agenda) NextThing(after when.Instant) (at when.Instant, err error) {
	err = t.db.Model(&Thing{}).Where("at > ? AND at < ?", after, WhenSaid).Select("COALESCE(MIN(at), 0)").Scan(&at).Error
	return at, err
}

// DropThing takes a row off the agenda whose subject no longer waits.
func (t Agenda) DropThing(id int64) error { return t.db.Delete(&Thing{}, id).Error }

// Things gives all rows of the agenda, for checks.
func (t Agenda) Things() (things []Thing, err error) {
	err = t.db.Order("at").Find(&things).Error
	return things, err
}

// Returns gives, for [from, to), when conversations come back and when open
// follow-ups are due in a box.
func (t Agenda) Returns(box int64, from, to when.Instant) (back, due []when.Instant, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ? AND return_at >= ? AND return_at < ?", box, inbox.Snoozed, from, to).
		Limit(10_000).Pluck("return_at", &back).Error
	if err == nil {
		err = t.db.Model(&FollowUp{}).Where("box_id = ? AND open AND due_at >= ? AND due_at < ?", box, from, to).
			Limit(10_000).Pluck("due_at", &due).Error
	}
	return back, due, err
}

// MoveReturn sets when a snoozed conversation comes back, where nothing was
// decided about it: the rules of a time zone have changed, or the day on which
// what waits for someday is looked through.
func (t Agenda) MoveReturn(box, id int64, m when.Moment) error {
	err := t.db.Exec("UPDATE conversations SET return_at = ?, return_local = ?, return_zone = ? WHERE id = ? AND box_id = ?", m.At, m.Local, m.Zone, id, box).Error
	if err == nil {
		err = t.db.Exec("UPDATE things SET at = ? WHERE kind = ? AND conversation_id = ? AND follow_up = ''", m.At, inbox.Return, id).Error
	}
	return err
}

// NextReturn is when the next snoozed conversation of a box comes back; zero
// if none is snoozed.
func (t Agenda) NextReturn(box int64) (at when.Instant, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ?", box, inbox.Snoozed).Select("COALESCE(MIN(return_at), 0)").Where("return_at > 0").Scan(&at).Error
	return at, err
}

// SetTime notes on the agenda when something happens to a whole box; 0 takes it
// off.
func (t Agenda) SetTime(box int64, kind inbox.Kind, at when.Instant) error {
	// The subject of the row is the box: one row each, whatever the kind.
	if err := t.db.Exec("DELETE FROM things WHERE kind = ? AND box_id = ?", kind, box).Error; err != nil || at == 0 {
		return err
	}
	return t.db.Create(&Thing{BoxID: box, At: at, Kind: kind, ConversationID: -box}).Error
}

// TimeOf is when that happens to a box; 0 if it is not on the agenda.
func (t Agenda) TimeOf(box int64, kind inbox.Kind) (at when.Instant, err error) {
	err = t.db.Model(&Thing{}).Where("kind = ? AND box_id = ?", kind, box).Select("COALESCE(MAX(at), 0)").Scan(&at).Error
	return at, err
}

// ReturnsIn gives up to n conversations that come back in [from, to), in that
// order.
func (t Agenda) ReturnsIn(box int64, from, to when.Instant, n int) (ids []int64, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ? AND return_at >= ? AND return_at < ?", box, inbox.Snoozed, from, to).
		Order("return_at, id").Limit(n).Pluck("id", &ids).Error
	return ids, err
}

// TitleOf is what a follow-up or an event of a box is called, by its UID, as far
// as that can be read; else "".
func (t Agenda) TitleOf(box int64, uid string) (title string) {
	_ = t.db.Raw("SELECT COALESCE(json_extract(data, '$.title'), '') FROM follow_ups WHERE box_id = ? AND uid = ? AND json_valid(data) UNION ALL SELECT COALESCE(json_extract(data, '$.title'), '') FROM events WHERE box_id = ? AND uid = ? AND json_valid(data) LIMIT 1", box, uid, box, uid).Scan(&title).Error
	return title
}

// Subjects are the follow-ups and events that things of the agenda are about.
func Subjects(things []Thing) (uids []string) {
	for _, th := range things {
		uids = append(uids, th.FollowUp)
	}
	return uids
}
