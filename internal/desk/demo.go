package desk

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
)

// keepWorld lets the world around the demo move on with its clock.
func (d *Desk) keepWorld(ctx context.Context) {
	if d.world == nil {
		return
	}
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for ctx.Err() == nil {
		d.world.Advance()
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
	if err != nil || !d.Accounts.Linked() {
		return at, err
	}
	earlier := func(x when.Instant) {
		if x != 0 && (at == 0 || x < at) {
			at = x
		}
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		x, err := sending.Outbox(t).NextToSend(d.Now())
		earlier(x)
		return err
	})
	if w := d.world; w != nil {
		if next := w.Next(); !next.IsZero() {
			earlier(when.Of(next))
		}
	}
	return at, err
}

// allNow lets everything happen that is due by now, also outside.
func (d *Desk) allNow(ctx context.Context) error {
	if d.Accounts.Linked() {
		if err := d.Sending.Dispatch(ctx); err != nil {
			return err
		}
		if w := d.world; w != nil && w.Advance() {
			if err := d.Mail.PassNow(ctx); err != nil {
				return err
			}
		}
	}
	return d.Agenda.CatchUp(ctx)
}

// Turn moves the demo's clock forward; what is due by then happens. Of two turns
// at once, the second begins where the first ends.
func (d *Desk) Turn(ctx context.Context, who identity.Who, dial Dial) error {
	clock, ok := d.clock.(*journal.SystemClock)
	if !ok || !d.demo {
		return store.ErrNotFound
	}
	d.dial.Lock()
	defer d.dial.Unlock()
	now := d.clock.Now()
	to := now.Add(time.Hour)
	switch dial {
	case DialHour:
	case DialMorning:
		r := who.Week.Read("tomorrow 8:00", when.Of(now))
		to = r.Moment.At.Time()
	case DialNext:
		return d.turnToNext(ctx, who, clock, now)
	default:
		return problem.Invalid("to", "The dial knows the next thing, one hour, and tomorrow 8:00.")
	}
	if !to.After(now) {
		return nil
	}
	return d.SetClock(ctx, clock, to)
}

// turnToNext moves the clock to where the next thing happens in the box somebody is in. What
// happens elsewhere on the way, as in a team of theirs, is nothing to stop at, nor is what is just
// going out.
func (d *Desk) turnToNext(ctx context.Context, who identity.Who, clock *journal.SystemClock, now time.Time) error {
	over, stop := context.WithCancel(ctx)
	defer stop()
	heard := d.Journal.Subscribe(over, who.Box, who.Person)
	here := func() (something bool) {
		for {
			select {
			case e, ok := <-heard:
				if !ok { // so much that it was cut off
					return true
				}
				something = something || !slices.Contains(e.Topics, journal.TopicClock)
			default:
				return something
			}
		}
	}
	for moved := false; ; moved = true {
		at, err := d.nextOfAll(ctx)
		switch {
		case err != nil:
			return err
		case at == 0 && !moved:
			return &problem.Error{Type: "nothing-ahead", Text: "Nothing is on the agenda. Snooze something first."}
		case at == 0:
			return nil
		}
		if err := d.SetClock(ctx, clock, at.Time()); err != nil {
			return err
		}
		if here() && clock.Now().Sub(now) >= time.Minute {
			return nil
		}
	}
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
		people, err := store.People(t).People()
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
	return d.store.Write(ctx, func(t store.Tx) error {
		return errors.Join(t.SetMeta("demo", "complete"), t.SetMeta("demo-began", strconv.FormatInt(begin.UnixMilli(), 10)))
	})
}

// DemoBegan is when the demo began, by its clock; 0 if that is not known.
func (d *Desk) DemoBegan(ctx context.Context) (at when.Instant, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		text, err := t.Meta("demo-began")
		if err != nil || text == "" {
			return err
		}
		ms, err := strconv.ParseInt(text, 10, 64)
		at = when.Instant(ms)
		return err
	})
	return at, err
}

// Also has something more be outside of the demo.
func (d *Desk) Also(w accounts.World) {
	if d.world == nil {
		d.world = w
		return
	}
	d.world = worlds{d.world, w}
}

// worlds are several that are one.
type worlds []accounts.World

// Next is when something happens in the first of them; zero if nothing will.
func (w worlds) Next() (at time.Time) {
	for _, x := range w {
		if next := x.Next(); !next.IsZero() && (at.IsZero() || next.Before(at)) {
			at = next
		}
	}
	return at
}

// Advance lets happen in each what is due by now.
func (w worlds) Advance() (did bool) {
	for _, x := range w {
		did = x.Advance() || did
	}
	return did
}
