// Package labelling is about the labels of a box and the places of a person.
package labelling

import (
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where labels and places are made and changed.
type Desk struct {
	Journal *journal.Journal

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{Journal: j, store: s} }
