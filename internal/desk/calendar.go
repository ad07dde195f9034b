package desk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// PutEvent makes an event, or with a UID changes one. An event made from a
// conversation keeps a link to its message; the conversation leaves the inbox if
// the user wants that.
func (d *Desk) PutEvent(ctx context.Context, who identity.Who, key, uid string, e EventDraft) (journal.Decided, error) {
	now := d.now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		changes = nil
		event := calendar.Event{UID: uuid.NewString(), Made: now, Conversation: e.Conversation}
		kind, said := inbox.MakeEvent, "In the calendar: "
		change := inbox.Change{}
		if uid != "" {
			state, err := t.State(who.Box, who.Person, nil, []string{uid})
			if err != nil {
				return out, err
			}
			before, ok := state.Events[uid]
			if !ok {
				return out, store.ErrNotFound
			}
			event, kind, said, change.EventBefore = before, inbox.ChangeEvent, "Changed: ", &before
			event.Changed = now
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
			if event.Conversation, err = t.Resolve(who.Box, e.Conversation); err != nil {
				return out, err
			}
			originals, err := t.Originals([]int64{event.Conversation})
			if err != nil {
				return out, err
			}
			event.Message = originals[event.Conversation]
			if e.Archive {
				if changes, err = d.leave(t, who, []int64{event.Conversation}, now); err != nil {
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
		state, err := t.State(who.Box, who.Person, nil, []string{uid})
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
		return d.Journal.Commit(t, who, store.Entry{Kind: kind, At: d.now()}, changes, func(int) string { return text })
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// FindTimes gives what an event can be made from: the times that the newest
// message by somebody else names, and who takes part.
func (d *Desk) FindTimes(ctx context.Context, who identity.Who, conversation int64) (f EventFound, err error) {
	now := d.now()
	f.Times, f.Guests = []TimeFound{}, []calendar.Guest{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		l, people, err := letterOf(t, who, conversation)
		if err != nil {
			return err
		}
		f.Title = mail.Title(l.Subject)
		for _, one := range who.Week.FindTimes(l.Subject+"\n\n"+l.Text, l.Written) {
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
		slices.SortStableFunc(f.Times, func(a, b TimeFound) int { // what has an hour is more likely meant
			return cmp.Compare(len(a.Start.Local), len(b.Start.Local)) * -1
		})
		known, err := t.Addresses(who.Box, people)
		for _, a := range people {
			f.Guests = append(f.Guests, calendar.Guest{Address: mail.Address{Name: known[a], Address: a}})
		}
		return err
	})
	return f, err
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

// dueShown is how many follow-ups that are due are shown on a day of the week.
const dueShown = 8

// CalendarWeek gives the week in which a day lies (today if it is empty): events,
// follow-ups that are due, and what comes back.
func (d *Desk) CalendarWeek(ctx context.Context, who identity.Who, day string) (w CalendarWeek, err error) {
	now, loc := d.now(), who.Week.Location()
	t := now.In(loc)
	if day != "" {
		if t, err = time.Parse("2006-01-02", day); err != nil || t.Year() < 1990 || t.Year() > 2200 {
			return w, problem.Invalid("day", "That is no day Ebbe can show. Choose another.")
		}
	}
	monday := time.Date(t.Year(), t.Month(), t.Day()-(int(t.Weekday())+6)%7, 0, 0, 0, 0, time.UTC)
	w.From = monday.Format("2006-01-02")
	starts := make([]when.Instant, 8)
	for i := range starts {
		starts[i] = when.At(monday.AddDate(0, 0, i), 0, loc)
	}
	w.Days = make([]CalendarDay, 7)
	dayOf := func(at when.Instant) int {
		i, found := slices.BinarySearch(starts, at)
		if !found {
			i--
		}
		return min(max(i, 0), 6)
	}
	err = d.viewing(ctx, who, func(v viewer) error {
		t := v.t
		slots, err := slotsOf(t, who, starts[0], starts[7])
		if err != nil {
			return err
		}
		heaps, _ := v.shelf.Heaps(followup.Narrow{}, starts)
		for i := range w.Days {
			w.Days[i] = CalendarDay{Start: starts[i], Slots: []calendar.Slot{}, Due: []FollowUpView{}, Back: []Slip{}, Open: heaps[i+1].Open}
			for _, s := range slots {
				if s.From < starts[i+1] && (s.To > starts[i] || s.From >= starts[i]) {
					w.Days[i].Slots = append(w.Days[i].Slots, s)
				}
			}
			if w.Days[i].Due, err = v.list(followup.Narrow{}, followup.Span{From: max(starts[i], 1), To: starts[i+1]}, dueShown); err != nil {
				return err
			}
		}
		ids, err := t.ReturnsIn(who.Box, starts[0], starts[7], 200)
		if err != nil {
			return err
		}
		back, err := slipsBy(t, who, ids)
		for _, s := range back {
			i := dayOf(s.Position.Return.At)
			w.Days[i].Back = append(w.Days[i].Back, s)
		}
		return err
	})
	return w, err
}

// slotsOf gives the occurrences of all events in [from, to), in order.
func slotsOf(t store.Tx, who identity.Who, from, to when.Instant) (slots []calendar.Slot, err error) {
	events, err := t.EventsBetween(who.Box, from, to)
	for _, e := range events {
		slots = append(slots, e.Between(from, to, who.Week.Location())...)
	}
	slices.SortStableFunc(slots, func(a, b calendar.Slot) int { return cmp.Or(cmp.Compare(a.From, b.From), cmp.Compare(a.UID, b.UID)) })
	return slots, err
}

// invitations reads the invitations in the messages of a conversation and sets
// them beside the calendar.
func (d *Desk) invitations(t store.Tx, who identity.Who, messages []store.Message) ([]Invitation, error) {
	out := []Invitation{}
	for _, m := range messages {
		if m.Kind != mail.Invitation && !slices.ContainsFunc(m.Files, func(f mail.File) bool { return f.Type == "text/calendar" }) || len(out) >= 10 {
			continue
		}
		c, err := calendarIn(t, who, m.ID)
		if err != nil {
			return nil, err
		}
		for _, e := range c.Events[:min(len(c.Events), 5)] {
			i, err := d.invitation(t, who, m, c, e)
			if err != nil {
				return nil, err
			}
			out = append(out, i)
		}
	}
	return out, nil
}

// calendarIn is the calendar file in a message; empty if there is none that can
// be read.
func calendarIn(t store.Tx, who identity.Who, message int64) (c post.Calendar, err error) {
	raw, err := t.Original(message)
	if err != nil {
		return c, err
	}
	for _, p := range post.Read(raw).Parts {
		if p.Type == "text/calendar" {
			if c, err := post.ReadCalendar(p.Content, who.Week.Location()); err == nil {
				return c, nil
			}
		}
	}
	return c, nil
}

func (d *Desk) invitation(t store.Tx, who identity.Who, m store.Message, c post.Calendar, e calendar.Event) (Invitation, error) {
	i := Invitation{Message: m.ID, Method: c.Method, Event: e, Whole: e.Whole(), Around: []calendar.Slot{}, Clashes: []calendar.Slot{}, Doubts: append([]string{}, c.Doubts...)}
	state, err := t.State(who.Box, who.Person, nil, []string{e.UID})
	if err != nil {
		return i, err
	}
	if have, ok := state.Events[e.UID]; ok {
		i.Have = &have
	}
	i.News = calendar.Judge(i.Have, e, c.Method)
	i.Passed = e.End.At < d.now() && e.Rule == ""
	if e.Rule != "" {
		i.Repeats = when.SayRule(e.Rule, who.Week.Location())
	}
	loc := who.Week.Location()
	from, to := when.DayStart(e.Begins(), loc, 0), when.DayStart(e.End.At, loc, 1)
	slots, err := slotsOf(t, who, from, min(to, from+7*86_400_000))
	if err != nil {
		return i, err
	}
	i.Around = append(i.Around, calendar.Clashes(slots, e.UID, from, to)...)
	i.Clashes = append(i.Clashes, calendar.Clashes(slots, e.UID, e.Begins(), e.End.At)...)
	return i, nil
}

// AnswerInvitation answers the invitation in a message: the event goes into the
// calendar with the answer, and the answer itself into the outbox, where it
// waits until Ebbe can send. An empty answer notes what the organizer says and
// answers nothing: an event that is only announced, or one that is called off.
func (d *Desk) AnswerInvitation(ctx context.Context, who identity.Who, key string, message int64, uid string, answer calendar.Answer, words string) (journal.Decided, error) {
	now := d.now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		m, err := t.MessageRow(who.Box, message)
		if err != nil {
			return out, err
		}
		c, err := calendarIn(t, who, message)
		if err != nil {
			return out, err
		}
		n := slices.IndexFunc(c.Events, func(e calendar.Event) bool { return e.UID == uid })
		if n < 0 {
			return out, store.ErrNotFound
		}
		got := c.Events[n]
		state, err := t.State(who.Box, who.Person, nil, []string{uid})
		if err != nil {
			return out, err
		}
		change := inbox.Change{}
		if have, ok := state.Events[uid]; ok {
			change.EventBefore = &have
		}
		switch news := calendar.Judge(change.EventBefore, got, c.Method); {
		case news == calendar.Outdated:
			return out, &problem.Error{Type: "outdated", Text: "The calendar has a newer version of this event, so nothing was changed. Answer the newer invitation."}
		case news == calendar.CalledOff && answer != "":
			return out, &problem.Error{Type: "cancelled", Text: "The organizer has called this off, so there is nothing to answer."}
		case answer != "" && answer != calendar.Yes && answer != calendar.Maybe && answer != calendar.No:
			return out, problem.Invalid("answer", "Ebbe does not know that answer, so nothing was changed.")
		}
		event := calendar.Take(change.EventBefore, got, c.Method, answer, now)
		event.Conversation, event.Message = m.ConversationID, m.MessageID
		if event.Next() != 0 && event.Next() <= now {
			event.Fired = now
		}
		change.EventAfter = &event
		changes = []inbox.Change{change}
		sent := answer != "" && got.Organizer.Address != ""
		way := ""
		if a, err := outbox.AccountOf(t, who.Box, 0, ""); err != nil {
			return out, err
		} else if sent && a.ID == 0 {
			way = " The answer waits in the outbox until there is an account to send it with."
		} else if sent {
			way = " The answer is on its way."
		}
		out, err = d.Journal.Commit(t, who, store.Entry{Kind: inbox.AnswerGuest, At: now}, changes, func(int) string { return answered(answer, event, way, who.Week, now) })
		if err != nil || !sent {
			return out, err
		}
		me, err := d.guest(t, who, got)
		if err != nil {
			return out, err
		}
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return out, err
		}
		o := store.Outgoing{BoxID: who.Box, Hold: fmt.Sprintf("invitation/%d", out.Entry), Address: got.Organizer.Address, Name: got.Organizer.Name, At: now, EntryID: out.Entry, ConversationID: m.ConversationID}
		if o.Subject, o.Text, o.Original, err = post.GuestAnswer(me, got, answer, strings.TrimSpace(words), now.In(who.Week.Location())); err != nil {
			return out, err
		}
		_, _, err = outbox.Queue(t, o, me.Address, now+outbox.SpanOf(p.Habits))
		return out, err
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicDelivery}})
	}
	return out, err
}

// answered says what was answered, and on which way the answer is.
func answered(answer calendar.Answer, e calendar.Event, waits string, w when.Week, now when.Instant) string {
	at := w.Say(e.Start, now)
	switch {
	case e.Cancelled:
		return "Marked as called off in the calendar."
	case answer == calendar.Yes:
		return "Accepted, " + at + "." + waits
	case answer == calendar.Maybe:
		return "Perhaps, " + at + "." + waits
	case answer == calendar.No:
		return "Declined." + waits
	}
	return "Noted in the calendar, " + at + "."
}

// guest is as whom the user is invited: the own address that is named, or the
// one they sign in with.
func (d *Desk) guest(t store.Tx, who identity.Who, e calendar.Event) (mail.Address, error) {
	own, err := intake.OwnAddresses(t, who.Box)
	if err != nil {
		return mail.Address{}, err
	}
	p, err := t.PersonByID(who.Person)
	for _, g := range e.Guests {
		if own[g.Address.Address] {
			return mail.Address{Name: p.Name, Address: g.Address.Address}, err
		}
	}
	return mail.Address{Name: p.Name, Address: p.Address}, err
}
