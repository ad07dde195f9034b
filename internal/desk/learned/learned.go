// Package learned keeps what Ebbe has learned of a box from its past: it is
// learned once a day, and anew where mail of before has come in.
package learned

import (
	"sync"

	"ebbe/internal/core/when"
)

// Daily keeps one thing for each box. Learning about one box holds up no other.
type Daily[T any] struct {
	mu sync.Mutex
	of map[int64]*known[T]
}

type known[T any] struct {
	sync.Mutex
	day when.Instant // 0: nothing yet
	is  T
}

// Of gives what is known of a box on the day that began at today, and learns it
// if that is the first time it is asked for.
func (d *Daily[T]) Of(box int64, today when.Instant, learn func() (T, error)) (T, error) {
	d.mu.Lock()
	if d.of == nil {
		d.of = map[int64]*known[T]{}
	}
	k := d.of[box]
	if k == nil {
		k = &known[T]{}
		d.of[box] = k
	}
	d.mu.Unlock()
	k.Lock()
	defer k.Unlock()
	if k.day == today && today != 0 {
		return k.is, nil
	}
	is, err := learn()
	if err == nil {
		k.day, k.is = today, is
	}
	return is, err
}

// Forget lets everything be learned anew.
func (d *Daily[T]) Forget() {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.of = nil
}
