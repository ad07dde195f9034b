// Package importance learns what matters to the person of a box from what they do,
// weighs what is undecided by it, and shows what has been learned.
package importance

import (
	"sync"

	"ebbe/internal/core/when"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where importance is learned.
type Desk struct {
	Journal *journal.Journal
	Also    []func(t store.Tx, box int64, conversations []int64) error // what else is learned of conversations

	store   *store.Store
	intake  *intake.Intake
	mu      sync.Mutex
	weighed map[int64]when.Instant // when what is undecided was weighed anew last, by box
	begun   when.Instant           // since when it runs, where all was weighed by then
	stirred chan struct{}
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, i *intake.Intake) *Desk {
	return &Desk{Journal: j, store: s, intake: i, weighed: map[int64]when.Instant{}, stirred: make(chan struct{}, 1)}
}

// Stir says that something may be learned.
func (d *Desk) Stir() {
	select {
	case d.stirred <- struct{}{}:
	default:
	}
}
