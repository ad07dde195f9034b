package store

import (
	"time"

	"ebbe/internal/core/when"
)

// Waiting is how much waits, of all boxes together.
type Waiting struct {
	Due                     int           // things of the agenda
	Late                    time.Duration // how long the first of them has been due
	Out, OutRetried         int           // messages to be handed over, and those tried in vain
	Errands, ErrandsRetried int
	Files                   int // messages whose files have to be read
	Accounts, Trouble       int
	People                  int
}

// Waiting says how much waits at that time.
func (t Tx) Waiting(now when.Instant) (w Waiting, err error) {
	var first when.Instant
	for _, q := range []struct {
		text string
		args []any
		into []any
	}{
		{"SELECT COUNT(*), COALESCE(MIN(at), 0) FROM things WHERE at <= ?", []any{now}, []any{&w.Due, &first}},
		{"SELECT COUNT(*), COALESCE(SUM(attempts > 0), 0) FROM outgoings WHERE state = 'waiting'", nil, []any{&w.Out, &w.OutRetried}},
		{"SELECT COUNT(*), COALESCE(SUM(attempts > 0), 0) FROM errands", nil, []any{&w.Errands, &w.ErrandsRetried}},
		{"SELECT COUNT(*) FROM unread_files", nil, []any{&w.Files}},
		{"SELECT COUNT(*), COALESCE(SUM(trouble <> ''), 0) FROM accounts", nil, []any{&w.Accounts, &w.Trouble}},
		{"SELECT COUNT(*) FROM people", nil, []any{&w.People}},
	} {
		if err := t.db.Raw(q.text, q.args...).Row().Scan(q.into...); err != nil {
			return w, err
		}
	}
	if w.Due > 0 {
		w.Late = now.Time().Sub(first.Time())
	}
	return w, nil
}
