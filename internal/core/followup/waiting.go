package followup

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Wait is that somebody's answer is awaited.
type Wait struct {
	Since when.Instant `json:"since,omitempty"` // 0: nobody is waited for
	Ask   when.Moment  `json:"ask"`             // when to ask again
	// Rhythm is how it is asked again after Ask, which has come Asked times by now; nil: once.
	Rhythm *when.Rhythm `json:"rhythm,omitempty"`
	Asked  int          `json:"asked,omitempty"`
	Only   bool         `json:"only,omitempty"`  // there is nothing else to do: an answer finishes it
	Ended  when.Instant `json:"ended,omitempty"` // when the answer came that ended the last waiting
	Was    when.Instant `json:"was,omitempty"`   // since when that had been waited for, so that it can be gone on with
	Sent   string       `json:"sent,omitempty"`  // Message-ID of what was sent to ask for it, if that is known
	// Also are others who are waited for besides FollowUp.With, at most MaxAlso: an answer
	// of one of them ends it, or with All one of each, of whom Have have answered.
	Also   []mail.Address `json:"also,omitempty"`
	All    bool           `json:"all,omitempty"`
	Have   []mail.Address `json:"have,omitempty"`
	Offers []Candidate    `json:"offers,omitempty"` // messages that may be the answer, the oldest first, at most MaxOffers
}

// MaxAlso is how many people are waited for at once besides the first.
const MaxAlso = 9

// MaxOffers is how many messages are offered at once as the answer to one waiting;
// of more the newest are.
const MaxOffers = 5

// Candidate is a message that may be the answer somebody waits for. They say whether it is.
type Candidate struct {
	Message      int64        `json:"message"`
	Conversation int64        `json:"conversation"`
	From         mail.Address `json:"from"`
	At           when.Instant `json:"at"` // when it came into view
}

// Came is a message of somebody else that has come into view, no machine's.
type Came struct {
	Message int64
	From    mail.Address
	In      []int64      // its conversation, and those of the messages it refers to (RFC 5322, 3.6.4)
	Written when.Instant // its date, as its sender has it
}

// Bearing is what a message is to a waiting.
type Bearing int

// No message answers what it has nothing to do with; one may answer that is
// from the one waited for or belongs to what is waited for, and one that is
// and does answers.
const (
	NoAnswer Bearing = iota
	MayAnswer
	Answers
)

// clocksDiffer is by how much the clock of a sender may be behind.
const clocksDiffer = 10 * 60_000

// Bearing is what m is to the waiting of f: an answer if it is from the one
// waited for, by any of their addresses, in the conversation of f or referring to
// one of its messages. Anything else of theirs, and what others write in that
// conversation, may be one. By its date it may be from before: then it is one at
// most if their clock is wrong. about are conversations of messages of f that are
// not in that of f, such as that of what was sent to hand it over.
func (f FollowUp) Bearing(m Came, about ...int64) Bearing {
	if !f.Waiting() {
		return NoAnswer
	}
	here := slices.ContainsFunc(m.In, func(id int64) bool { return id != 0 && (id == f.Conversation || slices.Contains(about, id)) })
	theirs := f.awaits(m.From)
	before := m.Written != 0 && m.Written+clocksDiffer < f.Waits.Since
	switch {
	case here && theirs && !before:
		return Answers
	case here && theirs, (here || theirs) && !before:
		return MayAnswer
	}
	return NoAnswer
}

// awaits says that f is about the one who writes from that address.
func (f FollowUp) awaits(from mail.Address) bool {
	return slices.ContainsFunc(f.Awaited(), func(a mail.Address) bool { return same(a, from) })
}

// Awaited are all whose answers are waited for.
func (f FollowUp) Awaited() []mail.Address {
	return append([]mail.Address{f.With}, f.Waits.Also...)
}

// Missing are those of whom an answer is waited for and has not come: all, unless one of
// each is wanted.
func (f FollowUp) Missing() []mail.Address {
	return slices.DeleteFunc(f.Awaited(), func(a mail.Address) bool {
		return slices.ContainsFunc(f.Waits.Have, func(h mail.Address) bool { return same(a, h) })
	})
}

// same says that somebody writes from that address: it is theirs, or bears their full
// name, as another address of theirs does, or one that they share.
func same(a, from mail.Address) bool {
	if a.Address != "" && strings.EqualFold(a.Address, from.Address) {
		return true
	}
	name := FullName(a.Name)
	return name != "" && name == FullName(from.Name)
}

// FullName is a name of two words or more as it can be compared, in lower case;
// empty for a first name alone, which is anybody's. What a list adds to the name
// of who writes through it is left out.
func FullName(name string) string {
	name = strings.ToLower(strings.Join(strings.Fields(name), " "))
	name, _, _ = strings.Cut(name, " via ")
	if !strings.Contains(name, " ") {
		return ""
	}
	return name
}

// Offer is f with one more message that may be the answer.
func (f FollowUp) Offer(o Candidate) FollowUp {
	if slices.ContainsFunc(f.Waits.Offers, func(x Candidate) bool { return x.Message == o.Message }) {
		return f
	}
	all := append(slices.Clone(f.Waits.Offers), o)
	f.Waits.Offers = all[max(0, len(all)-MaxOffers):]
	return f
}

