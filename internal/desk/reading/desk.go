// Package reading is about reading: conversations and their messages, and the
// history of what was done.
package reading

import (
	"ebbe/internal/core/when"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/store"
)

// Desk is where conversations are read.
type Desk struct {
	Calendar *calendars.Desk

	store *store.Store
	now   func() when.Instant
}

// New makes a desk over a store.
func New(s *store.Store, now func() when.Instant, c *calendars.Desk) *Desk {
	return &Desk{Calendar: c, store: s, now: now}
}
