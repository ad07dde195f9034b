// Package labelling is about the labels of a box and the places of a person.
package labelling

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where labels and places are made and changed.
type Desk struct {
	Journal *journal.Journal

	store *store.Store
}

// kinds of entries of the journal about labels and places.
var kinds = map[inbox.Kind]journal.Kind{
	inbox.DropLabel:   {Verb: "label deleted", Step: true, Before: belowAgain},
	inbox.Here:        {Verb: "you were there", Step: true},
	inbox.DropSite:    {Verb: "place deleted", Step: true},
	inbox.ChangeLabel: {Verb: "label changed", Step: true, Named: true, Before: labelBack},
	inbox.MakeSite:    {Verb: "place made", Step: true, Named: true, Before: unmakeSite},
	inbox.RenameSite:  {Verb: "place renamed", Step: true, Named: true, Before: siteBack},
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk {
	j.Register(kinds)
	j.Always(Revive)
	return &Desk{Journal: j, store: s}
}