// Refuse is f after somebody has said that a message is not the answer; with it
// goes what else of the same conversation was offered.
func (f FollowUp) Refuse(message int64) FollowUp {
	i := slices.IndexFunc(f.Waits.Offers, func(o Candidate) bool { return o.Message == message })
	if i < 0 {
		return f
	}
	of := f.Waits.Offers[i].Conversation
	f.Waits.Offers = slices.DeleteFunc(slices.Clone(f.Waits.Offers), func(o Candidate) bool { return o.Conversation == of })
	if len(f.Waits.Offers) == 0 {
		f.Waits.Offers = nil
	}
	return f
}

// WaitFor is f waiting, since then, for somebody, to be asked again at ask if
// that is set.
func (s Settings) WaitFor(f FollowUp, since when.Instant, ask when.Moment) FollowUp {
	was := f.Waits
	f = s.Put(f, s.first(Others).ID, since)
	f.Waits = Wait{Since: since, Ask: ask, Only: was.Only, Sent: was.Sent, Also: was.Also, All: was.All, Have: was.Have}
	if !ask.IsZero() || was.InVain() { // without a day there is no rhythm, but one that has run out
		f.Waits.Rhythm, f.Waits.Asked = was.Rhythm, was.Asked
	}
	return f
}

// MaxAsked is how often it is counted that somebody is asked again.
const MaxAsked = 999

// timeToAsk is a waiting after its day to ask again has come at now: by its rhythm it
// comes again, and once after the last time, to say that nobody has answered.
func (x Wait) timeToAsk(w when.Week, now when.Instant) Wait {
	was := x.Ask
	x.Ask = when.Moment{}
	if r := x.Rhythm; r != nil {
		x.Asked = min(x.Asked+1, MaxAsked)
		if r.Times == 0 || x.Asked <= r.Times {
			x.Ask = r.After(was, w, now)
		}
	}
	return x
}

// InVain says that it has been time to ask again as often as was wanted, and once more:
// nobody has answered.
func (x Wait) InVain() bool {
	return x.Since != 0 && x.Rhythm != nil && x.Rhythm.Times > 0 && x.Asked > x.Rhythm.Times
}

// SayAsking says how it is asked again for the answer to f after its day to ask, and how
// far that is: "every 3 working days, 1 of 2"; or that nobody has answered. It is empty
// without a rhythm.
func SayAsking(f FollowUp) string {
	r, x := f.Waits.Rhythm, f.Waits
	switch {
	case r == nil || !f.Waiting():
		return ""
	case x.InVain():
		return "no answer after " + count(r.Times, "time") + " to ask again"
	case r.Times > 0:
		return fmt.Sprintf("%s, %d of %d", r.Distance(), min(x.Asked+1, r.Times), r.Times)
	}
	return r.Distance()
}

// Asking is f after somebody has written to these at now, in its conversation: if one of
// them is waited for by a rhythm they have been asked again, so that its card goes and
// the rhythm counts from now.
func (f FollowUp) Asking(to []mail.Address, w when.Week, now when.Instant) FollowUp {
	if !f.Waiting() || f.Waits.Rhythm == nil || f.Waits.Ask.IsZero() || !slices.ContainsFunc(to, f.awaits) {
		return f
	}
	f.Card, f.Waits.Ask = false, f.Waits.Rhythm.After(f.Waits.Ask, w, now)
	return f
}

// AnsweredBy is f when somebody has answered at now: waiting ends, unless they are one of
// several of whom each has to answer. Of anybody else an answer is for all of them.
func (s Settings) AnsweredBy(f FollowUp, from mail.Address, now when.Instant) FollowUp {
	if f.Waiting() && f.Waits.All && len(f.Waits.Also) > 0 && f.awaits(from) {
		if slices.ContainsFunc(f.Missing(), func(a mail.Address) bool { return same(a, from) }) {
			f.Waits.Have = append(slices.Clone(f.Waits.Have), from)
		}
		if len(f.Missing()) > 0 {
			return f
		}
	}
	return s.Answered(f, now)
}

// Answered is f when the answer has come at now: waiting ends. What was nothing
// but waiting is finished.
func (s Settings) Answered(f FollowUp, now when.Instant) FollowUp {
	if !f.Waiting() {
		return f
	}
	was := f.Waits
	if was.Only {
		f = f.Finish(now)
	} else {
		f = s.Put(f, s.first(Mine).ID, now)
	}
	f.Waits = Wait{Ended: now, Was: was.Since, Only: was.Only, Sent: was.Sent, Also: was.Also, All: was.All, Rhythm: was.Rhythm, Asked: was.Asked}
	return f
}

// KeepWaiting is f after somebody has said that what has come was no answer: it
// waits as it did before, to be asked again at ask if that is set.
func (s Settings) KeepWaiting(f FollowUp, ask when.Moment) FollowUp {
	if f.Waiting() || f.Waits.Ended == 0 {
		return f
	}
	f.Card = false
	return s.WaitFor(f, cmp.Or(f.Waits.Was, f.Waits.Ended), ask)
}

// SayAwaited names who is waited for: "Jonas", "Jonas or Mirela", "both Jonas and Mirela".
func SayAwaited(f FollowUp) string {
	var names []string
	for _, a := range f.Awaited() {
		names = append(names, a.Short())
	}
	n := len(names)
	switch {
	case n == 1:
		return names[0]
	case !f.Waits.All:
		return strings.Join(names[:n-1], ", ") + " or " + names[n-1]
	case n == 2:
		return "both " + names[0] + " and " + names[1]
	}
	return "all of " + strings.Join(names[:n-1], ", ") + " and " + names[n-1]
}
