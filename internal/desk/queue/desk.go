// Package queue is about what is in the inbox and other lists of conversations:
// in which order, by whom, with which slips, and the sitting in which it is gone
// through.
package queue

import (
	"hash/maphash"

	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where lists of conversations are looked at.
type Desk struct {
	Journal *journal.Journal

	store  *store.Store
	recent recent
	alike  alike
}

// Forget has what is kept of orders be read anew: another program has written.
func (d *Desk) Forget() { d.alike.forget() }

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk {
	return &Desk{Journal: j, store: s, recent: recent{seed: maphash.MakeSeed()}}
}
