package outbox

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/sending"
)

// Settle settles what Ebbe could not know about a message that hangs or was
// refused: it is sent again to those who have not got it, or counts as gone.
func (b *Outbox) Settle(ctx context.Context, who identity.Who, id int64, again bool) error {
	err := b.store.Write(ctx, func(t store.Tx) error {
		t.Durably()
		o, err := sending.Outbox(t).Outgoing(who.Box, id)
		if err != nil {
			return err
		}
		ends := o.State == writing.Waiting && o.Rule != "" && !again // a message that is repeated
		if o.State != writing.Hanging && o.State != writing.Refused && o.State != writing.Kept && !ends {
			return &problem.Error{Type: "not-open", Text: "Nothing is open about this message any more, so nothing was changed."}
		}
		o.Problem, o.Attempts = "", 0
		if again {
			a, err := AccountOf(t, who.Box, o.AccountID, "")
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
			o.AccountID, o.State, o.Next = a.ID, writing.Waiting, b.journal.Now()
			return sending.Outbox(t).PutOutgoing(&o)
		}
		gone := o.State == writing.Hanging
		o.State = writing.Withdrawn
		if gone {
			o.State, o.SentAt = writing.Sent, b.journal.Now()
			if o.Original, err = sending.Outbox(t).BytesOfOutgoing(o.ID); err != nil {
				return err
			}
			if err := sendAgain(t, o, o.SentAt); err != nil {
				return err
			}
		}
		if o.DraftID != 0 && gone {
			if err := drafting.Drafts(t).DropDraft(o.DraftID); err != nil {
				return err
			}
		}
		if o.DraftID != 0 && !gone {
			if err := drafting.Drafts(t).SetDraftSent(o.DraftID, 0); err != nil {
				return err
			}
		}
		return sending.Outbox(t).PutOutgoing(&o)
	})
	if err == nil {
		b.journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}})
	}
	return err
}

// Unsend takes back, or sends after all, what an entry of the journal has put
// into the outbox. What has gone cannot be taken back.
func (b *Outbox) Unsend(t store.Tx, s *journal.Step) error {
	who, back := s.Who, s.Back
	rows, err := sending.Outbox(t).OutgoingBy(s.Root.ID)
	if err != nil {
		return err
	}
	p, err := store.People(t).PersonByID(who.Keeper())
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
		next := max(o.At, b.journal.Now()+SpanOf(p.Habits))
		if err := sending.Outbox(t).Withdraw(o.ID, back, next); err != nil {
			return err
		}
		if o.DraftID != 0 {
			sent := o.ID
			if back {
				sent = 0
			}
			if err := drafting.Drafts(t).SetDraftSent(o.DraftID, sent); err != nil {
				return err
			}
		}
	}
	return nil
}

// Resume finds out, as far as it can be, about messages that were being handed
// over when the program ended: their conversations come back, as the user alone
// can say what became of them.
func (b *Outbox) Resume(t store.Tx) error {
	rows, err := sending.Outbox(t).Interrupted()
	for _, o := range rows {
		o.State, o.Problem = writing.Hanging, "Ebbe was ended while this was being handed over, so it may have gone or not."
		if err := sending.Outbox(t).PutOutgoing(&o); err != nil {
			return err
		}
		if _, err := b.bringBack(t, o, missedText(o, []string{o.Problem}), b.journal.Now()); err != nil {
			return err
		}
		t.Durably()
	}
	return err
}

// titleOf names a message in a sentence.
func titleOf(o sending.Outgoing) string { return "“" + cmp.Or(o.Subject, "A message") + "”" }

func missedText(o sending.Outgoing, words []string) string {
	return titleOf(o) + " did not reach everybody: " + strings.Join(words, "; ")
}

// bringBack brings the conversation of a message that did not reach somebody
// into the inbox, with a line in the journal that says so.
func (b *Outbox) bringBack(t store.Tx, o sending.Outgoing, words string, now when.Instant) (changes []inbox.Change, err error) {
	person, err := store.People(t).Keeper(o.BoxID)
	if err != nil {
		return nil, err
	}
	e := store.Entry{BoxID: o.BoxID, PersonID: person, Actor: store.ByClock, Kind: inbox.Undelivered, At: now, Count: 1, ConversationID: o.ConversationID, Text: words}
	if o.ConversationID != 0 {
		state, err := store.Conversations(t).State(o.BoxID, person, []int64{o.ConversationID}, nil)
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
	if err := store.Journal(t).Record(&e); err != nil {
		return nil, err
	}
	return changes, store.Conversations(t).Apply(o.BoxID, person, changes)
}

// sendAgain puts the next of a message that is repeated into the outbox, after
// this one has gone.
func sendAgain(t store.Tx, o sending.Outgoing, now when.Instant) error {
	if o.Rule == "" {
		return nil
	}
	person, err := store.People(t).Keeper(o.BoxID)
	if err != nil {
		return err
	}
	p, err := store.People(t).PersonByID(person)
	if err != nil {
		return err
	}
	next, ok := writing.NextTime(o.Rule, o.Begins, max(now, o.At), p.Week.Location())
	if !ok {
		return nil
	}
	a, err := AccountOf(t, o.BoxID, o.AccountID, "")
	if err != nil {
		return err
	}
	id := NewMessageID(a)
	o.ID, o.Once, o.At, o.Next, o.State = 0, "message/"+id, next.At, next.At, writing.Waiting
	o.Original = mime.Again(o.Original, id, next.At.Time().In(p.Week.Location()))
	o.EntryID, o.DraftID, o.Attempts, o.Problem, o.SentAt, o.Filed, o.Laid, o.MessageID = 0, 0, 0, "", 0, false, false, 0
	o.To = slices.Clone(o.To)
	for i := range o.To {
		o.To[i] = writing.Recipient{Address: o.To[i].Address, State: writing.Waiting}
	}
	_, err = sending.Outbox(t).Send(&o)
	return err
}
