// Package dayline is about the day: its course and forecast, what falls on the
// coming days, and what a phrase for a time means.
package dayline

import (
	"ebbe/internal/core/numbers"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/learned"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where the day is looked at.
type Desk struct {
	Journal  *journal.Journal
	Delivery *deliveries.Desk

	store  *store.Store
	habits learned.Daily[numbers.Habit]
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, d *deliveries.Desk) *Desk {
	return &Desk{Journal: j, Delivery: d, store: s}
}

// Forget lets what was learned of the past be learned anew.
func (d *Desk) Forget() { d.habits.Forget() }
