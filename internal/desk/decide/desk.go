// Package decide is where the user decides about conversations. What Ebbe has to
// know of a kind of decision stands in one place, in a file named after what it
// does; the mechanism around them (decide.go) knows no kinds.
package decide

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/importance"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where decisions are taken.
type Desk struct {
	Journal *journal.Journal
	Writing *composing.Desk
	// Holding are those of some conversations whose newest message of somebody else is
	// what the words of a rule say. What cannot be read is a *problem.Error.
	Holding func(t store.Tx, who identity.Who, words string, conversations []int64) ([]int64, error)

	store      *store.Store
	importance *importance.Desk
}

// New makes a desk over a store, and tells the journal of the kinds of decisions.
func New(s *store.Store, j *journal.Journal, w *composing.Desk, i *importance.Desk) *Desk {
	kinds := map[inbox.Kind]journal.Kind{}
	for kind, is := range decisions {
		kinds[kind] = journal.Kind{Verb: is.verb, Named: is.named, Step: is.step}
	}
	for _, kind := range []inbox.Kind{inbox.Important, inbox.Unimportant} {
		k := kinds[kind]
		k.After = i.TakenBack
		kinds[kind] = k
	}
	j.Register(kinds)
	j.Register(map[inbox.Kind]journal.Kind{
		inbox.Join: {Verb: "joined", Step: true},
		inbox.Part: {Verb: "parted", Step: true},
	})
	return &Desk{Journal: j, Writing: w, store: s, importance: i}
}
