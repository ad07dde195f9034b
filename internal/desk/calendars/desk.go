// Package calendars is about the calendar of a box: its weeks, events and
// invitations (RFC 5546), and calendar files (RFC 5545) in and out.
package calendars

import (
	"ebbe/internal/desk/followups"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where events are put and invitations answered.
type Desk struct {
	Journal   *journal.Journal
	FollowUps *followups.Desk

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, f *followups.Desk) *Desk {
	return &Desk{Journal: j, FollowUps: f, store: s}
}
