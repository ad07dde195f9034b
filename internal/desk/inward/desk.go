// Package inward takes what is sent to the addresses into Ebbe: follow-ups, and
// notes that come back.
package inward

import (
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where mail to addresses into Ebbe arrives.
type Desk struct {
	Journal *journal.Journal
	Intake  *intake.Intake

	store *store.Store
	host  string // at which addresses into Ebbe are; empty: they take nothing
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, in *intake.Intake) *Desk {
	return &Desk{Journal: j, Intake: in, store: s}
}
