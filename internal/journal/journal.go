// Package journal is the one way in which anything changes: a decision is stored
// together with its line, which holds what it was about before and after, in one
// transaction; a request that is repeated is answered as it was the first time;
// what was done is announced; and taking back replays the line.
//
// It knows no kind of decision: what a kind is called, and what hangs on taking
// one back besides its changes, is registered by the room that knows it.
package journal

import (
	"maps"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Journal is the journal of all boxes of a store.
type Journal struct {
	store     *store.Store
	clock     Clock
	bus       bus
	kinds     map[inbox.Kind]Kind
	always    []Hook
	listeners []func(box int64, e Event)
}

// New is the journal of a store, which goes by that clock.
func New(s *store.Store, c Clock) *Journal {
	return &Journal{store: s, clock: c, kinds: map[inbox.Kind]Kind{}}
}

// Now is the present by the journal's clock.
func (j *Journal) Now() when.Instant { return when.Of(j.clock.Now()) }

// Time is the same as a time.Time.
func (j *Journal) Time() time.Time { return j.clock.Now() }

// Kind is what the journal has to know of a kind of entry.
type Kind struct {
	Verb   string // says in a sentence what an entry did: "binned"
	Step   bool   // an entry is a step that its person takes back
	Named  bool   // an entry about several things is spoken of by its text, not as so many conversations
	Before Hook   // what else is done when an entry is taken back or done again; may be nil
	After  Hook   // what is left to do once the changes are stored, and the entry is noted as taken back or not; may be nil
}

// Hook does what hangs on taking an entry back, or on doing it again, in the
// transaction in which that happens.
type Hook func(store.Tx, *Step) error

// Step is the taking back of an entry, or doing it again.
type Step struct {
	Who     identity.Who
	Done    store.Entry    // what is taken back: an entry, or the taking back of one
	Root    store.Entry    // the entry that it is all about
	Back    bool           // it is taken back; else done again
	Changes []inbox.Change // that are stored with it
	Entry   store.Entry    // the line that is written; a hook adds to Delta and Touched
	Topics  []string       // that are announced besides those of the changes; a hook adds to them
}

// Nothing says that nothing is left to take back or do again of what is set up: it
// has changed since.
func (s *Step) Nothing() { s.Changes, s.Entry.Chosen, s.Entry.Ref = nil, nil, 0 }

// Register tells the journal of kinds of entries.
func (j *Journal) Register(kinds map[inbox.Kind]Kind) { maps.Copy(j.kinds, kinds) }

// Always has a hook called whatever is taken back or done again.
func (j *Journal) Always(h Hook) { j.always = append(j.always, h) }
