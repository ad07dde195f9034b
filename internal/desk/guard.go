package desk

import (
	"context"
	"sync"
	"time"
)

// guard slows down guessing: after some free tries each wrong password doubles
// the wait. A try counts as wrong from when it begins until it has turned out to
// be right, so that guesses side by side are held like those one after the other.
type guard struct {
	mu    sync.Mutex
	tries map[string]*try
}

type try struct {
	wrong int
	until time.Time
	seen  time.Time
}

const (
	freeTries = 4
	mostKeys  = 10_000 // names and places remembered; the longest ago are forgotten first
)

// begin begins a try, or says how long to wait before the next.
func (g *guard) begin(key string, now time.Time) time.Duration {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.tries == nil {
		g.tries = map[string]*try{}
	}
	t := g.tries[key]
	if t == nil {
		if len(g.tries) >= mostKeys {
			g.forget()
		}
		t = &try{}
		g.tries[key] = t
	}
	t.seen = now
	if wait := t.until.Sub(now); wait > 0 {
		return wait
	}
	if t.wrong++; t.wrong > freeTries {
		t.until = now.Add(time.Second << min(t.wrong-freeTries, 9))
	}
	return 0
}

// forget makes room by what was tried longest ago.
func (g *guard) forget() {
	oldest := ""
	for key, t := range g.tries {
		if oldest == "" || t.seen.Before(g.tries[oldest].seen) {
			oldest = key
		}
	}
	delete(g.tries, oldest)
}

// undo forgets a try that was not made after all.
func (g *guard) undo(key string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if t := g.tries[key]; t != nil && t.wrong > 0 {
		t.wrong--
		t.until = time.Time{}
	}
}

// passed forgets the tries that led to the right password.
func (g *guard) passed(key string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.tries, key)
}

// How many passwords are checked at a time, as each takes 64 MB and a core, and
// how many more may wait for that.
const (
	checkedAtOnce = 2
	checksWaiting = 8
)

// hashing lets few passwords be checked at a time.
type hashing struct {
	busy  chan struct{}
	queue chan struct{}
	match func(stored, password string) bool
}

func newHashing() hashing {
	return hashing{busy: make(chan struct{}, checkedAtOnce), queue: make(chan struct{}, checkedAtOnce+checksWaiting), match: checkPassword}
}

// check compares a password with the stored form of the right one. With too many
// that wait the error says to try again.
func (h hashing) check(ctx context.Context, stored, password string) (bool, error) {
	select {
	case h.queue <- struct{}{}:
		defer func() { <-h.queue }()
	default:
		return false, &UserError{Type: "slow-down", Text: "Very many are signing in at this moment. Wait some seconds and try again."}
	}
	select {
	case h.busy <- struct{}{}:
		defer func() { <-h.busy }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	return h.match(stored, password), nil
}
