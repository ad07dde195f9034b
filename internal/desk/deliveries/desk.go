// Package deliveries is about when mail comes in: plans, holding by hand, what is
// let through, and looking early.
package deliveries

import (
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/learned"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where is settled when mail comes in.
type Desk struct {
	Journal *journal.Journal
	Sort    intake.Sort // what rules do with what is let in

	store    *store.Store
	arrivals learned.Daily[delivery.Arrived]
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk {
	d := &Desk{Journal: j, store: s}
	j.Register(map[inbox.Kind]journal.Kind{
		inbox.LetOneIn: {Verb: "let in", Step: true, Before: d.LetBack},
		inbox.LetAllIn: {Verb: "let in", Step: true, Before: d.LetBack},

		inbox.ChangePlan: {Verb: "settled", Step: true, Named: true, Before: d.back},
	})
	return d
}

// Forget lets what was learned of the past be learned anew.
func (d *Desk) Forget() { d.arrivals.Forget() }
