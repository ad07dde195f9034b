// Package inbox knows where conversations are, why they are there, what a
// decision changes, and how a decision is taken back. It holds the two central
// rules of Ebbe: a conversation is in exactly one place, and whatever changes
// it is a decision with a before-image.
package inbox

import (
	"errors"
	"fmt"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
)

// Place is where a conversation is; it is in exactly one.
type Place string

// The places.
const (
	Held     Place = "held"
	Inbox    Place = "inbox"
	Snoozed  Place = "snoozed"
	Archived Place = "archived"
	Bin      Place = "bin"
	Junk     Place = "junk"
)

// Reason is why a conversation is where it is.
type Reason string

// The reasons.
const (
	Arrived Reason = "arrived" // a message came in
	Back    Reason = "back"    // its snooze ended
	Answer  Reason = "answer"  // somebody answered what the reader wrote
	Decided Reason = "decided" // the reader put it there
)

// Position is a place together with why and since when the conversation is
// there, and when it leaves by itself.
type Position struct {
	Place     Place        `json:"place"`
	Reason    Reason       `json:"reason"`
	Since     when.Instant `json:"since"`     // when it came to be here
	SnoozedAt when.Instant `json:"snoozedAt"` // when it was snoozed, if it is or has come back
	Return    when.Moment  `json:"return"`    // when it comes back, if snoozed
}

// Conversation is all that decisions change about a conversation.
type Conversation struct {
	ID int64 `json:"id"`
	Position
	Unread  bool `json:"unread"`
	Starred bool `json:"starred"`
	Looks   int  `json:"looks"` // how often it was opened since it came here, without a decision
}

// Kind names what was decided.
type Kind string

// The kinds of decisions and of other entries of the journal.
const (
	ToBin        Kind = "bin"
	Archive      Kind = "archive"
	ToInbox      Kind = "inbox" // back among the undecided, from anywhere
	Snooze       Kind = "snooze"
	Star         Kind = "star"
	Unstar       Kind = "unstar"
	MarkUnread   Kind = "unread"
	Look         Kind = "look"
	MakeFollowUp Kind = "follow-up"
	ChangeFollow Kind = "change"
	FinishFollow Kind = "finish"
	ReopenFollow Kind = "reopen"
	DropFollow   Kind = "drop"
	SeenReminder Kind = "seen" // the card of a reminder was put away
	Return       Kind = "return"
	Remind       Kind = "remind"
	Arrive       Kind = "arrive"
	Import       Kind = "import"
	TakeBack     Kind = "take-back"
	Again        Kind = "again"
)

// Undoable says that entries of this kind are steps that a person takes back.
func (k Kind) Undoable() bool {
	switch k {
	case ToBin, Archive, ToInbox, Snooze, Star, Unstar, MarkUnread, MakeFollowUp, ChangeFollow, FinishFollow, ReopenFollow, DropFollow:
		return true
	}
	return false
}

// Change is one conversation or one follow-up before and after a decision.
// Exactly one of the pairs is used; a follow-up that did not exist before, or
// does not afterwards, is nil there.
type Change struct {
	Before         *Conversation      `json:"before,omitempty"`
	After          *Conversation      `json:"after,omitempty"`
	FollowUpBefore *followup.FollowUp `json:"followUpBefore,omitempty"`
	FollowUpAfter  *followup.FollowUp `json:"followUpAfter,omitempty"`
}

// Delta is by how much the change moves the number left to decide.
func (c Change) Delta() int {
	count := func(c *Conversation) int {
		if c != nil && c.Place == Inbox {
			return 1
		}
		return 0
	}
	return count(c.After) - count(c.Before)
}

// Nothing says that the change leaves everything as it was.
func (c Change) Nothing() bool {
	return same(c.Before, c.After) && same(c.FollowUpBefore, c.FollowUpAfter)
}

func same[T comparable](a, b *T) bool {
	return a == nil && b == nil || a != nil && b != nil && *a == *b
}

// Decision is what a person decides about one conversation.
type Decision struct {
	Kind   Kind
	Return when.Moment // for Snooze
}

// ErrPast is returned for a snooze whose time is not ahead.
var ErrPast = errors.New("that time has passed: choose one that is still ahead")

// Decide says what the decision d, taken at now, changes about c. An unknown
// kind and a snooze into the past are errors; a decision that changes nothing
// gives c back.
func Decide(c Conversation, d Decision, now when.Instant) (Conversation, error) {
	put := func(p Position) {
		if c.Place != p.Place || p.Place == Snoozed {
			p.Reason, p.Since = Decided, now
			c.Position, c.Looks = p, 0
		}
	}
	switch d.Kind {
	case ToBin:
		put(Position{Place: Bin})
		c.Unread = false
	case Archive:
		put(Position{Place: Archived})
		c.Unread = false
	case ToInbox:
		put(Position{Place: Inbox})
	case Snooze:
		if d.Return.At <= now {
			return c, ErrPast
		}
		put(Position{Place: Snoozed, SnoozedAt: now, Return: d.Return})
		c.Unread = false
	case Star:
		c.Starred = true
	case Unstar:
		c.Starred = false
	case MarkUnread:
		c.Unread = true
	case Look:
		c.Unread = false
		if c.Place == Inbox {
			c.Looks++
		}
	default:
		return c, fmt.Errorf("%q is not a decision about a conversation", d.Kind)
	}
	return c, nil
}

