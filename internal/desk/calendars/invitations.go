package calendars

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/ical"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
)

// Invitations reads the invitations in the messages of a conversation and sets
// them beside the calendar.
func (d *Desk) Invitations(t store.Tx, who identity.Who, messages []store.Message) ([]Invitation, error) {
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
func calendarIn(t store.Tx, who identity.Who, message int64) (c ical.Calendar, err error) {
	raw, err := store.Messages(t).Original(message)
	if err != nil {
		return c, err
	}
	for _, p := range mime.Read(raw).Parts {
		if p.Type == "text/calendar" {
			if c, err := ical.Read(p.Content, who.Week.Location()); err == nil {
				return c, nil
			}
		}
	}
	return c, nil
}

func (d *Desk) invitation(t store.Tx, who identity.Who, m store.Message, c ical.Calendar, e calendar.Event) (Invitation, error) {
	i := Invitation{Message: m.ID, Method: c.Method, Event: e, Whole: e.Whole(), Around: []calendar.Slot{}, Clashes: []calendar.Slot{}, Doubts: append([]string{}, c.Doubts...)}
	state, err := store.Conversations(t).State(who.Box, who.Person, nil, []string{e.UID})
	if err != nil {
		return i, err
	}
	if have, ok := state.Events[e.UID]; ok {
		i.Have = &have
	}
	i.News = calendar.Judge(i.Have, e, c.Method)
	i.Passed = e.End.At < d.Journal.Now() && e.Rule == ""
	if e.Rule != "" {
		i.Repeats = when.SayRule(e.Rule, who.Week.Location())
	}
	loc := who.Week.Location()
	from, to := when.DayStart(e.Begins(), loc, 0), when.DayStart(e.End.At, loc, 1)
	slots, err := SlotsOf(t, who, from, min(to, from+7*86_400_000))
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
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		m, err := store.Messages(t).MessageRow(who.Box, message)
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
		state, err := store.Conversations(t).State(who.Box, who.Person, nil, []string{uid})
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
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		o := sending.Outgoing{BoxID: who.Box, Once: fmt.Sprintf("invitation/%d", out.Entry), Address: got.Organizer.Address, Name: got.Organizer.Name, At: now, EntryID: out.Entry, ConversationID: m.ConversationID}
		if o.Subject, o.Text, o.Original, err = mime.GuestAnswer(me, got, answer, strings.TrimSpace(words), now.In(who.Week.Location())); err != nil {
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
	p, err := store.People(t).PersonByID(who.Keeper())
	for _, g := range e.Guests {
		if own[g.Address.Address] {
			return mail.Address{Name: p.Name, Address: g.Address.Address}, err
		}
	}
	return mail.Address{Name: p.Name, Address: p.Address}, err
}
