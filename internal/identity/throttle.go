package identity

import (
	"sync"
	"time"
)

// throttle slows down guessing: after some free tries each wrong password doubles
// the wait. A try counts as wrong from when it begins until it has turned out to
// be right, so that guesses side by side are held like those one after the other.
type throttle struct {
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
func (g *throttle) begin(key string, now time.Time) time.Duration {
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
func (g *throttle) forget() {
	oldest := ""
	for key, t := range g.tries {
		if oldest == "" || t.seen.Before(g.tries[oldest].seen) {
			oldest = key
		}
	}
	delete(g.tries, oldest)
}

// undo forgets a try that was not made after all.
func (g *throttle) undo(key string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if t := g.tries[key]; t != nil && t.wrong > 0 {
		t.wrong--
		t.until = time.Time{}
	}
}

// succeeded forgets the tries that led to the right password.
func (g *throttle) succeeded(key string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.tries, key)
}
