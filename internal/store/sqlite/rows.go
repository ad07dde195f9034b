package sqlite

import (
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Put stores a row, new if its ID is 0. One that is not there any more is not
// brought back: ErrNotFound.
func Put[R any](db *gorm.DB, row *R, id int64) error {
	if id == 0 {
		return db.Create(row).Error
	}
	model := *row // GORM writes into it what it stores, and others may be reading the row
	return There(db.Model(&model).Select("*").Updates(row))
}

// There is the error of a change, ErrNotFound if there was nothing to change.
func There(res *gorm.DB) error {
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	return res.Error
}

// Create stores new rows, so many with one statement; on says what becomes of one
// that is there already.
func Create[T any](db *gorm.DB, rows []T, batch int, on ...clause.Expression) error {
	if len(rows) == 0 {
		return nil
	}
	if len(on) > 0 {
		db = db.Clauses(on...)
	}
	return db.CreateInBatches(rows, batch).Error
}

// AtOnce is how many IDs or rows one statement names.
const AtOnce = 500
