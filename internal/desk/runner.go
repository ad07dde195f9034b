package desk

import (
	"context"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Run does, until the context ends, what happens by itself: what is on the agenda
// comes at its time, accounts are kept in step, and what is to go out goes. What
// came due while the program was off happens first, in order.
func (d *Desk) Run(ctx context.Context) {
	var lines sync.WaitGroup
	defer lines.Wait()
	lines.Go(func() { d.Agenda.Run(ctx) })
	if d.links != nil {
		lines.Go(func() { d.Mail.Run(ctx) })
		lines.Go(func() { d.Sending.Run(ctx) })
		lines.Go(func() { d.keepWorld(ctx) })
	}
	var reading sync.WaitGroup
	defer reading.Wait()
	reading.Go(func() {
		if err := d.Reread(ctx); err != nil && ctx.Err() == nil {
			slog.Error("what was kept raw could not be read again", "error", err)
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

// repeatable is for how long a request can be repeated and gets the same answer.
const repeatable = 48 * time.Hour

// sweepEvery is how often what is no longer needed is removed.
const sweepEvery = 24 * time.Hour

func wipe(t store.Tx) error {
	now := time.Now()
	return t.Wipe(when.Of(now.Add(-repeatable)), when.Of(now))
}

// keepWorld lets the world around the demo move on with its clock.
func (d *Desk) keepWorld(ctx context.Context) {
	if d.links.World == nil {
		return
	}
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for ctx.Err() == nil {
		d.links.World.Advance()
		select {
		case <-ctx.Done():
		case <-tick.C:
		}
	}
}

// nextOfAll is when anything happens next: on the agenda, in the outbox, or in
// the world around the demo; 0 if nothing will.
func (d *Desk) nextOfAll(ctx context.Context) (at when.Instant, err error) {
	at, err = d.Agenda.Next(ctx)
	if err != nil || d.links == nil {
		return at, err
	}
	earlier := func(x when.Instant) {
		if x != 0 && (at == 0 || x < at) {
			at = x
		}
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		x, err := t.NextToSend(d.now())
		earlier(x)
		return err
	})
	if w := d.links.World; w != nil {
		if next := w.Next(); !next.IsZero() {
			earlier(when.Of(next))
		}
	}
	return at, err
}

// allNow lets everything happen that is due by now, also outside.
func (d *Desk) allNow(ctx context.Context) error {
	if d.links != nil {
		if err := d.Sending.Dispatch(ctx); err != nil {
			return err
		}
		if w := d.links.World; w != nil && w.Advance() {
			if err := d.Mail.PassNow(ctx); err != nil {
				return err
			}
		}
	}
	return d.Agenda.CatchUp(ctx)
}

// Start brings the database in step with the program before it serves:
// wall-clock times are computed anew under the zone rules of this program, and
// the demo's clock is set to where its dial was left.
func (d *Desk) Start(ctx context.Context) error {
	err := d.start(ctx)
	if err == nil {
		err = d.lookedAt(ctx, 0) // with no account to look at, the rest after a restore is over at once
	}
	return err
}

func (d *Desk) start(ctx context.Context) error {
	return d.store.Write(ctx, func(t store.Tx) error {
		if c, ok := d.clock.(*journal.SystemClock); ok && d.demo {
			shift, err := t.Meta("clock")
			if err != nil {
				return err
			}
			if ms, err := strconv.ParseInt(shift, 10, 64); err == nil {
				c.Set(time.Now().Add(time.Duration(ms) * time.Millisecond))
			}
		}
		if err := wipe(t); err != nil {
			return err
		}
		if err := realign(t); err != nil {
			return err
		}
		if err := d.beginRest(t); err != nil {
			return err
		}
		if err := d.Sending.Resume(t); err != nil {
			return err
		}
		people, err := t.People()
		if err != nil {
			return err
		}
		for _, p := range people {
			box, err := t.BoxOf(p.ID)
			if err != nil {
				return err
			}
			at, err := t.TimeOf(box, inbox.CloseDay)
			if err != nil {
				return err
			}
			if at != 0 {
				continue
			}
			if err := callForClosing(t, box, p, d.now()); err != nil { // a database of before there was closing the day
				return err
			}
		}
		return nil
	})
}

// realign computes anew the instants of everything on the agenda that was
// meant as a wall-clock time.
func realign(t store.Tx) error {
	things, err := t.Things()
	if err != nil {
		return err
	}
	ids, uids := map[int64][]int64{}, map[int64][]string{}
	for _, th := range things {
		switch th.Kind {
		case inbox.Return:
			ids[th.BoxID] = append(ids[th.BoxID], th.ConversationID)
		case inbox.Remind, inbox.RemindEvent:
			uids[th.BoxID] = append(uids[th.BoxID], th.FollowUp)
		}
	}
	for box := range ids {
		state, err := t.State(box, 0, ids[box], nil)
		if err != nil {
			return err
		}
		for id, c := range state.Conversations {
			if m := c.Return.Realign(); m != c.Return {
				if err := t.MoveReturn(box, id, m); err != nil {
					return err
				}
			}
		}
	}
	for box := range uids {
		state, err := t.State(box, 0, nil, uids[box])
		if err != nil {
			return err
		}
		var moved []followup.FollowUp
		for _, f := range state.FollowUps {
			if m := f.Tidy(); !m.Equal(f) {
				moved = append(moved, m)
			}
		}
		if err := t.PutFollowUps(box, moved); err != nil {
			return err
		}
		for _, e := range state.Events {
			if m := e.Tidy(); !m.Equal(e) {
				if err := t.PutEvent(box, m); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// Turn moves the demo's clock forward; what is due by then happens.
func (d *Desk) Turn(ctx context.Context, who identity.Who, dial Dial) error {
	clock, ok := d.clock.(*journal.SystemClock)
	if !ok || !d.demo {
		return store.ErrNotFound
	}
	now := d.clock.Now()
	to := now.Add(time.Hour)
	switch dial {
	case DialHour:
	case DialMorning:
		r := who.Week.Read("tomorrow 8:00", when.Of(now))
		to = r.Moment.At.Time()
	case DialNext:
		at, err := d.nextOfAll(ctx)
		for err == nil && at != 0 && at.Time().Sub(now) < time.Minute { // what is just going out is nothing to stop at
			if err = d.SetClock(ctx, clock, at.Time()); err == nil {
				at, err = d.nextOfAll(ctx)
			}
		}
		if err != nil {
			return err
		}
		if at == 0 {
			return &problem.Error{Type: "nothing-ahead", Text: "Nothing is on the agenda. Snooze something first."}
		}
		to = at.Time()
	default:
		return problem.Invalid("to", "The dial knows the next thing, one hour, and tomorrow 8:00.")
	}
	if !to.After(now) {
		return nil
	}
	return d.SetClock(ctx, clock, to)
}

// SetClock moves the demo's clock forward and keeps it across a restart. What
// is due by then happens on the way, each thing at its own time.
func (d *Desk) SetClock(ctx context.Context, clock *journal.SystemClock, to time.Time) error {
	for {
		at, err := d.nextOfAll(ctx)
		if err != nil {
			return err
		}
		if at == 0 || at.Time().After(to) {
			break
		}
		if at.Time().After(clock.Now()) {
			clock.Set(at.Time())
		}
		if err := d.allNow(ctx); err != nil {
			return err
		}
	}
	clock.Set(to)
	err := d.store.Write(ctx, func(t store.Tx) error {
		return t.SetMeta("clock", strconv.FormatInt(clock.Shift().Milliseconds(), 10))
	})
	if err == nil {
		err = d.allNow(ctx)
	}
	d.Journal.AnnounceAll(journal.TopicClock, journal.TopicMail, journal.TopicFollowUps, journal.TopicCards)
	return err
}

// Filled says that the demo's mail is complete here. A store with people but
// without all of the mail is refused.
func (d *Desk) Filled(ctx context.Context) (filled bool, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		done, err := t.Meta("demo")
		if err != nil {
			return err
		}
		people, err := t.People()
		if filled = done != ""; err == nil && !filled && len(people) > 0 {
			err = &problem.Error{Type: "not-a-demo", Text: "this folder holds other mail, or a demo that was stopped while it was made: nothing was changed; name another folder with --data, or delete this one"}
		}
		return err
	})
	return filled, err
}

// FinishDemo notes that the demo's mail is complete, and sets its clock.
func (d *Desk) FinishDemo(ctx context.Context, clock *journal.SystemClock, begin time.Time) error {
	if err := d.SetClock(ctx, clock, begin); err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error { return t.SetMeta("demo", "complete") })
}
