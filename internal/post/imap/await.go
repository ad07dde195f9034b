package imap

import (
	"context"
	"io"
	"time"

	"github.com/emersion/go-imap/v2"
)

// alive is how long a line is let be before it is asked whether it is alive, so
// that one that is dead is noticed within a minute.
const alive = 45 * time.Second

// Await waits until something changes in the open folder, the time is over, or
// something comes through wake; news and woken say which.
// Without IDLE (RFC 2177) it waits out the time, at most a minute of it. The line
// is asked now and then whether it is alive.
func (m *Mailbox) Await(ctx context.Context, d time.Duration, wake <-chan struct{}) (news, woken bool, err error) {
	if !m.client.Caps().Has(imap.CapIdle) {
		t := time.NewTimer(min(d, time.Minute))
		defer t.Stop()
		select {
		case <-t.C:
		case <-wake:
			woken = true
		case <-ctx.Done():
			return false, false, ctx.Err()
		}
		defer m.op(maxReply, 0)(&err)
		err = m.client.Noop().Wait() // so that what has changed is told
		return m.told(), woken, err
	}
	for end := time.Now().Add(d); ; {
		news, woken, err := m.idle(ctx, min(time.Until(end), alive), wake)
		if err == nil {
			err = ctx.Err()
		}
		if err != nil || news || woken || !time.Now().Before(end) {
			return news, woken, err
		}
	}
}

// told says, once, that the server has told of a change in the open folder.
func (m *Mailbox) told() bool {
	select {
	case <-m.news:
		return true
	default:
		return false
	}
}

// idle waits once.
func (m *Mailbox) idle(ctx context.Context, d time.Duration, wake <-chan struct{}) (news, woken bool, err error) {
	m.guard.begin(maxReply/4, 0, 0)
	idle, err := m.client.Idle()
	if err != nil {
		return false, false, err
	}
	over := make(chan error, 1)
	go func() { over <- idle.Wait() }()
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case err := <-over:
		if wrong := m.guard.wrong(); wrong != nil {
			return false, false, wrong
		}
		if err == nil {
			err = io.ErrUnexpectedEOF
		}
		return false, false, err
	case <-m.news:
		news = true
	case <-t.C:
	case <-wake:
		woken = true
	case <-ctx.Done():
	}
	defer m.line.Watch(m.wait)()
	if err := idle.Close(); err != nil {
		return news, woken, err
	}
	return news, woken, <-over
}
