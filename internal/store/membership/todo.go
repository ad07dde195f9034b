package membership

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// ToDo gives up to n open follow-ups of somebody's own box that wait for nobody, those due first
// before the others, and those without a date last.
func (t Membership) ToDo(box int64, n int) (rows []store.FollowUp, err error) {
	for _, where := range []string{"box_id = ? AND open AND due_at > 0 AND waits_since = 0", "box_id = ? AND open AND due_at = 0 AND waits_since = 0"} {
		var some []store.FollowUp
		if err := t.db().Where(where, box).Order("due_at, uid").Limit(n - len(rows)).Find(&some).Error; err != nil {
			return nil, err
		}
		if rows = append(rows, some...); len(rows) == n {
			break
		}
	}
	return rows, nil
}

// Finished gives when what the members of a team had was finished in [from, to), and its effort, by
// whoever had it.
func (t Membership) Finished(box int64, from, to when.Instant) (map[int64][]followup.Past, error) {
	var rows []struct {
		followup.Past
		Owner int64
	}
	err := t.db().Raw(`SELECT finished at, COALESCE(data->>'effort', 0) effort, owner FROM follow_ups WHERE box_id = ? AND NOT open AND finished >= ? AND finished < ? AND data->>'status' = ? AND owner > 0`,
		box, from, to, followup.Completed).Scan(&rows).Error
	out := map[int64][]followup.Past{}
	for _, r := range rows {
		out[r.Owner] = append(out[r.Owner], r.Past)
	}
	return out, err
}
