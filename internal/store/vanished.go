package store

import (
	"gorm.io/gorm/clause"

	"ebbe/internal/core/when"
)

// Vanish notes what has vanished from the folders of an account and was found
// nowhere else there.
func (t Tx) Vanish(rows []Vanishing) error {
	return create(t, rows, 150, clause.OnConflict{UpdateAll: true})
}

// Vanishings gives what has vanished from the folders of an account since that
// instant, and all about which the person has been asked.
func (t Tx) Vanishings(account int64, since when.Instant) (out []Vanishing, err error) {
	err = t.db.Where("account_id = ? AND (asked OR at >= ?)", account, since).Order("message_id").Find(&out).Error
	return out, err
}

// AskedAbout counts, by account of a box, the messages about whose vanishing the
// person has been asked and has said nothing yet.
func (t Tx) AskedAbout(box int64) (map[int64]int, error) {
	var rows []struct {
		AccountID int64
		N         int
	}
	err := t.db.Raw("SELECT v.account_id, COUNT(*) n FROM vanishings v JOIN accounts a ON a.id = v.account_id WHERE a.box_id = ? AND v.asked AND NOT v.put_back GROUP BY 1", box).Scan(&rows).Error
	out := map[int64]int{}
	for _, r := range rows {
		out[r.AccountID] = r.N
	}
	return out, err
}

// ForgetVanished forgets what vanished from the folders of an account before
// that instant and needs no answer.
func (t Tx) ForgetVanished(account int64, before when.Instant) error {
	return t.db.Where("account_id = ? AND NOT asked AND at < ?", account, before).Delete(&Vanishing{}).Error
}

// DropVanished forgets some of it.
func (t Tx) DropVanished(rows []Vanishing) error {
	for _, v := range rows {
		if err := t.db.Where("folder_id = ? AND message_id = ?", v.FolderID, v.MessageID).Delete(&Vanishing{}).Error; err != nil {
			return err
		}
	}
	return nil
}
