package composing

import (
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Word sends the writer of what was snoozed a word about it, in which [when] is
// the time it comes back. It is taken back with the snooze.
func (d *Desk) Word(t store.Tx, who identity.Who, c inbox.Conversation, text string, out *journal.Decided, now when.Instant) error {
	m, b, at, own, err := received.Last(t, who, c.ID)
	if err != nil {
		return err
	}
	if b.AnswerTo == "" || own[b.AnswerTo] {
		return problem.Invalid("text", "Nothing was snoozed: whoever wrote this reads no answers. Snooze it without a word.")
	}
	a, err := outbox.AccountOf(t, who.Box, 0, at)
	if err != nil {
		return err
	}
	if a.ID == 0 {
		return problem.Invalid("text", "Nothing was snoozed: there is no account to send the word with. Add one in Setup, under Accounts, or snooze it without a word.")
	}
	p, err := store.People(t).PersonByID(who.Person)
	if err != nil {
		return err
	}
	back := "later"
	if !c.Return.IsZero() {
		back = who.Week.Say(c.Return, now)
	}
	to := mail.Address{Name: b.From.Name, Address: b.AnswerTo}
	l := mime.Letter{To: []mail.Address{to}, Subject: writing.Subject(writing.Reply, m.Subject), Text: strings.ReplaceAll(strings.TrimSpace(text), "[when]", back) + "\n", Signature: a.Signature}
	answering(&l, b.Message)
	o, err := outbox.Compose(who, a, l, now+outbox.SpanOf(p.Habits))
	if err != nil {
		return err
	}
	o.EntryID, o.ConversationID = out.Entry, c.ID
	_, _, err = outbox.Queue(t, o, a.Address, o.At)
	out.Text += " " + to.Short() + " is told."
	return err
}
