package outbox

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/post/smtp"
	"ebbe/internal/post/texts"
	"ebbe/internal/store"
	"ebbe/internal/store/phoning"
	"ebbe/internal/store/sending"
)

// telephone hands messages over to the gateway of a telephone line, as texts.
type telephone struct {
	ctx    context.Context
	line   texting.Line
	by     texts.Provider
	notify string
}

// Hand hands over the words of a message to whom it is for; what else is in it stays here.
func (l telephone) Hand(_ string, to []string, raw []byte, final func(taken []string) error) (got smtp.Handed, err error) {
	b := mime.Read(raw)
	if err := final(to); err != nil {
		return got, err
	}
	for _, address := range to {
		number, ok := texting.NumberOf(address)
		if !ok {
			got.Refused = append(got.Refused, smtp.Refusal{Address: address, Text: "A text goes to a telephone number, and this is none."})
			continue
		}
		id, err := l.by.Send(l.ctx, texts.Text{From: l.line.Number, To: number, Text: strings.TrimRight(b.Text, "\r\n"), Once: b.MessageID + " " + string(number), Notify: l.notify})
		var refused *texts.Refused
		switch {
		case errors.As(err, &refused):
			got.Refused = append(got.Refused, smtp.Refusal{Address: address, Text: refused.Text, Later: !refused.Final})
		case err != nil:
			return got, smtp.ErrUncertain
		default:
			got.Taken, got.Receipt = append(got.Taken, address), id
		}
	}
	return got, nil
}

func (telephone) Close() {}

// Told notes what the gateway of a line says of texts that were sent from it: when they have reached
// their telephones, or that they never will, which is told like mail that comes back.
func (b *Outbox) Told(ctx context.Context, box, account int64, receipts []texts.Receipt) error {
	for _, r := range receipts {
		var changes []inbox.Change
		var o sending.Outgoing
		notice := ""
		err := b.store.Write(ctx, func(t store.Tx) (err error) {
			changes, notice = nil, ""
			if o, err = sending.Outbox(t).ByReceipt(account, r.ID); err != nil {
				return err
			}
			now := b.journal.Now()
			switch {
			case r.State == texts.Delivered && o.Reached == 0:
				o.Reached = now
				return sending.Outbox(t).PutOutgoing(&o)
			case r.State == texts.Failed && o.Reached == 0 && o.State == writing.Sent:
				o.State = writing.Refused
				why := r.Why
				if why == "" {
					why = "the gateway does not say why"
				}
				for i := range o.To {
					o.To[i].State, o.To[i].Text = writing.Refused, why
				}
				o.Problem = why
				if err := sending.Outbox(t).PutOutgoing(&o); err != nil {
					return err
				}
				notice = missedText(o, []string{fmt.Sprintf("“%s”", why)})
				changes, err = b.bringBack(t, o, notice, now)
			}
			return err
		})
		if errors.Is(err, store.ErrNotFound) {
			continue // of none that this line has sent
		}
		if err != nil {
			return err
		}
		b.journal.Announce(box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Conversations: []int64{o.ConversationID}, Notice: journal.Notice{Text: notice, Conversation: o.ConversationID}})
		if len(changes) > 0 {
			b.journal.Tell(box, "", changes)
		}
	}
	return nil
}

// stopped says that whoever a message is for wants no texts any more.
func stopped(t store.Tx, box int64, address string) (since when.Instant, err error) {
	number, ok := texting.NumberOf(address)
	if !ok {
		return 0, nil
	}
	n, err := phoning.Numbers(t).Of(box, number)
	return n.Stopped, err
}
