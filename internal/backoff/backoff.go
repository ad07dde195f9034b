// Package backoff says when something that has failed is tried again: the waits
// grow, are spread by chance so that what failed together is not tried together,
// and have a bound. It is kept in memory: after a start everything is tried at
// once.
package backoff

import (
	"math/rand/v2"
	"sync"
	"time"
)

// Waits are the waits of things that fail by themselves, known by a key each.
// The zero value is not usable: First and Last are needed. Safe for concurrent
// use.
type Waits[K comparable] struct {
	First time.Duration // the wait after the first failure, give or take a fifth
	Last  time.Duration // the longest

	mu sync.Mutex
	of map[K]state
}

type state struct {
	wait time.Duration
	next time.Time
}

// Failed notes that k has failed at now, and says when it is tried again and
// whether that was the first time in a row.
func (w *Waits[K]) Failed(k K, now time.Time) (next time.Time, first bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.of == nil {
		w.of = map[K]state{}
	}
	s, again := w.of[k]
	if s.wait = min(max(2*s.wait, w.First), w.Last); !again {
		s.wait = w.First
	}
	s.next = now.Add(spread(s.wait))
	w.of[k] = s
	return s.next, !again
}

// spread is a wait give or take a fifth.
func spread(d time.Duration) time.Duration {
	return d - d/5 + rand.N(2*d/5+1)
}

// Worked forgets that k had failed, and says whether it had.
func (w *Waits[K]) Worked(k K) (had bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	_, had = w.of[k]
	delete(w.of, k)
	return had
}

// Ready says that k need not wait any longer at now.
func (w *Waits[K]) Ready(k K, now time.Time) bool {
	w.mu.Lock()
	defer w.mu.Unlock()
	s, ok := w.of[k]
	return !ok || !now.Before(s.next)
}

// Next is when, after now, the first of those that wait is tried again; zero if
// none waits. What was not tried again long after its time is no more, and is
// forgotten.
func (w *Waits[K]) Next(now time.Time) (next time.Time) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for k, s := range w.of {
		switch {
		case s.next.Before(now.Add(-w.Last)):
			delete(w.of, k)
		case s.next.After(now) && (next.IsZero() || s.next.Before(next)):
			next = s.next
		}
	}
	return next
}

// Len is how many have failed and not worked since.
func (w *Waits[K]) Len() int {
	w.mu.Lock()
	defer w.mu.Unlock()
	return len(w.of)
}
