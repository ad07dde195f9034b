// Package rules is where the user says what is to be done with messages that come in,
// sees before what a rule would have done, and after what it has.
package rules

import (
	"sync"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/decide"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// Desk is where rules are made and done.
type Desk struct {
	Journal   *journal.Journal
	Decisions *decide.Desk

	// Junk puts what is junk among messages where junk lies, and says which conversations
	// those were; no rule is asked of them.
	Junk func(t store.Tx, who identity.Who, p store.Person, messages []ruling.Message) ([]inbox.Change, map[int64]bool, error)

	store *store.Store
	mu    sync.Mutex
	rev   int64 // of which the rules below are
	known map[int64][]sorting.Rule
}

// New makes a desk over a store, and tells the journal of what it writes there.
func New(s *store.Store, j *journal.Journal, d *decide.Desk) *Desk {
	r := &Desk{Journal: j, Decisions: d, store: s, known: map[int64][]sorting.Rule{}}
	j.Register(map[inbox.Kind]journal.Kind{
		inbox.ByRule:     {Verb: "done by a rule", Step: true, Before: nothingLeft},
		inbox.ChangeRule: {Verb: "rule changed", Step: true, Before: back},
		inbox.Teach:      {Verb: "put into another stream", Step: true, Named: true, Before: back},
		inbox.NeverAgain: {Verb: "put away for good", Step: true, Named: true, Before: back},
	})
	d.Holding = r.holding
	return r
}

// nothingLeft says so where nothing of what a rule did is left to take back.
func nothingLeft(_ store.Tx, s *journal.Step) error {
	if len(s.Changes) == 0 {
		s.Nothing()
	}
	return nil
}
