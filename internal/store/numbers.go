package store

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
)

// Flow gives by hour how many conversations got messages from others, and how
// many left the inbox by decisions of a person that stand, in [from, to).
func (t Journal) Flow(box int64, from, to when.Instant) ([]numbers.Flow, error) {
	byHour := map[when.Instant]*numbers.Flow{}
	add := func(query string, into func(*numbers.Flow, int), args ...any) error {
		var rows []struct {
			Hour when.Instant
			N    int
		}
		if err := t.db.Raw(query, args...).Scan(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			at := r.Hour * numbers.Hour
			if byHour[at] == nil {
				byHour[at] = &numbers.Flow{At: at}
			}
			into(byHour[at], r.N)
		}
		return nil
	}
	err := add("SELECT date / 3600000 hour, COUNT(DISTINCT conversation_id) n FROM messages WHERE box_id = ? AND NOT own AND date >= ? AND date < ? GROUP BY 1",
		func(f *numbers.Flow, n int) { f.In = n }, box, from, to)
	if err == nil {
		err = add("SELECT at / 3600000 hour, -SUM(delta) n FROM entries WHERE box_id = ? AND at >= ? AND at < ? AND delta < 0 AND actor = ? AND taken_back = 0 GROUP BY 1",
			func(f *numbers.Flow, n int) { f.Decided = n }, box, from, to, ByPerson)
	}
	var flow []numbers.Flow
	for _, f := range byHour {
		flow = append(flow, *f)
	}
	return flow, err
}

// Returned gives the instants in [from, to) at which the clock brought
// something back.
func (t Journal) Returned(box int64, from, to when.Instant) (back []when.Instant, err error) {
	err = t.db.Model(&Entry{}).Where("box_id = ? AND at >= ? AND at < ? AND kind = ?", box, from, to, inbox.Return).Pluck("at", &back).Error
	return back, err
}
