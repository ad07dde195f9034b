package post

import (
	"net"
	"sync"
	"time"
)

// Watched is a line that is cut when nothing has gone over it for a while,
// however long what goes over it takes.
type Watched struct {
	net.Conn
	mu    sync.Mutex
	timer *time.Timer // nil: nobody waits
	most  time.Duration
}

// Watch begins to cut the line after so long a silence, until stop is called.
func (w *Watched) Watch(most time.Duration) (stop func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.most, w.timer = most, time.AfterFunc(most, func() { _ = w.Conn.Close() })
	return func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		if w.timer != nil {
			w.timer.Stop()
			w.timer = nil
		}
	}
}

func (w *Watched) heard(n int) {
	if n == 0 {
		return
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.timer != nil {
		w.timer.Reset(w.most)
	}
}

func (w *Watched) Read(b []byte) (int, error) {
	n, err := w.Conn.Read(b)
	w.heard(n)
	return n, err
}

func (w *Watched) Write(b []byte) (int, error) {
	n, err := w.Conn.Write(b)
	w.heard(n)
	return n, err
}
