package queue

import (
	"slices"
	"sync"

	"ebbe/internal/core/inbox"
	"ebbe/internal/store"
)

// alike are the orders of teams' inboxes as all of their members see them: of many screens that ask for
// one after a change the first has it read, and the others get the same.
type alike struct {
	mu  sync.Mutex
	all map[asks]*same
}

// asks is what they ask for.
type asks struct {
	box   int64
	order inbox.Order
}

// same is what they get.
type same struct {
	mu      sync.Mutex
	read    bool
	written int64 // the store as it was read, or later
	groups  []store.Group
}

// mostAlike are so many orders.
const mostAlike = 100

// get gives what was read of the store once that much had been written, or has it read.
func (a *alike) get(of asks, written int64, read func() ([]store.Group, error)) ([]store.Group, error) {
	a.mu.Lock()
	if a.all == nil || len(a.all) > mostAlike {
		a.all = map[asks]*same{}
	}
	is := a.all[of]
	if is == nil {
		is = &same{}
		a.all[of] = is
	}
	a.mu.Unlock()
	is.mu.Lock()
	defer is.mu.Unlock()
	if !is.read || is.written < written {
		groups, err := read()
		if err != nil {
			return nil, err
		}
		is.read, is.written, is.groups = true, written, groups
	}
	return slices.Clone(is.groups), nil
}

// forget has all be read anew: another program has written.
func (a *alike) forget() {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.all = nil
}
