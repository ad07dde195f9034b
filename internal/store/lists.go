package store

import (
	"ebbe/internal/core/search"
	"ebbe/internal/store/sqlite"
)

// SavedList is a query a person keeps in view beside the inbox.
type SavedList struct {
	ID       int64
	PersonID int64
	BoxID    int64
	Name     string
	Query    search.Query `gorm:"serializer:json"`
	Folded   bool
	Counted  bool   // it stands on the rail, with how much is on it
	Asked    string // what was asked for in Find, if it was saved there
	Rank     int    // their order
}

// Lists is what is asked and stored about saved lists.
type Lists Tx

// SavedLists gives the lists of a person, in their order.
func (t Lists) SavedLists(box, person int64) (lists []SavedList, err error) {
	err = t.db.Where("person_id = ? AND box_id = ?", person, box).Order("rank, id").Find(&lists).Error
	return lists, err
}

// Counted says how many lists of a person stand on the rail.
func (t Lists) Counted(box, person int64) (n int64, err error) {
	err = t.db.Model(&SavedList{}).Where("person_id = ? AND box_id = ? AND counted", person, box).Count(&n).Error
	return n, err
}

// PutSavedList stores a list, new or changed.
func (t Lists) PutSavedList(l *SavedList) error { return sqlite.Put(t.db, l, l.ID) }

// DropSavedList deletes a list; the conversations on it stay as they are.
func (t Lists) DropSavedList(box, person, id int64) error {
	return t.db.Where("person_id = ? AND box_id = ?", person, box).Delete(&SavedList{ID: id}).Error
}
