// Package reading is about reading: conversations and their messages, and the
// history of what was done.
package reading

import (
	"ebbe/internal/desk/calendars"
	"ebbe/internal/store"
)

// Desk is where conversations are read.
type Desk struct {
	Calendar *calendars.Desk

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, c *calendars.Desk) *Desk { return &Desk{Calendar: c, store: s} }
