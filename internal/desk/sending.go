package desk

import (
	"context"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// word sends the writer of what was snoozed a word about it, in which [when] is
// the time it comes back. It is taken back with the snooze.
func (d *Desk) word(t store.Tx, who identity.Who, c inbox.Conversation, text string, out *journal.Decided, now when.Instant) error {
	m, b, at, own, err := lastReceived(t, who, c.ID)
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
	p, err := t.PersonByID(who.Person)
	if err != nil {
		return err
	}
	back := "later"
	if !c.Return.IsZero() {
		back = who.Week.Say(c.Return, now)
	}
	to := mail.Address{Name: b.From.Name, Address: b.AnswerTo}
	l := post.Letter{To: []mail.Address{to}, Subject: writing.Subject(writing.Reply, m.Subject), Text: strings.ReplaceAll(strings.TrimSpace(text), "[when]", back) + "\n", Signature: a.Signature}
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

// fileSent puts a message that was sent into its conversation.
func (d *Desk) fileSent(ctx context.Context, o store.Outgoing) error {
	if o.Quiet {
		return d.store.Write(ctx, func(t store.Tx) error { o.Filed, o.Laid = true, true; return t.PutOutgoing(&o) })
	}
	opt := intake.Options{Place: inbox.Archived, Sent: true, Arrived: true, At: func(mail.Message) when.Instant { return o.SentAt },
		Stored: func(t store.Tx, _ []post.Item, ids []int64, _ []bool) error {
			of, err := t.ConversationsOf(o.BoxID, ids)
			if err != nil {
				return err
			}
			o.Filed, o.ConversationID = true, of[ids[0]]
			return t.PutOutgoing(&o)
		}}
	in := d.Intake.Begin(ctx, o.BoxID, opt)
	_ = in.Add(post.Item{Raw: post.WithBcc(o.Original, o.Bcc)}) // what stops it, Close says
	_, err := in.Close()
	return err
}

// Outbox gives a page of what has not gone.
func (d *Desk) Outbox(ctx context.Context, who identity.Who, before int64) (Outbox, error) {
	return d.outgoing(ctx, func(t store.Tx) ([]store.Outgoing, error) { return t.Outbox(who.Box, before, PageSize) })
}

// Heard gives a page of who has heard what from Ebbe by itself.
func (d *Desk) Heard(ctx context.Context, who identity.Who, before int64) (Outbox, error) {
	return d.outgoing(ctx, func(t store.Tx) ([]store.Outgoing, error) { return t.Answers(who.Box, before, PageSize) })
}

func (d *Desk) outgoing(ctx context.Context, page func(store.Tx) ([]store.Outgoing, error)) (v Outbox, err error) {
	v.Messages = []OutboxLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := page(t)
		for _, o := range rows {
			v.Messages = append(v.Messages, outboxLine(o))
		}
		if len(rows) == PageSize {
			v.Next = rows[len(rows)-1].ID
		}
		return err
	})
	return v, err
}

func outboxLine(o store.Outgoing) OutboxLine {
	l := OutboxLine{ID: o.ID, To: mail.Address{Name: o.Name, Address: o.Address}, More: append([]writing.Recipient{}, o.To...), At: o.At, State: o.State, Problem: o.Problem,
		Subject: o.Subject, Text: o.Text, Conversation: o.ConversationID, Again: o.Again}
	if o.State == writing.Waiting {
		l.Next = o.Next
		if o.EntryID != 0 && !slices.ContainsFunc(o.To, func(r writing.Recipient) bool { return r.State != writing.Waiting }) {
			l.Entry = o.EntryID
		}
	}
	return l
}
