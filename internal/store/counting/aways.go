package counting

import (
	"ebbe/internal/core/when"
)

// Away is a time when whoever's box it is was away.
type Away struct {
	ID    int64
	BoxID int64
	Begun when.Instant
	Until when.Instant // 0: they still are
}

// SetAway notes at now that whoever's box it is is away from now on, until then if that is known (0: it
// is not), or, if away is false, is so no more.
func (t Counted) SetAway(box int64, away bool, until, now when.Instant) error {
	if err := t.db().Exec("UPDATE aways SET until = ? WHERE box_id = ? AND begun <= ? AND (until = 0 OR until > ?)", now, box, now, now).Error; err != nil || !away {
		return err
	}
	return t.db().Create(&Away{BoxID: box, Begun: now, Until: until}).Error
}

// Aways gives when they were away in [from, to), the longest ago first.
func (t Counted) Aways(box int64, from, to when.Instant) (out []Away, err error) {
	err = t.db().Where("box_id = ? AND begun < ? AND (until = 0 OR until > ?)", box, to, from).Order("begun, id").Find(&out).Error
	return out, err
}
