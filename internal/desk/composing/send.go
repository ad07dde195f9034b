package composing

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	netmail "net/mail"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
	talks "ebbe/internal/store/talk"
)

// letter is the message that a draft makes.
func (d *Desk) letter(t store.Tx, who identity.Who, draft drafting.Draft, a mailboxes.Account, at when.Instant) (l mime.Letter, err error) {
	b, under, err := below(t, who, draft)
	if err != nil {
		return l, err
	}
	l = mime.Letter{MessageID: outbox.NewMessageID(a), Date: at.Time().In(who.Week.Location()), From: mail.Address{Name: a.FullName, Address: a.Address},
		To: draft.To, Cc: draft.Cc, Subject: draft.Subject, Text: draft.Text, Rich: draft.Rich, Signature: a.Signature, Receipt: draft.Receipt}
	if draft.Named && who.Team != 0 {
		p, err := store.People(t).PersonByID(draft.PersonID)
		if err != nil {
			return l, err
		}
		l.From.Name = p.Name
	}
	if !draft.Bare {
		l.Below = under
	}
	if draft.Mode.Answers() {
		answering(&l, b.Message)
	}
	if a.Line != nil {
		return asSent(l, draft, a.Line.Number), nil
	}
	files, err := drafting.Drafts(t).DraftFilesWhole(draft.ID)
	if err != nil {
		return l, err
	}
	for _, f := range files {
		l.Files = append(l.Files, mime.Part{File: mail.File{Name: f.Name, Type: f.Type, Size: f.Size}, Content: f.Content})
	}
	return l, nil
}

// DraftCopy is a draft as it lies on the server, with what of its recipients is
// an address already; hidden ones are kept here alone.
func (d *Desk) DraftCopy(t store.Tx, a mailboxes.Account, draft drafting.Draft, id string) ([]byte, error) {
	p, err := store.People(t).PersonByID(draft.PersonID)
	if err != nil {
		return nil, err
	}
	whole := func(list []mail.Address) (out []mail.Address) {
		for _, x := range list {
			if parsed, err := netmail.ParseAddress(x.Address); err == nil && parsed.Address == x.Address {
				out = append(out, x)
			}
		}
		return out
	}
	draft.To, draft.Cc = whole(draft.To), whole(draft.Cc)
	who := identity.Who{Person: draft.PersonID, Box: a.BoxID, Week: p.Week}
	if who.Team, err = store.People(t).Keeper(a.BoxID); err != nil {
		return nil, err
	}
	l, err := d.letter(t, who, draft, a, draft.Changed)
	if err != nil {
		return nil, err
	}
	l.MessageID = id
	return mime.Compose(l)
}

// answering makes a letter an answer to m (RFC 5322, section 3.6.4).
func answering(l *mime.Letter, m mail.Message) {
	if m.MessageID == "" {
		return
	}
	l.InReplyTo, l.References = m.MessageID, append(slices.Clone(m.References), m.MessageID)
	if n := len(l.References); n > 30 { // the first and the nearest say it all
		l.References = append(l.References[:1:1], l.References[n-29:]...)
	}
}

// questions are what the user is asked before a message goes.
func questions(draft drafting.Draft, files []drafting.DraftFile) (asks, field string) {
	if word := writing.Forgotten(draft.Text); word != "" && len(files) == 0 {
		return fmt.Sprintf("You write “%s”, but no file goes with it. Send it all the same?", word), "files"
	}
	if strings.TrimSpace(draft.Subject) == "" {
		return "It has no subject. Send it all the same?", "subject"
	}
	if strings.TrimSpace(draft.Text) == "" && draft.Mode != writing.Forward && len(files) == 0 {
		return "There is nothing in it. Send it all the same?", "text"
	}
	return "", ""
}

