package counting

import (
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Dig is that the inbox of a box is being dug out.
type Dig struct {
	BoxID    int64 `gorm:"primaryKey;autoIncrement:false"`
	Begun    when.Instant
	LeftThen int
	Tens     int // pieces of ten minutes a day
}

// Digs is what is asked and stored about digging out.
type Digs store.Tx

func (t Digs) db() *gorm.DB { return store.Tx(t).DB() }

// Of is the one of a box; the zero value if there is none.
func (t Digs) Of(box int64) (d Dig, err error) {
	err = t.db().Where("box_id = ?", box).Limit(1).Find(&d).Error
	return d, err
}

// Put stores it.
func (t Digs) Put(d Dig) error {
	return t.db().Clauses(clause.OnConflict{UpdateAll: true}).Create(&d).Error
}

// Drop ends it.
func (t Digs) Drop(box int64) error { return t.db().Where("box_id = ?", box).Delete(&Dig{}).Error }

// Heaps gives what lies in the inbox by its senders, of what has something since then, and how much has not.
func (t Digs) Heaps(box int64, since when.Instant) (heaps []numbers.Heap, old int, err error) {
	err = t.db().Raw("SELECT from_addr address, MAX(from_name) name, COUNT(*) n, SUM(kind = 'person') people FROM conversations WHERE box_id = ? AND place = 'inbox' AND +last_at >= ? GROUP BY from_addr", box, since).Scan(&heaps).Error
	if err == nil {
		err = t.db().Raw("SELECT COUNT(*) FROM conversations WHERE box_id = ? AND place = 'inbox' AND +last_at < ?", box, since).Scan(&old).Error
	}
	return heaps, old, err
}
