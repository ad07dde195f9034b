// Package accounts is about the accounts of a user: their servers and secrets,
// trying them, what they wait for after a restore, and what of a message still
// lies on one. It is the one room that knows the secrets, so lines to servers are
// opened here.
package accounts

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/mailsync"
	"ebbe/internal/outbox"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// Desk is where accounts are looked after. Mail, Sending and Agenda are set before
// it is used.
type Desk struct {
	Journal *journal.Journal
	Intake  *intake.Intake
	Mail    *mailsync.Sync
	Sending *outbox.Outbox
	Agenda  *runner.Runner

	store *store.Store
	links *Links // nil: no network
	rest  rest
}

// New makes a desk over a store. Until Connect, no account can be used.
func New(s *store.Store, j *journal.Journal, in *intake.Intake) *Desk {
	j.Register(map[inbox.Kind]journal.Kind{inbox.DropRestored: {Verb: "discarded after restoring", Named: true, Step: true, Before: RestOn, After: RestAgain}})
	return &Desk{Journal: j, Intake: in, store: s}
}
