// Package composing is about what the user writes: drafts and what is sent of
// them, templates, short answers, receipts, and leaving lists.
package composing

import (
	"context"

	"ebbe/internal/core/inbox"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where messages are written.
type Desk struct {
	Journal *journal.Journal
	Intake  *intake.Intake
	LeaveAt func(ctx context.Context, url string) error // makes the request that leaves a list; nil: no network

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, in *intake.Intake) *Desk {
	j.Register(map[inbox.Kind]journal.Kind{inbox.SendMail: {Step: true}, inbox.HandDraft: {Verb: "gave a draft"}})
	return &Desk{Journal: j, Intake: in, store: s}
}
