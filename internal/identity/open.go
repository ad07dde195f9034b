package identity

import "sync"

// open is what goes on in sessions for as long as they last, by the hash of their tokens.
type open struct {
	mu      sync.Mutex
	waiting map[string]map[chan struct{}]bool
}

func (o *open) until(hash string) (ended <-chan struct{}, left func()) {
	o.mu.Lock()
	defer o.mu.Unlock()
	c := make(chan struct{})
	if o.waiting == nil {
		o.waiting = map[string]map[chan struct{}]bool{}
	}
	if o.waiting[hash] == nil {
		o.waiting[hash] = map[chan struct{}]bool{}
	}
	o.waiting[hash][c] = true
	return c, func() {
		o.mu.Lock()
		defer o.mu.Unlock()
		if delete(o.waiting[hash], c); len(o.waiting[hash]) == 0 {
			delete(o.waiting, hash)
		}
	}
}

func (o *open) end(hashes []string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	for _, h := range hashes {
		for c := range o.waiting[h] {
			close(c)
		}
		delete(o.waiting, h)
	}
}
