package desk

import (
	"context"
	"errors"
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
		d.advance()
		select {
		case <-ctx.Done():
		case <-tick.C:
		}
	}
}

// nextOfAll is when anything happens next: on the agenda, in the outbox, in the world around
// the demo, or among the colleagues there; 0 if nothing will.
func (d *Desk) nextOfAll(ctx context.Context) (at when.Instant, err error) {
	at, err = d.nextHere(ctx)
	if d.colleagues != nil && err == nil {
		if next := d.colleagues.Next(); !next.IsZero() && (at == 0 || when.Of(next) < at) {
			at = when.Of(next)
		}
	}
	return at, err
}

// nextHere is the same without the colleagues.
func (d *Desk) nextHere(ctx context.Context) (at when.Instant, err error) {
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
		if d.advance() {
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
		next := d.nextOfAll
		if who.Team == 0 {
			next = d.nextHere // what the colleagues do is nothing to stop at
		}
		at, err := next(ctx)
		for err == nil && at != 0 && at.Time().Sub(now) < time.Minute { // nor is what is just going out
			if err = d.SetClock(ctx, clock, at.Time()); err == nil {
				at, err = next(ctx)
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

// Colleagues has others be at work in the demo.
func (d *Desk) Colleagues(w accounts.World) { d.colleagues = w }

// advance lets everything happen outside that is due by now, and says whether anything did.
func (d *Desk) advance() (did bool) {
	for _, w := range []accounts.World{d.world, d.colleagues} {
		if w != nil {
			did = w.Advance() || did
		}
	}
	return did
}
