package store

import (
	"ebbe/internal/core/search"
	"ebbe/internal/store/sqlite"
)

// SavedList is a query a person keeps in view beside the inbox.
type SavedList struct {
	ID       int64
	PersonID int64
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
func (t Lists) SavedLists(person int64) (lists []SavedList, err error) {
	err = t.db.Where("person_id = ?", person).Order("rank, id").Find(&lists).Error
	return lists, err
}

// Counted says how many lists of a person stand on the rail.
func (t Lists) Counted(person int64) (n int64, err error) {
	err = t.db.Model(&SavedList{}).Where("person_id = ? AND counted", person).Count(&n).Error
	return n, err
}

// PutSavedList stores a list, new or changed.
func (t Lists) PutSavedList(l *SavedList) error { return sqlite.Put(t.db, l, l.ID) }

// DropSavedList deletes a list; the conversations on it stay as they are.
func (t Lists) DropSavedList(person, id int64) error {
	return t.db.Where("person_id = ?", person).Delete(&SavedList{ID: id}).Error
}
