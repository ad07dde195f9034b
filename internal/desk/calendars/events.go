package calendars

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/facts"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/received"
	"ebbe/internal/desk/told"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// PutEvent makes an event, or with a UID changes one. An event made from a
// conversation keeps a link to its message; the conversation leaves the inbox if
// the user wants that.
func (d *Desk) PutEvent(ctx context.Context, who identity.Who, key, uid string, e EventDraft) (journal.Decided, error) {
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		changes = nil
		event := calendar.Event{UID: uuid.NewString(), Made: now, Conversation: e.Conversation}
		kind, said := inbox.MakeEvent, "In the calendar: "
		change := inbox.Change{}
		if uid != "" {
			state, err := store.Conversations(t).State(who.Box, who.Person, nil, []string{uid})
			if err != nil {
				return out, err
			}
			before, ok := state.Events[uid]
			if !ok {
				return out, store.ErrNotFound
			}
			event, kind, said, change.EventBefore = before, inbox.ChangeEvent, "Changed: ", &before
			event.Changed = now
			if before.Rule != "" && e.Was.At != 0 {
				e.Start, e.End = before.Moved(e.Was, e.Start, e.End, who.Week.Location())
			}
		}
		moved := event.Start != e.Start
		event.Title, event.Start, event.End, event.Place, event.Guests, event.Notes, event.Remind, event.Rule = e.Title, e.Start, e.End, e.Place, e.Guests, e.Notes, e.Remind, strings.TrimPrefix(strings.ToUpper(strings.TrimSpace(e.Rule)), "RRULE:")
		event = event.Tidy()
		if err := event.Valid(); err != nil {
			return out, problem.Invalid("event", "Nothing was put into the calendar: "+err.Error()+".")
		}
		if uid == "" || moved {
			if event.Fired = 0; event.Next() != 0 && event.Next() <= now {
				event.Fired = now // there is nothing left to remind of
			}
		}
		if uid == "" && e.Conversation != 0 {
			if event.Conversation, err = store.Conversations(t).Resolve(who.Box, e.Conversation); err != nil {
				return out, err
			}
			originals, err := store.Messages(t).Originals([]int64{event.Conversation})
			if err != nil {
				return out, err
			}
			event.Message = originals[event.Conversation]
			if e.Archive {
				if changes, err = d.FollowUps.PutAway(t, who, []int64{event.Conversation}, now); err != nil {
					return out, err
				}
			}
		}
		change.EventAfter = &event
		changes = append([]inbox.Change{change}, changes...)
		return d.Journal.Commit(t, who, store.Entry{Kind: kind, At: now}, changes, func(int) string { return said + who.Week.Say(event.Start, now) + "." })
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// StepEvent takes an event away (inbox.DropEvent), or puts its card away
// (inbox.SeenReminder).
func (d *Desk) StepEvent(ctx context.Context, who identity.Who, key, uid string, kind inbox.Kind) (journal.Decided, error) {
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		state, err := store.Conversations(t).State(who.Box, who.Person, nil, []string{uid})
		if err != nil {
			return out, err
		}
		before, ok := state.Events[uid]
		if !ok {
			return out, store.ErrNotFound
		}
		text := "Taken out of the calendar."
		c := inbox.Change{EventBefore: &before}
		switch kind {
		case inbox.DropEvent:
		case inbox.SeenReminder:
			after := before
			after.Card = false
			c.EventAfter, text = &after, ""
		default:
			return out, problem.Invalid("kind", "Ebbe does not know that step, so nothing was changed.")
		}
		changes = []inbox.Change{c}
		return d.Journal.Commit(t, who, store.Entry{Kind: kind, At: d.Journal.Now()}, changes, func(int) string { return text })
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// FindTimes gives what an event can be made from: the times that the newest
// message by somebody else names, and who takes part.
func (d *Desk) FindTimes(ctx context.Context, who identity.Who, conversation int64) (f EventFound, err error) {
	now := d.Journal.Now()
	f.Times, f.Guests = []TimeFound{}, []calendar.Guest{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		l, people, err := received.Source(t, who, conversation)
		if err != nil {
			return err
		}
		f.Title = mail.Title(l.Subject)
		for _, one := range who.Week.FindTimes(l.Subject+"\n\n"+l.Text, l.Language, l.Written) {
			if max(one.Start.At, one.End.At) <= now || slices.ContainsFunc(f.Times, func(o TimeFound) bool { return saidBy(one, o.Found) }) {
				continue
			}
			f.Times = slices.DeleteFunc(f.Times, func(o TimeFound) bool { return saidBy(o.Found, one) })
			means := who.Week.Say(one.Start, now)
			if !one.End.IsZero() {
				means += " to " + sayEnd(who.Week, one.Start, one.End, now)
			}
			f.Times = append(f.Times, TimeFound{one, means})
		}
		fact, err := told.Offered(t, who, conversation, now, facts.Journey, facts.Booking, facts.Event)
		if err != nil {
			return err
		}
		slices.SortStableFunc(f.Times, func(a, b TimeFound) int { // what has an hour is more likely meant
			return cmp.Compare(len(a.Start.Local), len(b.Start.Local)) * -1
		})
		if fact != nil {
			f.fact(*fact, who.Week, now)
			return nil
		}
		known, err := store.Correspondents(t).Addresses(who.Box, people)
		for _, a := range people {
			f.Guests = append(f.Guests, calendar.Guest{Address: mail.Address{Name: known[a], Address: a}})
		}
		return err
	})
	return f, err
}

// fact makes an event of what a machine tells: what it is, when and where. A machine takes
// no part in it.
func (f *EventFound) fact(of facts.Fact, w when.Week, now when.Instant) {
	f.Title, f.Place = cmp.Or(of.Name, of.By, f.Title), of.Where
	if of.Name != "" && of.By != "" && of.Kind == facts.Booking {
		f.Title = of.Name + ", " + of.By
	}
	one := when.Found{Text: of.Say(w, now), Start: of.From, End: of.Until}
	means := w.Say(one.Start, now)
	if !one.End.IsZero() {
		means += " to " + sayEnd(w, one.Start, one.End, now)
	}
	f.Times = slices.DeleteFunc(f.Times, func(o TimeFound) bool { return saidBy(o.Found, one) })
	f.Times = slices.Insert(f.Times, 0, TimeFound{one, means})
}

// saidBy says that the time o says all that f says: it is the same, or a time of
// the day that f names whole.
func saidBy(f, o when.Found) bool {
	return f.Start == o.Start && f.End == o.End || f.Start.WholeDay() && f.End.IsZero() && strings.HasPrefix(o.Start.Local, f.Start.Local+"T")
}

// sayEnd is the end of a span that begins at start, without its date where that
// is the same.
func sayEnd(w when.Week, start, end when.Moment, now when.Instant) string {
	text := w.Say(end, now)
	if day, clock, ok := strings.Cut(text, ", "); ok && strings.HasPrefix(w.Say(start, now), day+",") {
		return clock
	}
	return text
}