// Send sends a draft, after the span in which it can be taken back or at
// the time chosen, and decides about its conversation in the same step.
func (d *Desk) Send(ctx context.Context, who identity.Who, key string, id int64, s Sending) (Sent, error) {
	now := d.Journal.Now()
	s.Repeat = strings.Join(strings.Fields(s.Repeat), " ")
	s.At, s.Return, s.Due = s.At.Realign(), s.Return.Realign(), s.Due.Realign()
	if !s.At.IsZero() && s.At.At <= now {
		return Sent{}, problem.Invalid("at", "That time has passed, so nothing was sent. Choose one that is still ahead; the draft is kept.")
	}
	if !s.Return.IsZero() && s.Return.At <= max(now, s.At.At) {
		return Sent{}, problem.Invalid("return", "It would come back before it has gone, so nothing was sent. Choose a later time; the draft is kept.")
	}
	var changes []inbox.Change
	var calls []journal.Notice
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out Sent, err error) {
		draft, err := drafting.Drafts(t).DraftByID(who.Box, who.Person, id)
		if errors.Is(err, store.ErrNotFound) {
			return out, &problem.Error{Type: "sent-elsewhere", Text: "This draft has been sent or deleted elsewhere, so nothing was sent now."}
		}
		if err != nil {
			return out, err
		}
		if s.Version != 0 && s.Version != draft.Version {
			return out, &problem.Error{Type: "changed-elsewhere", Text: "This draft was changed in another window, so nothing was sent. Read it once more; it is shown as it is now."}
		}
		files, err := drafting.Drafts(t).DraftFiles(id)
		if err != nil {
			return out, err
		}
		a, err := outbox.AccountOf(t, who.Box, draft.AccountID, "")
		if err != nil {
			return out, err
		}
		to, err := envelope(draft)
		if err != nil {
			return out, err
		}
		if err := fitting(t, who, draft, a, to, files); err != nil {
			return out, err
		}
		if draft.Mode.Answers() {
			q, err := talk.BeforeAnswering(t, who, draft.ConversationID, draft.Begun, s.Told, s.Sure, now)
			if err != nil {
				return out, err
			}
			out.Asks, out.Field, out.Answered = q.Text, "text", q.Answered
		}
		if !s.Sure && a.Line == nil {
			if asks, field := questions(draft, files); asks != "" {
				out.Asks, out.Field = strings.TrimSpace(out.Asks+" "+asks), field
			}
		}
		if out.Asks != "" {
			return out, nil
		}
		out.Field = ""
		if a.ID == 0 {
			return out, &problem.Error{Type: "no-account", Text: "There is no account to send it with, so the draft is kept. Add one in Setup, under Accounts."}
		}
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return out, err
		}
		out.At = now + outbox.SpanOf(p.Habits)
		if !s.At.IsZero() {
			out.At = s.At.At
		}
		l, err := d.letter(t, who, draft, a, out.At)
		if err != nil {
			return out, err
		}
		o := sending.Outgoing{BoxID: who.Box, Once: "message/" + l.MessageID, Address: to[0].Address, At: out.At, Subject: l.Subject, Text: draft.Text,
			AccountID: a.ID, DraftID: id, ConversationID: draft.ConversationID, State: writing.Waiting, To: to, Next: out.At}
		if i := slices.IndexFunc(slices.Concat(draft.To, draft.Cc, draft.Bcc), func(x mail.Address) bool { return x.Address == to[0].Address }); i >= 0 {
			o.Name = slices.Concat(draft.To, draft.Cc, draft.Bcc)[i].Name
		}
		if s.Repeat != "" {
			if o.Rule, err = repeated(s, who.Week, now); err != nil {
				return out, err
			}
			o.Again, o.Begins = s.Repeat, s.At
		}
		if o.Original, err = mime.Compose(l); err != nil {
			return out, err
		}
		t.Durably() // the user is told that it goes
		o.Bcc = draft.Bcc
		if _, err := sending.Outbox(t).Send(&o); err != nil {
			return out, err
		}
		if changes, err = d.afterSending(t, who, p, draft, s, l.MessageID, now); err != nil {
			return out, err
		}
		if who.Team != 0 && draft.ConversationID != 0 { // whoever answers hears of what comes of it
			if err := talks.Talk(t).Follow(who.Box, who.Person, []int64{draft.ConversationID}, true, now); err != nil {
				return out, err
			}
		}
		e := store.Entry{Kind: inbox.SendMail, At: now, Ref: o.ID, ConversationID: draft.ConversationID, Text: cmp.Or(draft.Subject, "without a subject"), SittingID: s.Sitting}
		if out.Decided, err = d.Journal.Commit(t, who, e, changes, func(int) string { return saySending(s, o, who.Week, now) }); err != nil {
			return out, err
		}
		if draft.BegunBy != 0 {
			if calls, err = talk.CallsFor(t, who, []int64{draft.BegunBy}, draft.ConversationID, "sent your draft “"+cmp.Or(draft.Subject, "without a subject")+"”", now); err != nil {
				return out, err
			}
		}
		o.EntryID, out.Outgoing = out.Entry, o.ID
		if err := sending.Outbox(t).PutOutgoing(&o); err != nil {
			return out, err
		}
		return out, drafting.Drafts(t).SetDraftSent(id, o.ID)
	})
	if fresh && out.Asks == "" {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Key: key})
		d.Journal.Notify(who.Box, calls)
	}
	return out, err
}

