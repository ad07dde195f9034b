package membership

import "ebbe/internal/store"

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
