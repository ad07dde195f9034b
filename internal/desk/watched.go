package desk

import (
	"context"

	"ebbe/internal/store"
	"ebbe/internal/store/watching"
)

// Length is how much of something waits, or how many there are.
type Length struct {
	Name  string // in small letters with lines below, as whoever watches names it
	Means string
	Value float64
}

// Lengths says how much waits in this Ebbe, of all its boxes together and of nobody by name.
func (d *Desk) Lengths(ctx context.Context) (out []Length, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		w, err := watching.Watching(t).Waiting(d.Now())
		if err != nil {
			return err
		}
		out = []Length{
			{"agenda_due", "Things of the agenda whose time has come.", float64(w.Due)},
			{"agenda_late_seconds", "For how long the first of them has been due.", w.Late.Seconds()},
			{"outbox_waiting", "Messages that wait to be handed over.", float64(w.Out)},
			{"outbox_retried", "Those of them that were tried in vain.", float64(w.OutRetried)},
			{"errands_waiting", "Conversations whose place a server has still to hear of.", float64(w.Errands)},
			{"errands_retried", "Those of them that were tried in vain.", float64(w.ErrandsRetried)},
			{"files_unread", "Messages whose files have still to be read for searches.", float64(w.Files)},
			{"accounts", "Accounts.", float64(w.Accounts)},
			{"accounts_in_trouble", "Those of them that are not in step.", float64(w.Trouble)},
			{"people", "People.", float64(w.People)},
		}
		return nil
	})
	return out, err
}
