package composing

import (
	"context"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
)

// ReceiptHold names the receipt for a message in the outbox, which is given once.
func ReceiptHold(message int64) string { return fmt.Sprintf("receipt/%d", message) }

// GiveReceipt tells whoever wrote a message, and asked for it, that it was
// opened (RFC 8098). It is never done without the user, and once.
func (d *Desk) GiveReceipt(ctx context.Context, who identity.Who, key string, message int64) (journal.Decided, error) {
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		now := d.Journal.Now()
		m, err := store.Messages(t).MessageRow(who.Box, message)
		if err != nil {
			return out, err
		}
		b, at, _, err := received.Read(t, who, m)
		if err != nil {
			return out, err
		}
		if b.ReceiptTo == "" || m.Own {
			return out, problem.Invalid("message", "Nobody asked to be told, so nothing was sent.")
		}
		a, err := outbox.AccountOf(t, who.Box, 0, at)
		if err != nil {
			return out, err
		}
		if a.ID == 0 {
			return out, &problem.Error{Type: "no-account", Text: "There is no account to send it with, so nothing was sent. Add one in Setup, under Accounts."}
		}
		o := sending.Outgoing{BoxID: who.Box, Once: ReceiptHold(m.ID), Address: b.ReceiptTo, Name: m.FromName, At: now, Text: "Your message has been opened.", Quiet: true}
		if o.Subject, o.Original, err = mime.Receipt(mail.Address{Name: a.FullName, Address: a.Address}, b.Message, now.Time().In(who.Week.Location())); err != nil {
			return out, err
		}
		if _, _, err := outbox.Queue(t, o, a.Address, now); err != nil {
			return out, err
		}
		out.Text = b.From.Short() + " is told that you have opened it."
		return out, store.Journal(t).Record(&store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByPerson, Kind: inbox.GiveReceipt, At: now, Count: 1, ConversationID: m.ConversationID, Text: b.From.Short()})
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Key: key})
	}
	return out, err
}