// ComeBack is what the clock does at now to a snoozed conversation whose time
// has come: on top of the inbox, unread, still knowing since when it was
// snoozed. It counts as here since the instant since, so that what comes back
// late keeps its order. What is not due back is returned unchanged.
func ComeBack(c Conversation, since, now when.Instant) Conversation {
	if c.Place != Snoozed || c.Return.IsZero() || c.Return.At > now {
		return c
	}
	c.Position = Position{Place: Inbox, Reason: Back, Since: since, SnoozedAt: c.SnoozedAt}
	c.Unread, c.Looks = true, 0
	return c
}

// Arrival is what is known of a message that joins a conversation.
type Arrival struct {
	At     when.Instant // when it came in
	Own    bool         // the reader wrote it
	Answer bool         // the reader wrote the message before it
	Unread bool
	Place  Place // where it goes; Inbox unless it is imported elsewhere
}

// Receive is what the message a does to c. A new conversation is given as the
// zero Position. The reader's own messages move nothing; a message that came
// in after the last decision brings a snoozed, archived or binned conversation
// to the inbox. An older one, found by an import, joins it where it is.
func Receive(c Conversation, a Arrival) Conversation {
	fresh := c.Place == ""
	reason := Arrived
	if a.Answer {
		reason = Answer
	}
	switch {
	case fresh && a.Own:
		c.Position = Position{Place: Archived, Reason: Arrived, Since: a.At}
		return c
	case a.Own || c.Place == Junk:
		return c
	case fresh || a.Place == Inbox && a.At >= c.Since:
		c.Position, c.Looks = Position{Place: a.Place, Reason: reason, Since: a.At}, 0
		c.Unread = c.Unread || a.Unread
	}
	return c
}

// kept gives back what before said, unless something since has changed it.
func kept[T comparable](now, before, after T) T {
	if now == after {
		return before
	}
	return now
}

// Revert is the change that takes back done, given how its conversation or
// follow-up is now (nil if the follow-up no longer exists). What something
// else has changed since stays as it is; so nothing newer is ever lost.
func Revert(done Change, now Change) Change {
	out := Change{Before: now.After, After: now.After, FollowUpBefore: now.FollowUpAfter, FollowUpAfter: now.FollowUpAfter}
	if done.After != nil && now.After != nil && done.Before != nil {
		c := *now.After
		c.Position = kept(c.Position, done.Before.Position, done.After.Position)
		c.Unread = kept(c.Unread, done.Before.Unread, done.After.Unread)
		c.Starred = kept(c.Starred, done.Before.Starred, done.After.Starred)
		c.Looks = kept(c.Looks, done.Before.Looks, done.After.Looks)
		out.After = &c
	}
	if done.FollowUpBefore == nil && done.FollowUpAfter == nil {
		return out
	}
	switch f := now.FollowUpAfter; {
	case done.FollowUpBefore == nil: // it was made: it goes
		out.FollowUpAfter = nil
	case done.FollowUpAfter == nil || f == nil: // it was dropped: it comes back
		b := *done.FollowUpBefore
		out.FollowUpAfter = &b
	default:
		g, b, a := *f, done.FollowUpBefore, done.FollowUpAfter
		g.Title = kept(g.Title, b.Title, a.Title)
		g.Status = kept(g.Status, b.Status, a.Status)
		g.Priority = kept(g.Priority, b.Priority, a.Priority)
		g.Due = kept(g.Due, b.Due, a.Due)
		g.Remind = kept(g.Remind, b.Remind, a.Remind)
		g.Card = kept(g.Card, b.Card, a.Card)
		g.Finished = kept(g.Finished, b.Finished, a.Finished)
		out.FollowUpAfter = &g
	}
	return out
}

// Section is a group of the queue: those that are in the inbox for the same
// reason.
type Section string

// The sections, in the order in which the queue shows them.
const (
	BackToday    Section = "back-today"
	AnswersToday Section = "answers"
	ArrivedToday Section = "arrived-today"
	Yesterday    Section = "yesterday" // left over from yesterday
	Older        Section = "older"     // left over from before
)

// Sections lists the sections in the order of the queue.
var Sections = []Section{BackToday, AnswersToday, ArrivedToday, Yesterday, Older}

// Span is what places a conversation of the inbox into a section: its reason
// (any, if empty) and the instants [From, To) into which its Since falls.
type Span struct {
	Section  Section
	Reasons  []Reason
	From, To when.Instant
}

const endOfTime = when.Instant(1 << 60)

// Spans cuts the inbox into its sections, given when today and yesterday began.
func Spans(today, yesterday when.Instant) []Span {
	return []Span{
		{BackToday, []Reason{Back}, today, endOfTime},
		{AnswersToday, []Reason{Answer}, today, endOfTime},
		{ArrivedToday, []Reason{Arrived, Decided}, today, endOfTime},
		{Yesterday, nil, yesterday, today},
		{Older, nil, 0, yesterday},
	}
}
