package composing

import (
	"errors"
	"slices"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/sending"
)

// PassOn puts the newest message that somebody else wrote in a conversation into the
// outbox, to be sent to that address with its files once it can be taken back no more.
// The caller names the entry of the journal it goes with.
func (d *Desk) PassOn(t store.Tx, who identity.Who, conversation int64, to string, now when.Instant) (o sending.Outgoing, err error) {
	_, b, at, own, err := received.Last(t, who, conversation)
	if errors.Is(err, store.ErrNotFound) {
		return o, problem.Invalid("combo", "Nothing was done: nobody else has written in this conversation, so there is nothing to pass on.")
	}
	if err != nil {
		return o, err
	}
	if own[to] {
		return o, problem.Invalid("combo", "Nothing was done: "+to+" is an address of your own. What is passed on there would come back.")
	}
	a, err := outbox.AccountOf(t, who.Box, 0, at)
	if err != nil {
		return o, err
	}
	if a.ID == 0 {
		return o, &problem.Error{Type: "no-account", Text: "Nothing was done: there is no account to send from. Add one in Setup, under Accounts."}
	}
	p, err := store.People(t).PersonByID(who.Person)
	if err != nil {
		return o, err
	}
	date := b.Date.Time().In(who.Week.Location()).Format("2 January 2006")
	l := mime.Letter{To: []mail.Address{{Address: to}}, Subject: writing.Subject(writing.Forward, b.Subject), Signature: a.Signature, Below: writing.Forwarded(b.Message, date), Files: b.Parts}
	if o, err = outbox.Compose(who, a, l, now+outbox.SpanOf(p.Habits)); err != nil {
		return o, err
	}
	t.Durably() // the user is told that it goes
	o.ConversationID = conversation
	o, _, err = outbox.Queue(t, o, a.Address, o.At)
	return o, err
}

// Start begins a message to that address, or without one an answer to a conversation,
// with the text of a template if one is named, and gives the draft. An answer that was
// begun is gone on with, as it is.
func (d *Desk) Start(t store.Tx, who identity.Who, conversation int64, to string, template int64, now when.Instant) (int64, error) {
	draft := drafting.Draft{PersonID: who.Person, BoxID: who.Box, Mode: writing.New, Begun: now, Changed: now}
	if to != "" {
		draft.To = []mail.Address{{Address: to}}
		if err := drafting.Drafts(t).PutDraft(&draft); err != nil {
			return 0, err
		}
	} else {
		m, _, _, _, err := received.Last(t, who, conversation)
		if errors.Is(err, store.ErrNotFound) {
			return 0, problem.Invalid("combo", "Nothing was done: nobody else has written in this conversation, so there is nothing to answer.")
		}
		if err != nil {
			return 0, err
		}
		begun, err := drafting.Drafts(t).Draft(who.Person, m.ConversationID)
		if err != nil || begun.ID != 0 {
			return begun.ID, err
		}
		draft.Mode, draft.ConversationID, draft.MessageID = writing.Reply, m.ConversationID, m.ID
		if err := d.direct(t, who, &draft, m); err != nil {
			return 0, err
		}
	}
	if template == 0 {
		return draft.ID, nil
	}
	templates, err := drafting.Drafts(t).Templates(who.Keeper())
	if err != nil {
		return 0, err
	}
	if !slices.ContainsFunc(templates, func(x drafting.Template) bool { return x.ID == template }) {
		return 0, problem.Invalid("combo", "Nothing was done: the template it begins with has been deleted. Change the combo in Setup.")
	}
	with, err := d.filled(t, who, template, draft)
	if err != nil {
		return 0, err
	}
	if draft.Text = with.Text; with.Subject != "" && draft.Mode == writing.New {
		draft.Subject = with.Subject
	}
	return draft.ID, drafting.Drafts(t).PutDraft(&draft)
}
