package counting

import (
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Sitting is one going through the undecided. Its steps are the entries of the
// journal that name it.
type Sitting struct {
	ID       int64
	PersonID int64
	BoxID    int64
	Begun    when.Instant
	Ended    when.Instant // 0 while it lasts
	Order    inbox.Order
	Minutes  int     // its length; 0: until all are decided
	Queue    []int64 `gorm:"serializer:json"` // in the order chosen
}

// Sittings is what is asked and stored about sittings.
type Sittings store.Tx

func (t Sittings) db() *gorm.DB { return store.Tx(t).DB() }

// Put stores a sitting, new or changed. Its queue never changes.
func (t Sittings) Put(s *Sitting) error {
	if s.ID != 0 {
		return sqlite.There(t.db().Model(s).Select("*").Omit("Queue").Updates(s))
	}
	return sqlite.Put(t.db(), s, 0)
}

// Last is the newest sitting of a person in a box, or ErrNotFound.
func (t Sittings) Last(box, person int64) (s Sitting, err error) {
	err = sqlite.Plain(t.db().Where("person_id = ? AND box_id = ?", person, box).Order("id DESC").Take(&s).Error)
	return s, err
}

// StepsOf gives what was decided in a sitting and still stands, in order.
func (t Sittings) StepsOf(sitting int64) (entries []store.Entry, err error) {
	err = t.db().Where("sitting_id = ? AND sitting_id > 0 AND taken_back = 0", sitting).Omit("Changes").Order("id").Find(&entries).Error
	return entries, err
}

// LeftIn gives the conversations that were left undecided in a sitting.
func (t Sittings) LeftIn(sitting int64) (ids []int64, err error) {
	var entries []store.Entry
	err = t.db().Where("sitting_id = ? AND sitting_id > 0 AND kind = ? AND taken_back = 0", sitting, inbox.Leave).Find(&entries).Error
	for _, e := range entries {
		for _, c := range e.Changes {
			ids = append(ids, c.Conversation())
		}
	}
	return ids, err
}

// StillIn gives those of the conversations that are in the inbox, in their order.
func (t Sittings) StillIn(box int64, ids []int64) (out []int64, err error) {
	in := map[int64]bool{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var found []int64
		if err := t.db().Model(&store.Conversation{}).Where("box_id = ? AND place = 'inbox' AND id IN ?", box, chunk).Pluck("id", &found).Error; err != nil {
			return nil, err
		}
		for _, id := range found {
			in[id] = true
		}
	}
	out = []int64{}
	for _, id := range ids {
		if in[id] {
			out = append(out, id)
		}
	}
	return out, nil
}

// Gone is a sitting that has been, with what it came to.
type Gone struct {
	ID          int64
	Begun       when.Instant
	Ended       when.Instant // 0 while it lasts
	Steps       int          // that stand
	Last        when.Instant // the last of them; 0 without any
	Interrupted int          // how often more than five minutes passed between two of them
}

// Between gives the sittings of a person in a box that began in [from, to), the oldest first.
func (t Sittings) Between(box, person int64, from, to when.Instant) (out []Gone, err error) {
	err = t.db().Raw(`SELECT s.id, s.begun, s.ended, COUNT(e.id) steps, COALESCE(MAX(e.at), 0) last, COALESCE(SUM(e.since >= s.begun AND e.at - e.since > 300000), 0) interrupted
		FROM sittings s LEFT JOIN entries e ON e.sitting_id = s.id AND e.sitting_id > 0 AND e.taken_back = 0
		WHERE s.box_id = ? AND s.person_id = ? AND s.begun >= ? AND s.begun < ? GROUP BY s.id ORDER BY s.begun, s.id`, box, person, from, to).Scan(&out).Error
	return out, err
}
