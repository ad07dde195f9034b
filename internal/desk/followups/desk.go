// Package followups is about follow-ups: writing them down, taking steps with
// them, the lists they stand in, their cards, what waits for somebody, and closing
// the day.
package followups

import (
	"sync"

	"ebbe/internal/core/followup"
	"ebbe/internal/desk/learned"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where follow-ups are worked on.
type Desk struct {
	Journal *journal.Journal

	store   *store.Store
	paces   learned.Daily[followup.Pace]
	shelves struct {
		sync.Mutex
		by map[int64]*shelf // by box
	}
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{Journal: j, store: s} }

// Forget lets what was learned of the past be learned anew.
func (d *Desk) Forget() { d.paces.Forget() }
