package desk

import (
	"context"
	"fmt"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

const (
	firedAtOnce  = 500              // things of the agenda in one transaction
	longestSleep = 30 * time.Second // so that a machine that slept is noticed
)

// Run executes what is on the agenda when its time comes, until the context
// ends. What came due while the program was off happens first, in order.
func (d *Desk) Run(ctx context.Context) {
	if d.links != nil {
		var lines sync.WaitGroup
		defer lines.Wait()
		lines.Go(func() { d.keepAccounts(ctx) })
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
	for ctx.Err() == nil {
		if err := d.CatchUp(ctx); err != nil && ctx.Err() == nil {
			slog.Error("the agenda could not be worked off, trying again", "error", err)
		}
		sleep := time.NewTimer(d.untilNext(ctx))
	waiting:
		for {
			select {
			case <-ctx.Done():
				break waiting
			case <-sleep.C:
				break waiting
			case <-d.wake:
				break waiting
			case <-watch.C:
				if time.Since(swept) > sweepEvery {
					swept = time.Now()
					if err := d.store.Write(ctx, wipe); err != nil && ctx.Err() == nil {
						slog.Error("what is no longer needed could not be removed", "error", err)
					}
				}
				if v, err := d.store.Version(); err == nil && v != version {
					version = v // another program, such as an import, has written
					d.forget()
					d.Journal.AnnounceAll(journal.TopicMail, journal.TopicFollowUps, journal.TopicCards, journal.TopicPerson)
				}
			}
		}
		sleep.Stop()
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

func (d *Desk) untilNext(ctx context.Context) time.Duration {
	wait := longestSleep
	if at, err := d.nextThing(ctx); err == nil && at != 0 {
		wait = min(wait, at.Time().Sub(d.clock.Now()))
	}
	return max(wait, time.Millisecond)
}

func (d *Desk) nextThing(ctx context.Context) (at when.Instant, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		at, err = t.NextThing()
		return err
	})
	return at, err
}

// nextOfAll is when anything happens next: on the agenda, in the outbox, or in
// the world around the demo; 0 if nothing will.
func (d *Desk) nextOfAll(ctx context.Context) (at when.Instant, err error) {
	at, err = d.nextThing(ctx)
	if err != nil || d.links == nil {
		return at, err
	}
	earlier := func(x when.Instant) {
		if x != 0 && (at == 0 || x < at) {
			at = x
		}
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		x, err := t.NextToSend(0)
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
			if err := d.PassNow(ctx); err != nil {
				return err
			}
		}
	}
	return d.CatchUp(ctx)
}

// CatchUp does all that has to have happened by now, each thing exactly once
// and in order: it leaves the agenda in the transaction in which it happens.
func (d *Desk) CatchUp(ctx context.Context) error {
	if d.resting() {
		return nil
	}
	late := when.Instant(0) // the last instant given to what came back late
	for {
		n := 0
		var f *fired
		now := d.now()
		err := d.store.Write(ctx, func(t store.Tx) error {
			f = &fired{changed: map[int64][]inbox.Change{}, delivered: map[int64]bool{}, notices: map[int64][]string{}}
			things, err := t.Due(now, firedAtOnce)
			n = len(things)
			if err != nil || len(things) == 0 {
				return err
			}
			return d.fire(t, things, now, &late, f)
		})
		if err != nil || n == 0 {
			return err
		}
		d.report(f)
	}
}

// fired is what things of the agenda did, by box.
type fired struct {
	changed   map[int64][]inbox.Change
	delivered map[int64]bool
	notices   map[int64][]string
	called    []int64 // boxes whose day is to be closed
}

// fewReminders is up to how many reminders that come up at once are told one by
// one.
const fewReminders = 4

// report tells open tabs what the agenda did.
func (d *Desk) report(f *fired) {
	for box, changes := range f.changed {
		if len(changes) > 0 {
			d.Journal.Tell(box, "", changes)
		}
	}
	for box := range f.delivered {
		d.Journal.Announce(box, journal.Event{Topics: []string{journal.TopicMail, journal.TopicDelivery}})
	}
	for _, box := range f.called {
		d.Journal.Announce(box, journal.Event{Topics: []string{journal.TopicCards}})
	}
	for box, notices := range f.notices {
		for _, n := range notices {
			d.Journal.Announce(box, journal.Event{Topics: []string{}, Notice: n})
		}
	}
}

// fire lets things of the agenda happen.
func (d *Desk) fire(t store.Tx, things []store.Thing, now when.Instant, late *when.Instant, f *fired) error {
	byBox := map[int64][]store.Thing{}
	for _, th := range things {
		byBox[th.BoxID] = append(byBox[th.BoxID], th)
	}
	for box, things := range byBox {
		k, err := d.keeper(t, box, now)
		if err != nil {
			return err
		}
		var ids []int64
		var uids []string
		deliver, closing := false, when.Instant(0)
		for _, th := range things {
			switch th.Kind {
			case inbox.CloseDay:
				closing = th.At
			case inbox.Return:
				ids = append(ids, th.ConversationID)
			case inbox.Remind, inbox.RemindEvent:
				uids = append(uids, th.FollowUp)
			case inbox.Deliver:
				deliver = true
			}
		}
		if closing != 0 {
			notice, err := k.closing(closing)
			if err != nil {
				return err
			}
			f.called = append(f.called, box)
			if notice != "" {
				f.notices[box] = append(f.notices[box], notice)
			}
		}
		if deliver {
			got, notice, err := k.deliver()
			if err != nil {
				return err
			}
			f.delivered[box] = true
			if notice != "" {
				f.notices[box] = append(f.notices[box], notice)
			}
			f.changed[box] = append(f.changed[box], got.changes...)
			f.notices[box] = append(f.notices[box], got.notices...)
		}
		answered, err := k.answered(ids)
		if err != nil {
			return err
		}
		f.changed[box] = append(f.changed[box], answered.changes...)
		state, err := t.State(box, k.person.ID, ids, uids)
		if err != nil {
			return err
		}
		rows, err := t.ConversationRows(box, ids)
		if err != nil {
			return err
		}
		var entries []*store.Entry
		var changes []inbox.Change
		var reminders []string
		for _, th := range things {
			e, c, err := k.happen(th, state, late)
			if err != nil {
				return err
			}
			if c == nil { // stale: its subject waits no more; or it is no single change
				continue
			}
			if row := rows[th.ConversationID]; row != nil && e.Text == "" {
				e.Text = row.Subject
			}
			e.BoxID, e.PersonID, e.At, e.Actor, e.Count = box, k.person.ID, now, store.ByClock, 1
			e.Delta, e.Changes = c.Delta(), []inbox.Change{*c}
			entries = append(entries, e)
			changes = append(changes, *c)
			if r := c.FollowUpAfter; r != nil && k.person.Delivery.Notify.Reminder(int(r.Priority)) {
				reminders = append(reminders, "Reminder: "+r.Title)
			}
			if ev := c.EventAfter; ev != nil && k.person.Delivery.Notify.Reminder(int(followup.Urgent)) {
				reminders = append(reminders, "Soon: "+ev.Title+", "+k.person.Week.Say(ev.Start, k.now))
			}
		}
		if n := len(reminders); n > fewReminders { // one sentence, not fifty
			reminders = []string{fmt.Sprintf("%d reminders have come up. %s", n, reminders[0])}
		}
		for _, text := range reminders {
			notice, err := k.tell(text)
			if err != nil {
				return err
			}
			if notice != "" {
				f.notices[box] = append(f.notices[box], notice)
			}
		}
		if err := t.Record(entries...); err != nil {
			return err
		}
		if err := t.Apply(box, k.person.ID, changes); err != nil {
			return err
		}
		f.changed[box] = append(f.changed[box], changes...)
	}
	return nil
}

// happen is what one thing of the agenda changes; no change means that its
// subject waits no more, and it leaves the agenda.
func (k keeper) happen(th store.Thing, state store.State, late *when.Instant) (*store.Entry, *inbox.Change, error) {
	switch th.Kind {
	case inbox.Deliver, inbox.CloseDay: // done, and the next is noted
		return nil, nil, nil
	case inbox.Return:
		today := when.DayStart(k.now, k.person.Week.Location(), 0)
		before, ok := state.Conversations[th.ConversationID]
		since := th.At
		if since < today { // it was due on a day when the program was off
			since = max(today, *late+1)
			*late = since
		}
		after := inbox.ComeBack(before, since, k.now, k.holds(th.At))
		if !ok || after == before {
			return nil, nil, k.t.DropThing(th.ID)
		}
		return &store.Entry{Kind: inbox.Return, ConversationID: th.ConversationID}, &inbox.Change{Before: &before, After: &after}, nil
	case inbox.Remind:
		before, ok := state.FollowUps[th.FollowUp]
		after := before.Fire(k.person.Week, k.now)
		if !ok || after.Equal(before) {
			return nil, nil, k.t.DropThing(th.ID)
		}
		return &store.Entry{Kind: inbox.Remind, ConversationID: before.Conversation, Text: before.Title},
			&inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after}, nil
	case inbox.RemindEvent:
		before, ok := state.Events[th.FollowUp]
		after := before.Fire(k.now)
		if !ok || after.Equal(before) {
			return nil, nil, k.t.DropThing(th.ID)
		}
		return &store.Entry{Kind: inbox.RemindEvent, ConversationID: before.Conversation, Text: before.Title},
			&inbox.Change{EventBefore: &before, EventAfter: &after}, nil
	}
	return nil, nil, k.t.DropThing(th.ID)
}

// closing is what happens when the day of the instant at is to be closed: if
// anything is left of it, and it is still that day, the user is called for. The
// next such time is noted.
func (k keeper) closing(at when.Instant) (notice string, err error) {
	p := k.person
	n, err := k.t.CountFollowUps(k.box, 1, when.DayStart(k.now, p.Week.Location(), 1))
	if err != nil {
		return "", err
	}
	if p.FollowUp.Called = 0; n > 0 && at >= when.DayStart(k.now, p.Week.Location(), 0) {
		p.FollowUp.Called = k.now
		if notice, err = k.tell("Time to close the day: " + say.Plural(n, "follow-up") + " left of it."); err != nil {
			return "", err
		}
	}
	if err := k.t.PutPerson(&p, k.box, nil); err != nil {
		return "", err
	}
	return notice, callForClosing(k.t, k.box, p, k.now)
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
			if at, err := t.TimeOf(box, inbox.CloseDay); err != nil || at != 0 {
				return err
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
