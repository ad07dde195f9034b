package composing

import (
	"cmp"
	"context"
	"net/url"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

// leaving gives how one leaves the list that the newest message of a
// conversation came from, and to which of the user's addresses it writes.
func leaving(t store.Tx, who identity.Who, conversation int64) (l mail.Leaving, m store.Message, at string, err error) {
	m, b, at, _, err := received.Last(t, who, conversation)
	return b.Leave, m, at, err
}

// HowToLeave says what leaving the list of a conversation will do.
func (d *Desk) HowToLeave(ctx context.Context, who identity.Who, conversation int64) (v LeaveView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		l, m, _, err := leaving(t, who, conversation)
		if err != nil {
			return err
		}
		v.List = cmp.Or(m.FromName, m.FromAddr)
		switch {
		case l.Post != "":
			u, _ := url.Parse(l.Post) // it was read before
			v.Way, v.Text = "request", "One request goes to "+u.Host+". It says that this address leaves the list, and nothing else."
		case l.Mail.Address != "":
			v.Way, v.Text = "mail", "A message goes to "+l.Mail.Address+" from your account. Its subject is “"+cmp.Or(l.Subject, leaveSubject)+"”."
		case l.Page != "":
			u, _ := url.Parse(l.Page)
			v.Way, v.Page, v.Text = "page", l.Page, "The list can only be left on its own page, at "+u.Host+". It will learn that you have opened it."
		default:
			v.Text = "This message does not say how one leaves the list. Bin its mail, or answer it."
		}
		return nil
	})
	return v, err
}

const leaveSubject = "unsubscribe"

// LeaveList leaves the list that the newest message of a conversation came
// from, by the way HowToLeave has told. What came of it stands in the journal.
func (d *Desk) LeaveList(ctx context.Context, who identity.Who, key string, conversation int64) (journal.Decided, error) {
	var l mail.Leaving
	var m store.Message
	var at string
	err := d.store.Read(ctx, func(t store.Tx) (err error) { l, m, at, err = leaving(t, who, conversation); return err })
	if err != nil {
		return journal.Decided{}, err
	}
	list := cmp.Or(m.FromName, m.FromAddr)
	var outcome string
	switch {
	case l.Post != "" && d.LeaveAt != nil:
		outcome = "You have left “" + list + "”: its server has taken the request."
		if err := d.LeaveAt(ctx, l.Post); err != nil {
			if err := d.store.Write(ctx, func(t store.Tx) error {
				return store.Journal(t).Record(left(who, m, "Not left. "+list+": "+err.Error(), d.Journal.Now()))
			}); err != nil {
				return journal.Decided{}, err
			}
			return journal.Decided{}, &problem.Error{Type: "not-left", Text: "You are still on the list: " + err.Error() + ". Nothing else was changed; try again later."}
		}
	case l.Mail.Address != "":
	default:
		return journal.Decided{}, problem.Invalid("list", "This list cannot be left from here, so nothing was changed.")
	}
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		now := d.Journal.Now()
		if l.Post == "" || d.LeaveAt == nil {
			if outcome, err = d.leaveByMail(t, who, l, at, now); err != nil {
				return out, err
			}
			outcome = "“" + list + "”: " + outcome
		}
		out.Text = outcome
		if err := weighing.Weights(t).Leave(who.Box, cmp.Or(m.List, m.FromAddr), now); err != nil {
			return out, err
		}
		return out, store.Journal(t).Record(left(who, m, outcome, now))
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Key: key})
	}
	return out, err
}

// leaveByMail puts the message that leaves a list into the outbox.
func (d *Desk) leaveByMail(t store.Tx, who identity.Who, l mail.Leaving, at string, now when.Instant) (string, error) {
	a, err := outbox.AccountOf(t, who.Box, 0, at)
	if err != nil {
		return "", err
	}
	if a.ID == 0 {
		return "", &problem.Error{Type: "no-account", Text: "The list is left by a message, and there is no account to send it with, so nothing was changed. Add one in Setup, under Accounts."}
	}
	o, err := outbox.Compose(who, a, mime.Letter{To: []mail.Address{l.Mail}, Subject: cmp.Or(l.Subject, leaveSubject), Text: cmp.Or(l.Text, leaveSubject)}, now)
	if err != nil {
		return "", err
	}
	if _, _, err := outbox.Queue(t, o, a.Address, now); err != nil {
		return "", err
	}
	return "a message to " + l.Mail.Address + " is on its way.", nil
}

// left is the line of the journal about a list that was left, or could not be.
func left(who identity.Who, m store.Message, outcome string, now when.Instant) *store.Entry {
	return &store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByPerson, Kind: inbox.LeaveList, At: now, Count: 1, ConversationID: m.ConversationID, Text: outcome}
}
