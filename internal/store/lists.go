package store

import (
	"ebbe/internal/core/search"
)

// SavedList is a query a person keeps in view beside the inbox.
type SavedList struct {
	ID       int64
	PersonID int64
	Name     string
	Query    search.Query `gorm:"serializer:json"`
	Folded   bool
	Rank     int // their order
}

// SavedLists gives the lists of a person, in their order.
func (t Tx) SavedLists(person int64) (lists []SavedList, err error) {
	err = t.db.Where("person_id = ?", person).Order("rank, id").Find(&lists).Error
	return lists, err
}

// PutSavedList stores a list, new or changed.
func (t Tx) PutSavedList(l *SavedList) error { return put(t, l, l.ID) }

// DropSavedList deletes a list; the conversations on it stay as they are.
func (t Tx) DropSavedList(person, id int64) error {
	return t.db.Where("person_id = ?", person).Delete(&SavedList{ID: id}).Error
}
