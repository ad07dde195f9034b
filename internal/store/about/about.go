// Package about keeps what the reader notes about people.
package about

import (
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Remark is a note about whoever has an address, in a box.
type Remark struct {
	BoxID   int64  `gorm:"primaryKey;autoIncrement:false"`
	Address string `gorm:"primaryKey"` // in lower case
	Text    string
	Changed when.Instant
}

// Remarks is what is asked and stored about them.
type Remarks store.Tx

func (t Remarks) db() *gorm.DB { return store.Tx(t).DB() }

// Of is what is noted about whoever has one of these addresses; the zero value if nothing is.
func (t Remarks) Of(box int64, addresses []string) (r Remark, err error) {
	err = t.db().Where("box_id = ? AND address IN ?", box, addresses).Order("changed DESC").Limit(1).Find(&r).Error
	return r, err
}

// Put stores a remark; one without a text is none.
func (t Remarks) Put(r Remark) error {
	if r.Text == "" {
		return t.db().Where("box_id = ? AND address = ?", r.BoxID, r.Address).Delete(&Remark{}).Error
	}
	return t.db().Clauses(clause.OnConflict{UpdateAll: true}).Create(&r).Error
}
