package journal

import (
	"sync"
	"time"
)

// Clock tells the present.
type Clock interface{ Now() time.Time }

// SystemClock is the clock of the machine, moved forward by what the demo's
// dial has been turned.
type SystemClock struct {
	mu     sync.Mutex
	offset time.Duration
}

// Now is the present as the program takes it.
func (c *SystemClock) Now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	return time.Now().Add(c.offset)
}

// Set moves the clock so that it now shows t.
func (c *SystemClock) Set(t time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.offset = time.Until(t)
}

// Shift is by how much the clock is ahead of that of the machine.
func (c *SystemClock) Shift() time.Duration {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.offset
}
