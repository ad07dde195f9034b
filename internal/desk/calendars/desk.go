// Package calendars is about the calendar of a box: its weeks, events and
// invitations (RFC 5546), and calendar files (RFC 5545) in and out.
package calendars

import (
	"ebbe/internal/core/inbox"
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

// kinds of entries of the journal about events.
var kinds = map[inbox.Kind]journal.Kind{
	inbox.MakeEvent:   {Verb: "put into the calendar", Step: true},
	inbox.ChangeEvent: {Verb: "event changed", Step: true},
	inbox.DropEvent:   {Verb: "event deleted", Step: true},
	inbox.AnswerGuest: {Verb: "invitation answered", Step: true},
	inbox.TakeIn:      {Verb: "calendar file read", Step: true},
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, f *followups.Desk) *Desk {
	j.Register(kinds)
	return &Desk{Journal: j, FollowUps: f, store: s}
}
