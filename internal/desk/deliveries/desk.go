// Package deliveries is about when mail comes in: plans, holding by hand, what is
// let through, and looking early.
package deliveries

import (
	"ebbe/internal/core/delivery"
	"ebbe/internal/desk/learned"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where is settled when mail comes in.
type Desk struct {
	Journal *journal.Journal

	store    *store.Store
	arrivals learned.Daily[delivery.Arrived]
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{Journal: j, store: s} }

// Forget lets what was learned of the past be learned anew.
func (d *Desk) Forget() { d.arrivals.Forget() }
