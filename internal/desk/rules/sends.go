package rules

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/sending"
)

const (
	answersEach   = aWeek // how long a rule does not answer the same sender again
	forwardsADay  = 50    // of all rules of a box
	forwardedMark = "Forwarded-By-Rule"
)

// sentNow is what rules have sent in a transaction, and is not in their histories yet.
type sentNow struct {
	answered  map[string]bool // by rule and sender
	forwarded int
}

// sends does what a rule sends because of a message, and says what that was: "" where
// nothing may be sent. What goes out stands in the history, and is not taken back.
func (d *Desk) sends(t store.Tx, who identity.Who, r sorting.Rule, m ruling.Message, now *sentNow) (did inbox.Kind, err error) {
	for _, s := range r.Then {
		var sent bool
		switch s.Kind {
		case inbox.ReplyWith:
			to := fmt.Sprintf("%d %s", r.ID, m.From)
			if now.answered[to] {
				continue
			}
			sent, err = d.replies(t, who, r, s, m)
			now.answered[to] = sent
		case inbox.ForwardTo, inbox.HandOver:
			if sent, err = d.forwards(t, who, r, s, m, now.forwarded); sent {
				now.forwarded++
			}
		}
		if err != nil {
			return did, err
		}
		switch {
		case !sent:
		case s.Kind == inbox.HandOver: // the follow-up is its own line
			did = inbox.ForwardTo
		default:
			did = s.Kind
		}
	}
	return did, nil
}

// opened is a message with its bytes.
func opened(t store.Tx, id int64) (raw []byte, b mime.Body, err error) {
	if raw, err = store.Messages(t).Original(id); err == nil {
		b = mime.Read(raw)
	}
	return raw, b, err
}

// replies answers the sender of a message with a template, if they may be answered
// automatically (RFC 3834, section 2), the message names an address of the user's, and
// this rule has not answered them in the last seven days.
func (d *Desk) replies(t store.Tx, who identity.Who, r sorting.Rule, s inbox.ComboStep, m ruling.Message) (bool, error) {
	_, b, err := opened(t, m.ID)
	if err != nil {
		return false, err
	}
	own, err := intake.OwnAddresses(t, who.Box)
	if err != nil {
		return false, err
	}
	i := slices.IndexFunc(slices.Concat(b.To, b.Cc), func(a mail.Address) bool { return own[a.Address] })
	if b.AnswerTo == "" || own[b.AnswerTo] || i < 0 {
		return false, nil
	}
	now := d.Journal.Now()
	if lately, err := ruling.Rules(t).DidSince(who.Box, r.ID, inbox.ReplyWith, m.From, now-answersEach); err != nil || lately > 0 {
		return false, err
	}
	template, err := drafting.Drafts(t).Template(who.Keeper(), s.Ref)
	if err != nil {
		return false, err
	}
	loc := who.Week.Location()
	day := func(n int) string { return when.DayStart(now, loc, n).In(loc).Format("2 January") }
	text := template.Filled(map[string]string{writing.BlankName: b.From.Short(), writing.BlankSubject: mail.Title(b.Subject), writing.BlankToday: day(0), writing.BlankTomorrow: day(1), writing.BlankWeek: day(7)}).Text
	for _, blank := range writing.Blanks {
		if strings.Contains(strings.ToLower(text), "["+blank+"]") {
			return false, problem.Invalid("rule", fmt.Sprintf("Nothing was answered: the template “%s” has the blank [%s], which nobody fills.", template.Name, blank))
		}
	}
	me := slices.Concat(b.To, b.Cc)[i]
	to := mail.Address{Name: b.From.Name, Address: b.AnswerTo}
	o := sending.Outgoing{BoxID: who.Box, Once: fmt.Sprintf("rule/%d/%d", r.ID, m.ID), Address: to.Address, Name: to.Name, At: now, Text: text, Quiet: true}
	if o.Subject, o.Original, err = mime.AutoAnswer(me, to, b.Message, text, now.In(loc)); err != nil {
		return false, err
	}
	_, fresh, err := outbox.Queue(t, o, me.Address, now)
	if err != nil || !fresh {
		return false, err
	}
	return true, d.note(t, who, store.Entry{Kind: inbox.AutoAnswer, Ref: r.ID, Text: to.Short(), ConversationID: m.Conversation})
}

// forwards sends a message on, marked as a rule's, with its files. What a list sent is not
// forwarded, what a rule has forwarded is not again, and no more than so many a day.
func (d *Desk) forwards(t store.Tx, who identity.Who, r sorting.Rule, s inbox.ComboStep, m ruling.Message, before int) (bool, error) {
	if m.Kind == mail.List {
		return false, nil
	}
	raw, b, err := opened(t, m.ID)
	if err != nil {
		return false, err
	}
	for line := range bytes.Lines(mime.HeaderOf(raw)) {
		if len(line) > len(forwardedMark) && strings.EqualFold(string(line[:len(forwardedMark)]), forwardedMark) {
			return false, nil
		}
	}
	now := d.Journal.Now()
	n, err := ruling.Rules(t).AllSince(who.Box, inbox.ForwardTo, when.DayStart(now, who.Week.Location(), 0))
	if err != nil {
		return false, err
	}
	if n += before; n >= forwardsADay {
		return false, problem.Invalid("rule", fmt.Sprintf("Nothing more is forwarded today: your rules have forwarded %d messages, which is as many as may be.", n))
	}
	a, err := outbox.AccountOf(t, who.Box, 0, m.Account)
	if err != nil {
		return false, err
	}
	if a.ID == 0 {
		return false, problem.Invalid("rule", "Nothing was forwarded: there is no account to send from.")
	}
	l := mime.Letter{To: []mail.Address{{Address: s.Text}}, Subject: writing.Subject(writing.Forward, b.Subject), Below: writing.Forwarded(b.Message, who.Week.Say(when.Moment{At: b.Date}, now)), Files: b.Parts}
	o, err := outbox.Compose(who, a, l, now)
	if err != nil {
		return false, err
	}
	o.Original = slices.Concat([]byte("Auto-Submitted: auto-generated\r\n"+forwardedMark+": yes\r\n"), o.Original)
	o.Once = fmt.Sprintf("rule/%d/%d/forward", r.ID, m.ID)
	_, fresh, err := outbox.Queue(t, o, a.Address, now)
	if err != nil || !fresh {
		return false, err
	}
	return true, d.note(t, who, store.Entry{Kind: inbox.ForwardTo, Ref: r.ID, Text: s.Text, ConversationID: m.Conversation})
}

// note writes the line of the history about what a rule has sent, or told of.
func (d *Desk) note(t store.Tx, who identity.Who, e store.Entry) error {
	e.BoxID, e.PersonID, e.Actor, e.At, e.Count = who.Box, who.Person, store.ByRule, d.Journal.Now(), 1
	return store.Journal(t).Record(&e)
}
