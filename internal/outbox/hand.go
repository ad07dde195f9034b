package outbox

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/writing"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/post/smtp"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// lastWord is how long a message that is going when the program is to end has
// for the server's last word.
const lastWord = 2500 * time.Millisecond

// lasting is a context that goes on for a while after ctx has ended, so that
// what has begun is brought to its end and noted.
func lasting(ctx context.Context) (context.Context, context.CancelFunc) {
	out, cancel := context.WithCancel(context.WithoutCancel(ctx))
	stop := context.AfterFunc(ctx, func() { time.AfterFunc(lastWord, cancel) })
	return out, func() { stop(); cancel() }
}

var errStopped = errors.New("the program is to end")

// hand hands one message over. An error is one of storing; whatever the servers
// say is stored with the message.
func (b *Outbox) hand(ctx context.Context, o sending.Outgoing) error {
	defer b.over()
	var a mailboxes.Account
	err := b.store.Read(ctx, func(t store.Tx) (err error) { a, err = mailboxes.Accounts(t).Account(o.BoxID, o.AccountID); return err })
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	try := writing.Try{Refused: map[string]string{}, Postponed: map[string]string{}}
	if errors.Is(err, store.ErrNotFound) {
		try.Failed, try.Final = "The account it was to go from has been deleted. Choose another and send it again.", true
	} else if err := b.handTo(ctx, a, o, &try); err != nil {
		if errors.Is(err, errStopped) { // nothing has gone: it waits for the next start
			return nil
		}
		return err
	}
	return b.tried(context.WithoutCancel(ctx), o, try)
}

func (b *Outbox) handTo(ctx context.Context, a mailboxes.Account, o sending.Outgoing, try *writing.Try) error {
	line, end := lasting(ctx)
	defer end()
	c, err := b.submit.Submit(line, a)
	if ctx.Err() != nil {
		if err == nil {
			c.Close()
		}
		return errStopped
	}
	if err != nil {
		try.Failed = err.Error()
		return nil
	}
	defer c.Close()
	from := a.Address
	if o.Quiet {
		from = "" // so that nothing ever answers it (RFC 3834, section 3.3)
	}
	var stored error
	got, err := c.Hand(from, writing.Outgoing{To: o.To}.Pending(), o.Original, func([]string) error {
		if stored = ctx.Err(); stored != nil {
			stored = errStopped
			return stored
		}
		stored = b.store.Write(context.WithoutCancel(ctx), func(t store.Tx) error {
			t.Durably() // before the server hears the end of the message
			now, err := sending.Outbox(t).Outgoing(o.BoxID, o.ID)
			if err != nil {
				return err
			}
			if now.State != writing.Waiting {
				return errWithdrawn
			}
			now.State = writing.Sending
			if err := sending.Outbox(t).PutOutgoing(&now); err != nil || o.EntryID == 0 {
				return err
			}
			e, err := store.Journal(t).Entry(o.BoxID, o.EntryID)
			if err != nil || !e.Step {
				return err
			}
			return store.Journal(t).SetTakenBack(o.EntryID, 0, false) // from now on it cannot be taken back
		})
		return stored
	})
	for _, r := range got.Refused {
		if r.Later {
			try.Postponed[r.Address] = r.Text
		} else {
			try.Refused[r.Address] = r.Text
		}
	}
	try.Receipt = got.Receipt
	switch try.Taken = got.Taken; {
	case err == nil:
	case errors.Is(stored, errWithdrawn):
		try.Failed = errWithdrawn.Error()
	case stored != nil:
		return stored
	case ctx.Err() != nil && !errors.Is(err, smtp.ErrUncertain):
		return errStopped
	case errors.Is(err, smtp.ErrUncertain):
		if b.submit.HasSent(line, a, mime.Read(o.Original).MessageID) {
			try.Taken = writing.Outgoing{To: o.To}.Pending()
			return nil
		}
		try.Failed, try.Hangs = "The line to "+a.Sending.Host+" was cut at the last moment, so it may have gone or not.", true
	default:
		try.Failed, try.Final = smtp.Final(err)
		try.Failed = a.Sending.Host + ": " + try.Failed
	}
	return nil
}

var errWithdrawn = errors.New("it was taken back in time")

// tried stores what came of a try. Whom it did not reach, the user hears of:
// its conversation comes back at once.
func (b *Outbox) tried(ctx context.Context, o sending.Outgoing, try writing.Try) error {
	if len(try.Refused)+len(try.Postponed) > 0 || try.Failed != "" && try.Failed != errWithdrawn.Error() { // without what the server said: that names people
		slog.Warn("a message was not handed over whole", "account", o.AccountID, "message", o.ID, "box", o.BoxID, "refused", len(try.Refused), "later", len(try.Postponed), "line", try.Failed != "", "final", try.Final)
	}
	now := b.journal.Now()
	var changes []inbox.Change
	notice := ""
	err := b.store.Write(ctx, func(t store.Tx) error {
		changes, notice = nil, ""
		t.Durably()
		row, err := sending.Outbox(t).Outgoing(o.BoxID, o.ID)
		if err != nil || row.State == writing.Withdrawn {
			return err
		}
		before := row.To
		w := writing.Outgoing{State: writing.Waiting, To: row.To, At: row.Next, Attempts: row.Attempts}.Tried(try, now)
		row.State, row.To, row.Next, row.Attempts, row.Problem = w.State, w.To, w.At, w.Attempts, w.Problem
		if row.State == writing.Sent {
			row.SentAt, row.Original, row.Receipt = now, o.Original, try.Receipt
			if err := sendAgain(t, row, now); err != nil {
				return err
			}
			if row.DraftID != 0 {
				if err := drafting.Drafts(t).DropDraft(row.DraftID); err != nil {
					return err
				}
			}
		}
		if err := sending.Outbox(t).PutOutgoing(&row); err != nil {
			return err
		}
		var words []string
		for i, r := range row.To {
			if r.State == writing.Refused && before[i].State != writing.Refused {
				words = append(words, r.Address+": “"+r.Text+"”")
			}
		}
		if row.State == writing.Hanging {
			words = append(words, row.Problem)
		}
		if len(words) == 0 {
			return nil
		}
		notice = missedText(row, words)
		changes, err = b.bringBack(t, row, notice, now)
		return err
	})
	if err == nil {
		b.journal.Announce(o.BoxID, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Notice: journal.Notice{Text: notice, Conversation: o.ConversationID}})
		if len(changes) > 0 {
			b.journal.Tell(o.BoxID, "", changes)
		}
	}
	return err
}
