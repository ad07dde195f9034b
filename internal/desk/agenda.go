package desk

import (
	"cmp"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// agenda tells the runner of the kinds of things that happen by themselves.
func (d *Desk) agenda() {
	d.Journal.Register(map[inbox.Kind]journal.Kind{inbox.Return: {Verb: "came back"}, inbox.Remind: {Verb: "reminded"}, inbox.CodeOver: {Verb: "binned an hour after its code", Step: true}})
	for kind, k := range map[inbox.Kind]runner.Kind{
		inbox.CloseDay:    {Run: callToClose, Name: func(store.Tx, store.Thing) string { return "the closing of the day" }},
		inbox.Deliver:     {Run: d.deliverDue, Name: func(store.Tx, store.Thing) string { return "what is held, with its round" }},
		inbox.CodeOver:    {Run: d.binCodes, Name: named("binning the code of")},
		inbox.WriteLetter: {Run: d.Letters.Due, Name: func(store.Tx, store.Thing) string { return "what concerns you in teams, as one message" }},
		inbox.Return:      {Run: d.comeBack, Name: named("the return of")},
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
			title = store.Agenda(t).TitleOf(th.BoxID, th.FollowUp)
		} else if names, err := store.Conversations(t).Names(th.BoxID, []int64{th.ConversationID}); err == nil {
			title = cmp.Or(names[th.ConversationID].Title, names[th.ConversationID].Subject)
		}
		return what + " “" + cmp.Or(title, "something without a name") + "”"
	}
}

// gateOf is who keeps the gate of a box in which things happen.
func (d *Desk) gateOf(b *runner.Box) intake.Gate {
	return intake.Gate{T: b.T, Box: b.ID, Person: b.Person, Now: b.Now, Sort: d.Rules.Run}
}

// hear gives a notification, or keeps it while the user wants
// to hear nothing.
func hear(b *runner.Box, n journal.Notice) error {
	notice, err := intake.Gate{T: b.T, Box: b.ID, Person: b.Person, Now: b.Now}.Tell(n)
	if notice.Text != "" {
		b.Notices = append(b.Notices, notice)
	}
	return err
}

// happened is what things did, each with its line in the journal, and what the
// user is to hear of it.
type happened struct {
	entries []*store.Entry
	changes []inbox.Change
	heard   []journal.Notice
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
		h.heard = []journal.Notice{{Text: fmt.Sprintf("%d reminders have come up. %s", n, h.heard[0].Text)}}
	}
	for _, n := range h.heard {
		if err := hear(b, n); err != nil {
			return err
		}
	}
	for _, e := range h.entries {
		e.BoxID, e.PersonID, e.At = b.ID, b.Person.ID, b.Now
	}
	if err := store.Journal(b.T).Record(h.entries...); err != nil {
		return err
	}
	b.Changes = append(b.Changes, h.changes...)
	return store.Conversations(b.T).Apply(b.ID, b.Person.ID, h.changes)
}
