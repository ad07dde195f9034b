package weighing

import (
	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Reading says that a person had a conversation open.
type Reading struct {
	ID             int64
	PersonID       int64
	BoxID          int64
	ConversationID int64
	MessageID      int64 // its newest message then
	At             when.Instant
	Seconds        int  // for how long it was in view
	Whole          bool // down to its end
}

// Notice is a notification that a person was shown.
type Notice struct {
	ID       int64
	PersonID int64
	BoxID    int64
	At       when.Instant
	Text     string
}

// Readings is what is asked and stored about what was read and shown.
type Readings store.Tx

// NoteReadings notes what a person had open; what is not of their box is left out.
func (t Readings) NoteReadings(box int64, readings []Reading) error {
	var ids []int64
	for _, r := range readings {
		ids = append(ids, r.ConversationID)
	}
	there, err := store.Conversations(t).Names(box, ids)
	if err != nil {
		return err
	}
	var rows []*Reading
	for _, r := range readings {
		if _, ok := there[r.ConversationID]; ok {
			rows = append(rows, &r)
		}
	}
	return sqlite.Create(store.Tx(t).DB(), rows, 50)
}

// NoteNotices notes what notifications a person was shown.
func (t Readings) NoteNotices(notices []Notice) error {
	rows := make([]*Notice, len(notices))
	for i := range notices {
		rows[i] = &notices[i]
	}
	return sqlite.Create(store.Tx(t).DB(), rows, 50)
}

// ReadingsOf gives when, and for how long, a person had a conversation of their box
// open, in order.
func (t Readings) ReadingsOf(box, person, conversation int64) (out []Reading, err error) {
	err = store.Tx(t).DB().Where("conversation_id = ? AND person_id = ? AND +box_id = ?", conversation, person, box).Order("id").Find(&out).Error
	return out, err
}

// shown are the notifications that a person was shown in [from, to), of the boxes that they still are in.
func (t Readings) shown(person int64, from, to when.Instant) *gorm.DB {
	return store.Tx(t).DB().Model(&Notice{}).Where("person_id = ? AND at >= ? AND at < ? AND EXISTS (SELECT 1 FROM members m WHERE m.box_id = notices.box_id AND m.person_id = notices.person_id)", person, from, to)
}

// NoticesIn counts the notifications that a person was shown in [from, to), of the boxes that they still
// are in.
func (t Readings) NoticesIn(person int64, from, to when.Instant) (int, error) {
	var n int64
	err := t.shown(person, from, to).Count(&n).Error
	return int(n), err
}

// NoticesBack gives n of them, the newest first; those before that of an ID, if one is named.
func (t Readings) NoticesBack(person int64, from, to when.Instant, before int64, n int) (out []Notice, err error) {
	q := t.shown(person, from, to)
	if before > 0 {
		q = q.Where("(at, id) < (SELECT b.at, b.id FROM notices b WHERE b.id = ?)", before)
	}
	err = q.Order("at DESC, id DESC").Limit(n).Find(&out).Error
	return out, err
}

// Seen is how far a person knows a conversation: the newest message there was when they last
// had it open, and when they last decided something about it; 0 if they never did.
func (t Readings) Seen(person, conversation int64) (message int64, decided when.Instant, err error) {
	db := store.Tx(t).DB()
	if err = db.Raw("SELECT COALESCE(MAX(message_id), 0) FROM readings WHERE conversation_id = ? AND person_id = ?", conversation, person).Scan(&message).Error; err != nil {
		return 0, 0, err
	}
	err = db.Raw("SELECT e.at FROM touches x CROSS JOIN entries e ON e.id = x.entry_id WHERE x.conversation_id = ? AND e.actor = 'person' AND +e.person_id = ? AND e.kind <> ? ORDER BY x.entry_id DESC LIMIT 1", conversation, person, inbox.Look).Scan(&decided).Error
	return message, decided, err
}