// repeated is the rule by which a message is sent again.
func repeated(s Sending, w when.Week, now when.Instant) (rule string, err error) {
	if s.At.IsZero() || s.At.WholeDay() {
		return "", problem.Invalid("at", "Nothing was sent: say at which hour it goes for the first time. The draft is kept.")
	}
	r, known := w.ReadRule(s.Repeat, now)
	switch {
	case !known:
		return "", problem.Invalid("repeat", fmt.Sprintf("Nothing was sent: Ebbe does not know “%s” as a way of repeating. Try “every monday” or “monthly”. The draft is kept.", s.Repeat))
	case r.Wrong != "":
		return "", problem.Invalid("repeat", "Nothing was sent: "+r.Wrong+" The draft is kept.")
	case r.FromDone || r.DaysOff:
		return "", problem.Invalid("repeat", "Nothing was sent: a message is repeated by the calendar alone. Leave the rest of the words out. The draft is kept.")
	}
	return r.Rule, nil
}

// envelope is to whom a draft goes, each once.
func envelope(draft drafting.Draft) (to []writing.Recipient, err error) {
	for field, list := range map[string][]mail.Address{"to": draft.To, "cc": draft.Cc, "bcc": draft.Bcc} {
		for _, a := range list {
			if parsed, err := netmail.ParseAddress(a.Address); err != nil || !strings.EqualFold(parsed.Address, a.Address) {
				return nil, problem.Invalid(field, fmt.Sprintf("“%s” is no mail address, so nothing was sent. Correct it or remove it; the draft is kept.", a.Address))
			}
		}
	}
	for _, a := range slices.Concat(draft.To, draft.Cc, draft.Bcc) {
		if !slices.ContainsFunc(to, func(r writing.Recipient) bool { return r.Address == a.Address }) {
			to = append(to, writing.Recipient{Address: a.Address, State: writing.Waiting})
		}
	}
	if len(to) == 0 {
		return nil, problem.Invalid("to", "It goes to nobody yet, so nothing was sent. Write a name or an address.")
	}
	return to, nil
}

