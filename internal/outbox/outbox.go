// Package outbox is what goes out: messages wait in it for their time, are handed
// over once to the server that sends for their account (RFC 6409), and what
// became of each recipient is kept.
//
// Each account is worked off by itself, in the order of its messages: a server
// that is silent holds up nobody else's mail. What cannot be stored or filed is
// logged, told to its user, and tried again with growing waits; the others go on.
package outbox

import (
	"context"
	"errors"
	"log/slog"
	"slices"
	"sync"
	"time"

	"ebbe/internal/backoff"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/post/smtp"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// Submitter reaches the servers that send.
type Submitter interface {
	// Submit opens a line to the server that sends for an account. What an error
	// says is a sentence for the user.
	Submit(ctx context.Context, a mailboxes.Account) (Line, error)
	// HasSent says that the server of an account has put the message with that
	// Message-ID into its folder of sent mail by itself.
	HasSent(ctx context.Context, a mailboxes.Account, messageID string) bool
}

// Line is a line to a server that sends.
type Line interface {
	// Hand hands a message over for some recipients. Just before the server is
	// told that it is whole, final is called; if that fails nothing has gone.
	// After it an error that is post.ErrUncertain means that nobody knows.
	Hand(from string, to []string, raw []byte, final func(taken []string) error) (smtp.Handed, error)
	Close()
}

// Outbox is the outbox of all boxes.
type Outbox struct {
	store   *store.Store
	journal *journal.Journal
	submit  Submitter
	file    func(ctx context.Context, o sending.Outgoing) error // puts a sent message into its conversation
	resting func() bool                                         // nothing goes out yet

	wake  chan struct{}
	mu    sync.Mutex
	busy  map[int64]*sync.Mutex // by account: it is being worked off
	files sync.Mutex            // what was sent is being filed
	tries chan struct{}         // closed when the try to hand over a message is over, and made anew
	hands backoff.Waits[int64]  // messages that could not be handed over as they cannot be stored, by ID
	filed backoff.Waits[int64]  // messages that could not be filed, by ID
}

// New is the outbox of a store. file puts a message that was sent into its
// conversation, and resting says that nothing is to go out yet.
func New(s *store.Store, j *journal.Journal, submit Submitter, file func(context.Context, sending.Outgoing) error, resting func() bool) *Outbox {
	const first, last = 2 * time.Second, 10 * time.Minute
	return &Outbox{store: s, journal: j, submit: submit, file: file, resting: resting, wake: make(chan struct{}, 1), busy: map[int64]*sync.Mutex{}, tries: make(chan struct{}),
		hands: backoff.Waits[int64]{First: first, Last: last}, filed: backoff.Waits[int64]{First: first, Last: last}}
}

// Stir has the outbox looked through: something has been put into it.
func (b *Outbox) Stir() {
	select {
	case b.wake <- struct{}{}:
	default:
	}
}

// longestSleep is how long the outbox sleeps at most, so that a machine that
// slept is noticed.
const longestSleep = 30 * time.Second

// Run hands messages over when their time comes, until the context ends; what is
// going then has a moment to be brought to its end.
func (b *Outbox) Run(ctx context.Context) {
	var accounts sync.WaitGroup
	defer accounts.Wait()
	for ctx.Err() == nil {
		b.begin(ctx, &accounts)
		timer := time.NewTimer(b.sleep(ctx))
		select {
		case <-ctx.Done():
		case <-timer.C:
		case <-b.wake:
		}
		timer.Stop()
	}
}

// sleep is for how long there is nothing to do.
func (b *Outbox) sleep(ctx context.Context) time.Duration {
	wait, now := longestSleep, b.journal.Time()
	_ = b.store.Read(ctx, func(t store.Tx) error { // if it fails, the next round tells
		at, err := sending.Outbox(t).NextToSend(when.Of(now))
		if at != 0 {
			wait = min(wait, at.Time().Sub(now))
		}
		return err
	})
	for _, next := range []time.Time{b.hands.Next(time.Now()), b.filed.Next(time.Now())} {
		if !next.IsZero() {
			wait = min(wait, time.Until(next))
		}
	}
	return max(wait, 10*time.Millisecond)
}

// Dispatch hands over every message whose time has come, and waits for it.
func (b *Outbox) Dispatch(ctx context.Context) error {
	var accounts sync.WaitGroup
	err := b.begin(ctx, &accounts)
	accounts.Wait()
	if ctx.Err() != nil {
		return err
	}
	return errors.Join(err, b.fileAll(ctx, nil))
}

// begin begins to work off each account that has something due and is not being
// worked off.
func (b *Outbox) begin(ctx context.Context, working *sync.WaitGroup) error {
	if b.resting() {
		return nil
	}
	var due []int64
	err := b.store.Read(ctx, func(t store.Tx) (err error) { due, err = sending.Outbox(t).AccountsToSend(b.journal.Now()); return err })
	if err != nil {
		if ctx.Err() == nil {
			slog.Error("the outbox could not be read, trying again", "error", err)
		}
		return err
	}
	if len(due) == 0 { // something may be left to be filed
		working.Go(func() { _ = b.fileAll(ctx, nil) })
	}
	for _, account := range due {
		m := b.line(account)
		if !m.TryLock() {
			continue
		}
		working.Go(func() {
			went := b.work(ctx, account)
			m.Unlock()
			if went { // more may have come due meanwhile
				b.Stir()
			}
		})
	}
	return nil
}

func (b *Outbox) line(account int64) *sync.Mutex {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.busy[account] == nil {
		b.busy[account] = &sync.Mutex{}
	}
	return b.busy[account]
}

// work works off what is due of an account, and says whether anything was.
func (b *Outbox) work(ctx context.Context, account int64) (went bool) {
	for now := b.journal.Now(); ctx.Err() == nil; {
		var rows []sending.Outgoing
		err := b.store.Read(ctx, func(t store.Tx) (err error) {
			rows, err = sending.Outbox(t).ToSend(account, now, 20+b.hands.Len())
			return err
		})
		if err != nil {
			if ctx.Err() == nil {
				slog.Error("the outbox of an account could not be read, trying again", "account", account, "error", err)
			}
			return went
		}
		again := false
		for _, o := range rows {
			if ctx.Err() != nil {
				return went
			}
			if !b.hands.Ready(o.ID, time.Now()) {
				continue
			}
			went, again = true, true
			if err := b.hand(ctx, o); err != nil && ctx.Err() == nil {
				b.failed(&b.hands, o, "could not be handed over", err)
			} else if err == nil {
				b.hands.Worked(o.ID)
			}
		}
		_ = b.fileAll(ctx, nil) // what could not be filed was told
		if !again {
			break
		}
	}
	return went
}

// failed notes that something about a message could not be done, and tells its
// user when that is new.
func (b *Outbox) failed(waits *backoff.Waits[int64], o sending.Outgoing, what string, err error) {
	next, first := waits.Failed(o.ID, time.Now())
	slog.Error("a message "+what+", trying again", "account", o.AccountID, "message", o.ID, "box", o.BoxID, "next", next, "error", err)
	if first {
		b.journal.Announce(o.BoxID, journal.Event{Topics: []string{journal.TopicOutbox}, Notice: journal.Notice{Text: titleOf(o) + " " + what + " for now: something is wrong inside Ebbe. It is kept, and tried again by itself.", Conversation: o.ConversationID}})
	}
}

// fileAll puts what was sent into its conversations. One that cannot be does not
// keep the others; it is tried again later, or now if it is among these.
func (b *Outbox) fileAll(ctx context.Context, now []int64) error {
	b.files.Lock()
	defer b.files.Unlock()
	var rows []sending.Outgoing
	err := b.store.Read(ctx, func(t store.Tx) (err error) { rows, err = sending.Outbox(t).Unfiled(50 + b.filed.Len()); return err })
	for _, o := range rows {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if !b.filed.Ready(o.ID, time.Now()) && !slices.Contains(now, o.ID) {
			continue
		}
		if ferr := b.file(ctx, o); ferr != nil {
			if ctx.Err() == nil {
				b.failed(&b.filed, o, "was sent and could not be put into its conversation", ferr)
			}
			err = errors.Join(err, ferr)
			continue
		}
		b.filed.Worked(o.ID)
	}
	return err
}
