package talk

import (
	"ebbe/internal/core/when"
)

// Letter is how far somebody has been told by letters of what concerns them in teams.
type Letter struct {
	PersonID int64        `gorm:"primaryKey"`
	Told     int64        // the last concern that was there for the last of them
	Due      when.Instant // the round with which the next is to come; 0: none is due
}

// Ask has a letter to somebody be due.
func (t Talk) Ask(person int64, at when.Instant) error {
	return t.db().Exec("INSERT INTO letters(person_id, told, due) VALUES (?, 0, ?) ON CONFLICT DO UPDATE SET due = excluded.due", person, at).Error
}

// Asked gives the letters that are due, the longest due first.
func (t Talk) Asked() (out []Letter, err error) {
	err = t.db().Where("due > 0").Order("due, person_id").Find(&out).Error
	return out, err
}

// Wrote notes that a letter has told of all up to that concern.
func (t Talk) Wrote(person, told int64) error {
	return t.db().Exec("UPDATE letters SET told = ?, due = 0 WHERE person_id = ?", told, person).Error
}
