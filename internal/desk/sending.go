package desk

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// queue puts a message into the outbox that Ebbe has written itself, to be sent
// from the account of that address; without any account it is only kept.
func queue(t store.Tx, o store.Outgoing, from string, now when.Instant) (store.Outgoing, bool, error) {
	a, err := accountOf(t, o.BoxID, 0, from)
	if err != nil {
		return o, false, err
	}
	o.AccountID, o.State, o.Next = a.ID, writing.Waiting, now
	if a.ID == 0 {
		o.State = writing.Kept
	}
	o.To = []writing.Recipient{{Address: o.Address, State: writing.Waiting}}
	fresh, err := t.Send(&o)
	return o, fresh, err
}

// newMessageID makes a Message-ID for a message from an account (RFC 5322,
// section 3.6.4).
func newMessageID(a store.Account) string {
	_, domain, _ := strings.Cut(a.Address, "@")
	return uuid.NewString() + "@" + domain
}

// outgoing is a letter from an account as a message to one person, to be put
// into the outbox.
func outgoing(who identity.Who, a store.Account, l post.Letter, at when.Instant) (o store.Outgoing, err error) {
	l.MessageID, l.Date, l.From = newMessageID(a), at.Time().In(who.Week.Location()), mail.Address{Name: a.FullName, Address: a.Address}
	o = store.Outgoing{BoxID: who.Box, Hold: "message/" + l.MessageID, Address: l.To[0].Address, Name: l.To[0].Name, At: at, Subject: l.Subject, Text: l.Text}
	o.Original, err = post.Compose(l)
	return o, err
}

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
	a, err := accountOf(t, who.Box, 0, at)
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
	o, err := outgoing(who, a, l, now+spanOf(p.Habits))
	if err != nil {
		return err
	}
	o.EntryID, o.ConversationID = out.Entry, c.ID
	_, _, err = queue(t, o, a.Address, o.At)
	out.Text += " " + to.Short() + " is told."
	return err
}

// keepSending hands messages over when their time comes, until the context
// ends.
func (d *Desk) keepSending(ctx context.Context) {
	for ctx.Err() == nil {
		if err := d.Dispatch(ctx); err != nil && ctx.Err() == nil {
			slog.Error("the outbox could not be worked off, trying again", "error", err)
		}
		wait := longestSleep
		_ = d.store.Read(ctx, func(t store.Tx) error { // if it fails, the next round tells
			at, err := t.NextToSend()
			if at != 0 {
				wait = min(wait, at.Time().Sub(d.clock.Now()))
			}
			return err
		})
		timer := time.NewTimer(max(wait, 10*time.Millisecond))
		select {
		case <-ctx.Done():
		case <-timer.C:
		case <-d.links.outbox:
		}
		timer.Stop()
	}
}

// Dispatch hands over every message whose time has come, and waits for it.
func (d *Desk) Dispatch(ctx context.Context) error {
	if d.links == nil {
		return nil
	}
	d.links.sending.Lock()
	defer d.links.sending.Unlock()
	if d.resting() {
		return nil
	}
	for now := d.now(); ; {
		var rows []store.Outgoing
		err := d.store.Read(ctx, func(t store.Tx) (err error) { rows, err = t.ToSend(now, 20); return err })
		if err != nil {
			return err
		}
		for _, o := range rows {
			if err := d.hand(ctx, o); err != nil || ctx.Err() != nil {
				return err
			}
		}
		if err := d.fileSent(ctx); err != nil || len(rows) == 0 {
			return err
		}
	}
}

// resume finds out, as far as it can be, about messages that were being handed
// over when the program ended: their conversations come back, as the user alone
// can say what became of them.
func (d *Desk) resume(t store.Tx) error {
	rows, err := t.Interrupted()
	for _, o := range rows {
		o.State, o.Problem = writing.Hanging, "Ebbe was ended while this was being handed over, so it may have gone or not."
		if err := t.PutOutgoing(&o); err != nil {
			return err
		}
		if _, err := d.bringBack(t, o, missedText(o, []string{o.Problem}), d.now()); err != nil {
			return err
		}
		t.Durably()
	}
	return err
}

