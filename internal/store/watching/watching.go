// Package watching is what whoever watches over the program asks, of all boxes together and
// of nobody by name.
package watching

import (
	"time"

	"gorm.io/gorm"

	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Watching is what is asked about it.
type Watching store.Tx

func (t Watching) db() *gorm.DB { return store.Tx(t).DB() }

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
func (t Watching) Waiting(now when.Instant) (w Waiting, err error) {
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
		if err := t.db().Raw(q.text, q.args...).Row().Scan(q.into...); err != nil {
			return w, err
		}
	}
	if w.Due > 0 {
		w.Late = now.Time().Sub(first.Time())
	}
	return w, nil
}

// Schema is the newest version of the schema that the database has.
func (t Watching) Schema() (version string, err error) {
	err = t.db().Raw("SELECT MAX(id) FROM migrations").Scan(&version).Error
	return version, err
}

// LastEntry is when the newest line of any journal was written; 0: there is none.
func (t Watching) LastEntry() (at when.Instant, err error) {
	err = t.db().Raw("SELECT COALESCE(MAX(at), 0) FROM entries WHERE id = (SELECT MAX(id) FROM entries)").Scan(&at).Error
	return at, err
}