// afterSending is what sending changes besides: the conversation leaves the
// inbox, or comes back if nobody answers; what is handed over, or begins
// something new that is waited for, becomes a follow-up.
func (d *Desk) afterSending(t store.Tx, who identity.Who, p store.Person, draft drafting.Draft, s Sending, messageID string, now when.Instant) (changes []inbox.Change, err error) {
	tracked := draft.Mode == writing.HandOver || draft.Mode != writing.HandOver && !draft.Mode.Answers() && !s.Return.IsZero()
	if s.Then != "" && s.Then != inbox.Archive && s.Then != inbox.Snooze {
		return nil, problem.Invalid("then", "Nothing was sent: Ebbe does not know what its conversation was to become. Load the page again; the draft is kept.")
	}
	if draft.ConversationID != 0 && s.Then != "" {
		state, err := store.Conversations(t).State(who.Box, who.Person, []int64{draft.ConversationID}, nil)
		if err != nil {
			return nil, err
		}
		before, ok := state.Conversations[draft.ConversationID]
		if ok && before.Place != inbox.Held && (s.Seen == "" || s.Seen == before.Place) {
			after := before.In(inbox.Archived, now)
			if s.Then == inbox.Snooze || !s.Return.IsZero() && !tracked {
				if after, err = before.Snoozed(inbox.Sleep{Until: inbox.UntilUnanswered, Return: s.Return}, now); err != nil {
					return nil, problem.Invalid("then", "Nothing was sent: "+err.Error()+".")
				}
			}
			if c := (inbox.Change{Before: &before, After: &after}); !c.Nothing() {
				changes = append(changes, c)
			}
		}
	}
	asked, err := askedAgain(t, who, draft, max(now, s.At.At))
	if changes = append(changes, asked...); err != nil || !tracked {
		return changes, err
	}
	person := mail.Address{}
	if all := slices.Concat(draft.To, draft.Cc, draft.Bcc); len(all) > 0 {
		person = all[0]
	}
	n := followups.NewFollowUp{Title: strings.TrimSpace(s.Expect), With: person, Due: s.Due, Waits: followup.Wait{Since: now, Only: true, Ask: cmp.Or(s.Return, s.Due)}}
	if n.Title == "" {
		n.Title = fmt.Sprintf("Answer from %s about “%s”", person.Short(), mail.Title(draft.Subject))
	}
	f := followup.FollowUp{Status: followup.NeedsAction, Conversation: draft.ConversationID, Message: messageID, Made: now}
	if draft.MessageID != 0 {
		m, err := store.Messages(t).MessageRow(who.Box, draft.MessageID)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
		f.Message = cmp.Or(m.MessageID, messageID)
	}
	if f, err = n.Write(f, p.FollowUp, who.Week, now); err != nil {
		return nil, err
	}
	f.UID, f.Waits.Sent = uuid.NewString(), messageID
	return append(changes, inbox.Change{FollowUpAfter: &f}), nil
}

// askedAgain are the follow-ups for whose answer those are asked again to whom a
// draft goes at an instant.
func askedAgain(t store.Tx, who identity.Who, draft drafting.Draft, at when.Instant) (changes []inbox.Change, err error) {
	if draft.ConversationID == 0 {
		return nil, nil
	}
	rows, err := store.FollowUps(t).FollowUpsOf(who.Box, []int64{draft.ConversationID})
	for _, row := range rows[draft.ConversationID] {
		before := row.Data
		after := before.Asking(slices.Concat(draft.To, draft.Cc, draft.Bcc), who.Week, at)
		if !after.Equal(before) {
			changes = append(changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		}
	}
	return changes, err
}

// saySending says what happens now.
func saySending(s Sending, o sending.Outgoing, w when.Week, now when.Instant) string {
	text := fmt.Sprintf("Goes out in %d seconds.", int((time.Duration(o.Next-now)*time.Millisecond+time.Second-1)/time.Second))
	if !s.At.IsZero() {
		text = "Goes out " + w.Say(s.At, now) + "."
		if s.Repeat != "" {
			text = "Goes out " + w.Say(s.At, now) + ", and again " + s.Repeat + "."
		}
	}
	if !s.Return.IsZero() {
		text += " Back " + w.Say(s.Return, now) + " if nobody answers."
	}
	return text
}
