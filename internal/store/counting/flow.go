package counting

import (
	"cmp"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Flow gives by hour how many conversations got messages from others, and how
// many left the inbox by decisions of a person that stand, in [from, to).
func (t Counted) Flow(box int64, from, to when.Instant) ([]numbers.Flow, error) {
	byHour := map[when.Instant]*numbers.Flow{}
	add := func(query string, into func(*numbers.Flow, int), args ...any) error {
		var rows []struct {
			Hour when.Instant
			N    int
		}
		if err := t.db().Raw(query, args...).Scan(&rows).Error; err != nil {
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
			func(f *numbers.Flow, n int) { f.Decided = n }, box, from, to, store.ByPerson)
	}
	var flow []numbers.Flow
	for _, f := range byHour {
		flow = append(flow, *f)
	}
	return flow, err
}

// Returned gives the instants in [from, to) at which the clock brought
// something back.
func (t Counted) Returned(box int64, from, to when.Instant) (back []when.Instant, err error) {
	err = t.db().Model(&store.Entry{}).Where("box_id = ? AND at >= ? AND at < ? AND kind = ?", box, from, to, inbox.Return).Pluck("at", &back).Error
	return back, err
}

// Arrivals gives when messages of each stream by others came, in [from, to), in
// order.
func (t Counted) Arrivals(box int64, from, to when.Instant) (delivery.Arrived, error) {
	var rows []struct {
		Date   when.Instant
		Kind   mail.Kind
		Stream delivery.Stream
	}
	err := t.db().Model(&store.Message{}).Select("date", "kind", "stream").Where("box_id = ? AND NOT own AND date >= ? AND date < ?", box, from, to).Order("date").Scan(&rows).Error
	out := delivery.Arrived{}
	for _, r := range rows {
		s := cmp.Or(r.Stream, delivery.StreamOf(r.Kind))
		out[s] = append(out[s], r.Date)
	}
	return out, err
}

// Steps gives the moments in [from, to] at which the number left to decide in
// a box changed.
func (t Counted) Steps(box int64, from, to when.Instant) (steps []numbers.Step, err error) {
	err = t.db().Model(&store.Entry{}).Select("at", "delta").Where("box_id = ? AND at >= ? AND at <= ? AND delta <> 0", box, from, to).Order("at, id").Scan(&steps).Error
	return steps, err
}

// Decided counts by kind how many conversations left the inbox in [from, to] by
// decisions of a person that still stand.
func (t Counted) Decided(box int64, from, to when.Instant) (map[inbox.Kind]int, error) {
	var rows []struct {
		Kind inbox.Kind
		N    int
	}
	err := t.db().Model(&store.Entry{}).Select("kind, -SUM(delta) n").
		Where("box_id = ? AND at >= ? AND at <= ? AND delta < 0 AND actor = ? AND step", box, from, to, store.ByPerson).Group("kind").Scan(&rows).Error
	by := map[inbox.Kind]int{}
	for _, r := range rows {
		by[r.Kind] = r.N
	}
	return by, err
}
