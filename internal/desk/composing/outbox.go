package composing

import (
	"context"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// FileSent puts a message that was sent into its conversation.
func (d *Desk) FileSent(ctx context.Context, o sending.Outgoing) error {
	if o.Quiet {
		return d.store.Write(ctx, func(t store.Tx) error { return sending.Outbox(t).FileOutgoing(o.ID, 0, 0) })
	}
	opt := intake.Options{Place: inbox.Archived, Sent: true, Arrived: true, At: func(mail.Message) when.Instant { return o.SentAt },
		Stored: func(t store.Tx, _ []post.Item, ids []int64, _ []bool) error {
			of, err := mailboxes.Folders(t).ConversationsOf(o.BoxID, ids)
			if err != nil {
				return err
			}
			return sending.Outbox(t).FileOutgoing(o.ID, of[ids[0]], ids[0])
		}}
	in := d.Intake.Begin(ctx, o.BoxID, opt)
	_ = in.Add(post.Item{Raw: mime.WithBcc(o.Original, o.Bcc)}) // what stops it, Close says
	_, err := in.Close()
	return err
}

// Outbox gives a page of what has not gone.
func (d *Desk) Outbox(ctx context.Context, who identity.Who, before int64) (Outbox, error) {
	return d.outgoing(ctx, func(t store.Tx) ([]sending.Outgoing, error) {
		return sending.Outbox(t).Outbox(who.Box, before, store.PageSize)
	})
}

// Heard gives a page of who has heard what from Ebbe by itself.
func (d *Desk) Heard(ctx context.Context, who identity.Who, before int64) (Outbox, error) {
	return d.outgoing(ctx, func(t store.Tx) ([]sending.Outgoing, error) {
		return sending.Outbox(t).Answers(who.Box, before, store.PageSize)
	})
}

func (d *Desk) outgoing(ctx context.Context, page func(store.Tx) ([]sending.Outgoing, error)) (v Outbox, err error) {
	v.Messages = []OutboxLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := page(t)
		for _, o := range rows {
			v.Messages = append(v.Messages, LineOf(o))
		}
		if len(rows) == store.PageSize {
			v.Next = rows[len(rows)-1].ID
		}
		return err
	})
	return v, err
}

// LineOf is a message of the outbox as it is shown.
func LineOf(o sending.Outgoing) OutboxLine {
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
