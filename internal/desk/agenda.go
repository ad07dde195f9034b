package desk

import (
	"cmp"
	"fmt"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// agenda tells the runner of the kinds of things that happen by themselves.
func (d *Desk) agenda() {
	for kind, k := range map[inbox.Kind]runner.Kind{
		inbox.CloseDay:    {Run: callToClose, Name: func(store.Tx, store.Thing) string { return "the closing of the day" }},
		inbox.Deliver:     {Run: deliverDue, Name: func(store.Tx, store.Thing) string { return "what is held, with its round" }},
		inbox.Return:      {Run: comeBack, Name: named("the return of")},
		inbox.Remind:      {Run: remindOfWork, Name: named("a reminder about")},
		inbox.RemindEvent: {Run: remindOfEvents, Name: named("a reminder about")},
	} {
		d.Agenda.Register(kind, k)
	}
}

// named names a thing by what it is about.
func named(what string) func(store.Tx, store.Thing) string {
	return func(t store.Tx, th store.Thing) string {
		title := ""
		if th.FollowUp != "" {
			title = t.TitleOf(th.BoxID, th.FollowUp)
		} else if names, err := t.Names(th.BoxID, []int64{th.ConversationID}); err == nil {
			title = cmp.Or(names[th.ConversationID].Title, names[th.ConversationID].Subject)
		}
		return what + " “" + cmp.Or(title, "something without a name") + "”"
	}
}

// gateOf is who keeps the gate of a box in which things happen.
func gateOf(b *runner.Box) intake.Gate {
	return intake.Gate{T: b.T, Box: b.ID, Person: b.Person, Now: b.Now}
}

// hear gives the notification with these words, or keeps it while the user wants
// to hear nothing.
func hear(b *runner.Box, text string) error {
	notice, err := gateOf(b).Tell(text)
	if notice != "" {
		b.Notices = append(b.Notices, notice)
	}
	return err
}

// callToClose is what happens when a day is to be closed: if anything is left of
// it, and it is still that day, the user is called for. The next such time is
// noted.
func callToClose(b *runner.Box, things []store.Thing) error {
	p, at := b.Person, things[len(things)-1].At
	n, err := b.T.CountFollowUps(b.ID, 1, when.DayStart(b.Now, p.Week.Location(), 1))
	if err != nil {
		return err
	}
	if p.FollowUp.Called = 0; n > 0 && at >= when.DayStart(b.Now, p.Week.Location(), 0) {
		p.FollowUp.Called = b.Now
		if err := hear(b, "Time to close the day: "+say.Plural(n, "follow-up")+" left of it."); err != nil {
			return err
		}
	}
	if err := b.T.PutPerson(&p, b.ID, nil); err != nil {
		return err
	}
	b.Topics = append(b.Topics, journal.TopicCards)
	return followups.CallForClosing(b.T, b.ID, p, b.Now)
}

// deliverDue lets in what is held and due.
func deliverDue(b *runner.Box, _ []store.Thing) error {
	got, notice, err := gateOf(b).Deliver()
	if err != nil {
		return err
	}
	b.Topics = append(b.Topics, journal.TopicMail, journal.TopicDelivery)
	if notice != "" {
		b.Notices = append(b.Notices, notice)
	}
	b.Changes, b.Notices = append(b.Changes, got.Changes...), append(b.Notices, got.Notices...)
	return nil
}

// comeBack brings back what was snoozed until now.
func comeBack(b *runner.Box, things []store.Thing) error {
	ids := make([]int64, len(things))
	for i, th := range things {
		ids[i] = th.ConversationID
	}
	k := gateOf(b)
	answered, err := k.Answered(ids)
	if err != nil {
		return err
	}
	b.Changes = append(b.Changes, answered.Changes...)
	state, err := b.T.State(b.ID, b.Person.ID, ids, nil)
	if err != nil {
		return err
	}
	rows, err := b.T.ConversationRows(b.ID, ids)
	if err != nil {
		return err
	}
	today := when.DayStart(b.Now, b.Person.Week.Location(), 0)
	var done happened
	for _, th := range things {
		before, ok := state.Conversations[th.ConversationID]
		since := th.At
		if since < today { // it was due on a day when the program was off
			since = max(today, b.Late+1)
			b.Late = since
		}
		after := inbox.ComeBack(before, since, b.Now, k.Holds(th.At))
		if !ok || after == before { // it waits no more
			if err := b.T.DropThing(th.ID); err != nil {
				return err
			}
			continue
		}
		text := ""
		if row := rows[th.ConversationID]; row != nil {
			text = row.Subject
		}
		done.add(inbox.Return, th.ConversationID, text, inbox.Change{Before: &before, After: &after})
	}
	return done.record(b)
}

// remindOfWork brings up the cards of follow-ups.
func remindOfWork(b *runner.Box, things []store.Thing) error {
	state, err := b.T.State(b.ID, b.Person.ID, nil, store.Subjects(things))
	if err != nil {
		return err
	}
	var done happened
	for _, th := range things {
		before, ok := state.FollowUps[th.FollowUp]
		after := before.Fire(b.Person.Week, b.Now)
		if !ok || after.Equal(before) {
			if err := b.T.DropThing(th.ID); err != nil {
				return err
			}
			continue
		}
		done.add(inbox.Remind, before.Conversation, before.Title, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		if b.Person.Delivery.Notify.Reminder(int(before.Priority)) {
			done.heard = append(done.heard, "Reminder: "+before.Title)
		}
	}
	return done.record(b)
}

// remindOfEvents brings up the cards of events.
func remindOfEvents(b *runner.Box, things []store.Thing) error {
	state, err := b.T.State(b.ID, b.Person.ID, nil, store.Subjects(things))
	if err != nil {
		return err
	}
	var done happened
	for _, th := range things {
		before, ok := state.Events[th.FollowUp]
		after := before.Fire(b.Now)
		if !ok || after.Equal(before) {
			if err := b.T.DropThing(th.ID); err != nil {
				return err
			}
			continue
		}
		done.add(inbox.RemindEvent, before.Conversation, before.Title, inbox.Change{EventBefore: &before, EventAfter: &after})
		if b.Person.Delivery.Notify.Reminder(int(followup.Urgent)) {
			done.heard = append(done.heard, "Soon: "+before.Title+", "+b.Person.Week.Say(before.Start, b.Now))
		}
	}
	return done.record(b)
}

// happened is what things did, each with its line in the journal, and what the
// user is to hear of it.
type happened struct {
	entries []*store.Entry
	changes []inbox.Change
	heard   []string
}

func (h *happened) add(kind inbox.Kind, conversation int64, text string, c inbox.Change) {
	h.entries = append(h.entries, &store.Entry{Kind: kind, ConversationID: conversation, Text: text, Actor: store.ByClock, Count: 1, Delta: c.Delta(), Changes: []inbox.Change{c}})
	h.changes = append(h.changes, c)
}

// fewReminders is up to how many reminders that come up at once are told one by
// one.
const fewReminders = 4

// record stores what happened.
func (h *happened) record(b *runner.Box) error {
	if n := len(h.heard); n > fewReminders { // one sentence, not fifty
		h.heard = []string{fmt.Sprintf("%d reminders have come up. %s", n, h.heard[0])}
	}
	for _, text := range h.heard {
		if err := hear(b, text); err != nil {
			return err
		}
	}
	for _, e := range h.entries {
		e.BoxID, e.PersonID, e.At = b.ID, b.Person.ID, b.Now
	}
	if err := b.T.Record(h.entries...); err != nil {
		return err
	}
	b.Changes = append(b.Changes, h.changes...)
	return b.T.Apply(b.ID, b.Person.ID, h.changes)
}
