// Package whereabouts keeps the places people can be at, and what waits for them there.
package whereabouts

import (
	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Site is a place a person can be at.
type Site struct {
	ID       int64
	PersonID int64
	Name     string
	Gone     bool
}

// Whereabouts is what is asked and stored about them.
type Whereabouts store.Tx

func (t Whereabouts) db() *gorm.DB { return store.Tx(t).DB() }

// Sites gives the places of a person, the deleted ones only if asked for.
func (t Whereabouts) Sites(person int64, gone bool) (sites []Site, err error) {
	err = t.db().Where("person_id = ? AND (NOT gone OR ?)", person, gone).Order("name COLLATE NOCASE, id").Find(&sites).Error
	return sites, err
}

// PutSite stores a place, new or changed.
func (t Whereabouts) PutSite(s *Site) error { return sqlite.Put(t.db(), s, s.ID) }

// SiteCounts says how many conversations wait for each place.
func (t Whereabouts) SiteCounts(box int64) (map[int64]int, error) {
	var rows []struct {
		ID int64
		N  int
	}
	err := t.db().Raw("SELECT site id, COUNT(*) n FROM conversations WHERE box_id = ? AND site > 0 AND place = 'snoozed' GROUP BY site", box).Scan(&rows).Error
	counts := map[int64]int{}
	for _, r := range rows {
		counts[r.ID] = r.N
	}
	return counts, err
}

// WaitingAt gives the conversations that wait for a place.
func (t Whereabouts) WaitingAt(box, site int64) (ids []int64, err error) {
	err = t.db().Model(&store.Conversation{}).Where("box_id = ? AND site = ? AND site > 0 AND place = 'snoozed'", box, site).Order("since, id").Pluck("id", &ids).Error
	return ids, err
}

// SomedayIDs gives the conversations that wait for someday.
func (t Whereabouts) SomedayIDs(box int64) (ids []int64, err error) {
	err = t.db().Model(&store.Conversation{}).Where("box_id = ? AND place = ? AND until = ?", box, inbox.Snoozed, inbox.UntilSomeday).Pluck("id", &ids).Error
	return ids, err
}

// SetPersonSite notes where a person is.
func (t Whereabouts) SetPersonSite(person, site int64) error {
	return t.db().Model(&store.Person{}).Where("id = ?", person).Update("site", site).Error
}
