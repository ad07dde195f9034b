package store

import (
	"gorm.io/gorm/clause"

	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// Request is the answer already given to a request that may be repeated.
type Request struct {
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	Key      string `gorm:"primaryKey"`
	At       when.Instant
	Answer   []byte
}

// Meta is a value the program keeps about the whole database.
type Meta struct {
	Name  string `gorm:"primaryKey"`
	Value string
}

// Wipe forgets the answers to requests from before that instant.
func (t Journal) Wipe(before when.Instant) error {
	return t.db.Where("at < ?", before).Delete(&Request{}).Error
}

// Answered gives the stored answer to a request, or ErrNotFound.
func (t Journal) Answered(person int64, key string) ([]byte, error) {
	var r Request
	err := sqlite.Plain(t.db.Where("person_id = ? AND key = ?", person, key).Take(&r).Error)
	return r.Answer, sqlite.Plain(err)
}

// Answer stores the answer to a request.
func (t Journal) Answer(r Request) error { return t.db.Create(&r).Error }

// Meta reads a value kept about the whole database; "" if there is none.
func (t Tx) Meta(name string) (string, error) {
	var m Meta
	err := t.db.Where("name = ?", name).Limit(1).Find(&m).Error
	return m.Value, err
}

// SetMeta stores such a value.
func (t Tx) SetMeta(name, value string) error {
	return t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Meta{Name: name, Value: value}).Error
}
