package outbox

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
)

// aheadFor is how long mail that comes in waits at most for what it answers.
const aheadFor = 10 * time.Second

// Ahead sees to it that what was sent from a box stands in its conversation
// before mail comes in that answers it or reports on it, as a server in the same
// house does within milliseconds. messageIDs are those of the mail, and of what
// it refers to. A message among them that is being handed over is waited for;
// one of which nobody knew whether it has gone, has.
func (b *Outbox) Ahead(ctx context.Context, box int64, messageIDs []string) error {
	ctx, cancel := context.WithTimeout(ctx, aheadFor)
	defer cancel()
	for {
		b.mu.Lock()
		over := b.tries
		b.mu.Unlock()
		var rows []sending.Outgoing
		if err := b.store.Read(ctx, func(t store.Tx) (err error) { rows, err = sending.Outbox(t).Unsettled(box); return err }); err != nil {
			return err
		}
		var sent []int64
		going := false
		for _, o := range rows {
			if id, ok := strings.CutPrefix(o.Once, "message/"); !ok || !slices.Contains(messageIDs, id) {
				continue
			}
			switch sent = append(sent, o.ID); o.State {
			case writing.Sending:
				going = true
			case writing.Hanging:
				if err := b.Settle(ctx, identity.Who{Box: box}, o.ID, false); err != nil {
					return err
				}
			}
		}
		if len(sent) == 0 {
			return nil
		}
		if err := b.fileAll(ctx, sent); err != nil || !going {
			return err
		}
		select {
		case <-over:
		case <-ctx.Done():
			return errors.New("what it answers is still being handed over")
		}
	}
}

// over says that the try to hand over a message is over.
func (b *Outbox) over() {
	b.mu.Lock()
	defer b.mu.Unlock()
	close(b.tries)
	b.tries = make(chan struct{})
}