func missedText(o store.Outgoing, words []string) string {
	return "“" + cmp.Or(o.Subject, "A message") + "” did not reach everybody: " + strings.Join(words, "; ")
}

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
func (d *Desk) hand(ctx context.Context, o store.Outgoing) error {
	var a store.Account
	err := d.store.Read(ctx, func(t store.Tx) (err error) { a, err = t.Account(o.BoxID, o.AccountID); return err })
	if err != nil && !isMissing(err) {
		return err
	}
	try := writing.Try{Refused: map[string]string{}, Postponed: map[string]string{}}
	if isMissing(err) {
		try.Failed, try.Final = "The account it was to go from has been taken away. Choose another and send it again.", true
	} else if err := d.handTo(ctx, a, o, &try); err != nil {
		if errors.Is(err, errStopped) { // nothing has gone: it waits for the next start
			return nil
		}
		return err
	}
	return d.tried(context.WithoutCancel(ctx), o, try)
}

func (d *Desk) handTo(ctx context.Context, a store.Account, o store.Outgoing, try *writing.Try) error {
	login, err := d.login(a)
	if err != nil {
		try.Failed = upper(err.Error()) + "."
		return nil
	}
	line, end := lasting(ctx)
	defer end()
	c, err := d.links.Network.OpenCounter(line, a.Sending, login)
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
		stored = d.store.Write(context.WithoutCancel(ctx), func(t store.Tx) error {
			t.Durably() // before the server hears the end of the message
			now, err := t.Outgoing(o.BoxID, o.ID)
			if err != nil {
				return err
			}
			if now.State != writing.Waiting {
				return errWithdrawn
			}
			now.State = writing.Sending
			if err := t.PutOutgoing(&now); err != nil || o.EntryID == 0 {
				return err
			}
			e, err := t.Entry(o.BoxID, o.EntryID)
			if err != nil || !e.Step {
				return err
			}
			return t.SetTakenBack(o.EntryID, 0, false) // from now on it cannot be taken back
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
	switch try.Taken = got.Taken; {
	case err == nil:
	case errors.Is(stored, errWithdrawn):
		try.Failed = errWithdrawn.Error()
	case stored != nil:
		return stored
	case ctx.Err() != nil && !errors.Is(err, post.ErrUncertain):
		return errStopped
	case errors.Is(err, post.ErrUncertain):
		if d.liesInSent(line, a, login, o) {
			try.Taken = writing.Outgoing{To: o.To}.Pending()
			return nil
		}
		try.Failed, try.Hangs = "The line to "+a.Sending.Host+" was cut at the last moment, so it may have gone or not.", true
	default:
		try.Failed, try.Final = post.Final(err)
		try.Failed = a.Sending.Host + ": " + try.Failed
	}
	return nil
}

var errWithdrawn = errors.New("it was taken back in time")

// liesInSent says that the server has a sent message in its folder of sent mail
// by itself: then it has taken it.
func (d *Desk) liesInSent(ctx context.Context, a store.Account, l post.Login, o store.Outgoing) bool {
	m, err := d.links.Network.OpenMailbox(ctx, a.Mailbox, l)
	if err != nil {
		return false
	}
	defer m.Close()
	folders, err := m.Folders()
	i := slices.IndexFunc(folders, func(f post.Folder) bool { return f.Role == mail.RoleSent })
	if err != nil || i < 0 {
		return false
	}
	if _, err := m.Select(folders[i].Name); err != nil {
		return false
	}
	found, err := m.Find(post.Read(o.Original).MessageID)
	return err == nil && len(found) > 0
}

// tried stores what came of a try. Whom it did not reach, the user hears of:
// its conversation comes back at once.
func (d *Desk) tried(ctx context.Context, o store.Outgoing, try writing.Try) error {
	now := d.now()
	var changes []inbox.Change
	notice := ""
	err := d.store.Write(ctx, func(t store.Tx) error {
		changes, notice = nil, ""
		t.Durably()
		row, err := t.Outgoing(o.BoxID, o.ID)
		if err != nil || row.State == writing.Withdrawn {
			return err
		}
		before := row.To
		w := writing.Outgoing{State: writing.Waiting, To: row.To, At: row.Next, Attempts: row.Attempts}.Tried(try, now)
		row.State, row.To, row.Next, row.Attempts, row.Problem = w.State, w.To, w.At, w.Attempts, w.Problem
		if row.State == writing.Sent {
			row.SentAt = now
			if err := d.sendAgain(t, row, now); err != nil {
				return err
			}
			if row.DraftID != 0 {
				if err := t.DropDraft(row.DraftID); err != nil {
					return err
				}
			}
		}
		if err := t.PutOutgoing(&row); err != nil {
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
		changes, err = d.bringBack(t, row, notice, now)
		return err
	})
	if err == nil {
		d.Journal.Announce(o.BoxID, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Notice: notice})
		if len(changes) > 0 {
			d.Journal.Tell(o.BoxID, "", changes)
		}
	}
	return err
}

// sendAgain puts the next of a message that is repeated into the outbox, after
// this one has gone.
func (d *Desk) sendAgain(t store.Tx, o store.Outgoing, now when.Instant) error {
	if o.Rule == "" {
		return nil
	}
	person, err := t.MemberOf(o.BoxID)
	if err != nil {
		return err
	}
	p, err := t.PersonByID(person)
	if err != nil {
		return err
	}
	next, ok := writing.NextTime(o.Rule, o.Begins, max(now, o.At), p.Week.Location())
	if !ok {
		return nil
	}
	a, err := accountOf(t, o.BoxID, o.AccountID, "")
	if err != nil {
		return err
	}
	id := newMessageID(a)
	o.ID, o.Hold, o.At, o.Next, o.State = 0, "message/"+id, next.At, next.At, writing.Waiting
	o.Original = post.Again(o.Original, id, next.At.Time().In(p.Week.Location()))
	o.EntryID, o.DraftID, o.Attempts, o.Problem, o.SentAt, o.Filed, o.Laid = 0, 0, 0, "", 0, false, false
	o.To = slices.Clone(o.To)
	for i := range o.To {
		o.To[i] = writing.Recipient{Address: o.To[i].Address, State: writing.Waiting}
	}
	_, err = t.Send(&o)
	return err
}

// bringBack brings the conversation of a message that did not reach somebody
// into the inbox, with a line in the journal that says so.
func (d *Desk) bringBack(t store.Tx, o store.Outgoing, words string, now when.Instant) (changes []inbox.Change, err error) {
	person, err := t.MemberOf(o.BoxID)
	if err != nil {
		return nil, err
	}
	e := store.Entry{BoxID: o.BoxID, PersonID: person, Actor: store.ByClock, Kind: inbox.Undelivered, At: now, Count: 1, ConversationID: o.ConversationID, Text: words}
	if o.ConversationID != 0 {
		state, err := t.State(o.BoxID, person, []int64{o.ConversationID}, nil)
		if err != nil {
			return nil, err
		}
		if before, ok := state.Conversations[o.ConversationID]; ok && before.Place != inbox.Held {
			after := inbox.Receive(before, inbox.Arrival{At: now, Bounce: true, Auto: true, Place: inbox.Inbox})
			c := inbox.Change{Before: &before, After: &after}
			changes, e.Delta = []inbox.Change{c}, c.Delta()
			e.Changes = changes
		}
	}
	if err := t.Record(&e); err != nil {
		return nil, err
	}
	return changes, t.Apply(o.BoxID, person, changes)
}

// fileSent puts what was sent into its conversations.
func (d *Desk) fileSent(ctx context.Context) error {
	var rows []store.Outgoing
	err := d.store.Read(ctx, func(t store.Tx) (err error) { rows, err = t.Unfiled(50); return err })
	for _, o := range rows {
		if err != nil {
			return err
		}
		if o.Quiet {
			err = d.store.Write(ctx, func(t store.Tx) error { o.Filed, o.Laid = true, true; return t.PutOutgoing(&o) })
			continue
		}
		opt := ImportOptions{Place: inbox.Archived, sent: true, Arrived: true, At: func(mail.Message) when.Instant { return o.SentAt },
			stored: func(t store.Tx, _ []post.Item, ids []int64, _ []bool) error {
				of, err := t.ConversationsOf(o.BoxID, ids)
				if err != nil {
					return err
				}
				o.Filed, o.ConversationID = true, of[ids[0]]
				return t.PutOutgoing(&o)
			}}
		in := d.Intake(ctx, o.BoxID, opt)
		_ = in.Add(post.Item{Raw: post.WithBcc(o.Original, o.Bcc)}) // what stops it, Close says
		_, err = in.Close()
	}
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

// Settle settles what Ebbe could not know about a message that hangs or was
// refused: it is sent again to those who have not got it, or counts as gone.
func (d *Desk) Settle(ctx context.Context, who identity.Who, id int64, again bool) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		t.Durably()
		o, err := t.Outgoing(who.Box, id)
		if err != nil {
			return err
		}
		ends := o.State == writing.Waiting && o.Rule != "" && !again // a message that is repeated
		if o.State != writing.Hanging && o.State != writing.Refused && o.State != writing.Kept && !ends {
			return &problem.Error{Type: "not-open", Text: "Nothing is open about this message any more, so nothing was changed."}
		}
		o.Problem, o.Attempts = "", 0
		if again {
			a, err := accountOf(t, who.Box, o.AccountID, "")
			if err != nil {
				return err
			}
			if a.ID == 0 {
				return &problem.Error{Type: "no-account", Text: "There is no account to send it with. Add one in Setup, under Accounts."}
			}
			for i, r := range o.To {
				if r.State != writing.Sent {
					o.To[i] = writing.Recipient{Address: r.Address, State: writing.Waiting}
				}
			}
			o.AccountID, o.State, o.Next = a.ID, writing.Waiting, d.now()
			return t.PutOutgoing(&o)
		}
		gone := o.State == writing.Hanging
		o.State = writing.Withdrawn
		if gone {
			o.State, o.SentAt = writing.Sent, d.now()
			if err := d.sendAgain(t, o, o.SentAt); err != nil {
				return err
			}
		}
		if o.DraftID != 0 && gone {
			if err := t.DropDraft(o.DraftID); err != nil {
				return err
			}
		}
		if o.DraftID != 0 && !gone {
			if err := t.SetDraftSent(o.DraftID, 0); err != nil {
				return err
			}
		}
		return t.PutOutgoing(&o)
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}})
	}
	return err
}

// unsend takes back, or sends after all, what an entry of the journal has put
// into the outbox. What has gone cannot be taken back.
func (d *Desk) unsend(t store.Tx, s *journal.Step) error {
	who, back := s.Who, s.Back
	rows, err := t.OutgoingBy(s.Root.ID)
	if err != nil {
		return err
	}
	p, err := t.PersonByID(who.Person)
	if err != nil {
		return err
	}
	if len(rows) > 0 {
		t.Durably()
	}
	for _, o := range rows {
		if gone := slices.ContainsFunc(o.To, func(r writing.Recipient) bool { return r.State == writing.Sent }); back && (gone || o.State == writing.Sending || o.State == writing.Hanging) {
			return &problem.Error{Type: "gone", Text: "“" + cmp.Or(o.Subject, "The message") + "” has gone out already, so it cannot be taken back. What was decided with it stays."}
		}
		next := max(o.At, d.now()+spanOf(p.Habits))
		if err := t.Withdraw(o.ID, back, next); err != nil {
			return err
		}
		if o.DraftID != 0 {
			sent := o.ID
			if back {
				sent = 0
			}
			if err := t.SetDraftSent(o.DraftID, sent); err != nil {
				return err
			}
		}
	}
	return nil
}
