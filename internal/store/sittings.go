package store

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
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

// PutSitting stores a sitting, new or changed. Its queue never changes.
func (t Journal) PutSitting(s *Sitting) error {
	if s.ID != 0 {
		return sqlite.There(t.db.Model(s).Select("*").Omit("Queue").Updates(s))
	}
	return sqlite.Put(t.db, s, 0)
}

// LastSitting is the newest sitting of a person in a box, or ErrNotFound.
func (t Journal) LastSitting(box, person int64) (s Sitting, err error) {
	err = sqlite.Plain(t.db.Where("person_id = ? AND box_id = ?", person, box).Order("id DESC").Take(&s).Error)
	return s, err
}

// StepsOf gives what was decided in a sitting and still stands, in order.
func (t Journal) StepsOf(sitting int64) (entries []Entry, err error) {
	err = t.db.Where("sitting_id = ? AND sitting_id > 0 AND taken_back = 0", sitting).Omit("Changes").Order("id").Find(&entries).Error
	return entries, err
}

// LeftIn gives the conversations that were left undecided in a sitting.
func (t Journal) LeftIn(sitting int64) (ids []int64, err error) {
	var entries []Entry
	err = t.db.Where("sitting_id = ? AND sitting_id > 0 AND kind = ? AND taken_back = 0", sitting, inbox.Leave).Find(&entries).Error
	for _, e := range entries {
		for _, c := range e.Changes {
			ids = append(ids, c.Conversation())
		}
	}
	return ids, err
}

// StillIn gives those of the conversations that are in the inbox, in their order.
func (t Journal) StillIn(box int64, ids []int64) (out []int64, err error) {
	in := map[int64]bool{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var found []int64
		if err := t.db.Model(&Conversation{}).Where("box_id = ? AND place = 'inbox' AND id IN ?", box, chunk).Pluck("id", &found).Error; err != nil {
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
