package desk

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// Run does, until the context ends, what happens by itself: what is on the agenda
// comes at its time, accounts are kept in step, and what is to go out goes. What
// came due while the program was off happens first, in order.
func (d *Desk) Run(ctx context.Context) {
	var lines sync.WaitGroup
	defer lines.Wait()
	lines.Go(func() { d.Agenda.Run(ctx) })
	if d.Accounts.Linked() {
		lines.Go(func() { d.Mail.Run(ctx) })
		lines.Go(func() { d.Sending.Run(ctx) })
		lines.Go(func() { d.keepWorld(ctx) })
	}
	lines.Go(func() { d.Importance.Run(ctx) })
	lines.Go(func() { d.Finding.Run(ctx) })
	lines.Go(func() { d.Leaving.Run(ctx) })
	lines.Go(func() { d.Letters.Run(ctx) })
	lines.Go(func() { d.Figures.Run(ctx) })
	lines.Go(func() { d.Sharing.Carry(ctx) }) // what an earlier program could not
	var reading sync.WaitGroup
	defer reading.Wait()
	reading.Go(func() {
		if err := d.Reread(ctx); err != nil && ctx.Err() == nil {
			slog.Error("what was kept raw could not be read again", "error", err)
		}
		if err := d.Begin(ctx); err != nil && ctx.Err() == nil {
			slog.Error("the beginnings of older conversations could not be read", "error", err)
		}
	})
	version, _ := d.store.Version()
	swept := time.Now()
	watch := time.NewTicker(time.Second)
	defer watch.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-watch.C:
		}
		if time.Since(swept) > sweepEvery {
			swept = time.Now()
			if err := d.store.Write(ctx, wipe); err != nil && ctx.Err() == nil {
				slog.Error("what is no longer needed could not be removed", "error", err)
			}
		}
		if v, err := d.store.Version(); err == nil && v != version {
			version = v // another program, such as an import, has written
			d.forget()
			d.Agenda.Stir()
			d.Journal.AnnounceAll(journal.TopicMail, journal.TopicFollowUps, journal.TopicCards, journal.TopicPerson)
		}
	}
}

// repeatable is for how long a request can be repeated and gets the same answer: a
// browser that was away sends again what it has kept.
const repeatable = 31 * 24 * time.Hour

// sweepEvery is how often what is no longer needed is removed.
const sweepEvery = 24 * time.Hour

func wipe(t store.Tx) error {
	now := time.Now()
	if err := admission.Admission(t).Wipe(when.Of(now)); err != nil {
		return err
	}
	return store.Journal(t).Wipe(when.Of(now.Add(-repeatable)))
}
