// Package inbox knows where conversations are, why they are there, what a
// decision changes, and how a decision is taken back. It holds the two central
// rules of Ebbe: a conversation is in exactly one place, and whatever changes
// it is a decision with a before-image.
package inbox

import (
	"reflect"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
)

// The places of a conversation.
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

	WithRound Reason = "round"   // a round brought it
	Through   Reason = "through" // an entry lets it through whatever the plan says
	LetIn     Reason = "let-in"  // the reader looked early and let it in

	Unanswered Reason = "unanswered" // nobody had answered by the time named
	AtSite     Reason = "site"       // the reader is at the place it waited for
	Bounced    Reason = "bounced"    // a message in it could not be delivered
	Monthly    Reason = "someday"    // the day on which what waits for someday is looked through
)

// CameIn are the reasons of what lies in the inbox only because it came in.
var CameIn = []Reason{Arrived, WithRound, LetIn}

// Until is what a snoozed conversation waits for besides its time.
type Until string

// What a snooze waits for.
const (
	UntilTime       Until = ""        // nothing but its time
	UntilAnswer     Until = "answer"  // that somebody answers; it has no time
	UntilUnanswered Until = "unless"  // its time, if nobody has answered by then
	UntilSite       Until = "site"    // that the reader is at a place; it has no time
	UntilArrival    Until = "arrival" // that what it tells of has arrived, or its time
	UntilSomeday    Until = "someday" // the day of the month on which such things are looked through
)

// Position is a place together with why and since when the conversation is
// there, and when it leaves by itself.
type Position struct {
	Place     Place        `json:"place"`
	Reason    Reason       `json:"reason"`
	Since     when.Instant `json:"since"`             // when it came to be here
	SnoozedAt when.Instant `json:"snoozedAt"`         // when it was snoozed, if it is or has come back
	Snoozes   int          `json:"snoozes,omitempty"` // how often it was, with no decision and no news between
	Return    when.Moment  `json:"return"`            // when it comes back, if it is snoozed until a time
	Until     Until        `json:"until"`             // what else it waits for, if snoozed
	Site      int64        `json:"site"`              // the place of the reader it waits or waited for, or 0
	Round     when.Instant `json:"round,omitempty"`   // the round that brought it, if it is here because of one
}

// Conversation is all that decisions change about a conversation.
type Conversation struct {
	ID int64 `json:"id"`
	Position
	Unread  bool `json:"unread"`
	Starred bool `json:"starred"`
	Looks   int  `json:"looks"` // how often it was opened since it came here, without a decision

	Title  string `json:"title,omitempty"`  // what the reader calls it; empty: its subject
	Note   string `json:"note,omitempty"`   // shown whenever it is opened
	Labels Labels `json:"labels,omitempty"` // the labels on it
	Said   Kind   `json:"said,omitempty"`   // what the reader has said of its importance: nothing, Important or Unimportant
	Silent bool   `json:"silent,omitempty"` // what comes in it goes past the inbox, until it is to the reader
	Stream string `json:"stream,omitempty"` // the stream it is in (delivery.Stream), where something was said of it; else that of its kind
	Kept   bool   `json:"kept,omitempty"`   // the reader has put it there: what comes in it comes in that stream
}

// Kind names what was decided. What has to be known of a kind stands in the room
// that registers it with the journal.
type Kind string

// The kinds of decisions and of other entries of the journal.
const (
	ToBin        Kind = "bin"
	Archive      Kind = "archive"
	ToJunk       Kind = "junk"
	ToInbox      Kind = "inbox" // back among the undecided, from anywhere
	Snooze       Kind = "snooze"
	Star         Kind = "star"
	Unstar       Kind = "unstar"
	MarkUnread   Kind = "unread"
	MarkRead     Kind = "read"
	ToStream     Kind = "stream"      // it belongs to another stream
	Teach        Kind = "teach"       // and so does what is like it, from now on
	PassThrough  Kind = "through"     // what a rule does: it comes in whatever the plan says
	ReplyWith    Kind = "reply-with"  // what a rule does: its sender is answered with a template
	ForwardTo    Kind = "forward-to"  // what a rule or a combo does: it is sent on; in the history: it was
	HandOver     Kind = "hand-over"   // and the answer is waited for
	StartMessage Kind = "start"       // what a combo does: a message is begun
	TellOf       Kind = "tell"        // what a rule does: a notification says that it has come; in the history: it did
	Silence      Kind = "silence"     // what comes in it goes past the inbox
	Unsilence    Kind = "hear"        // and does no more
	Important    Kind = "important"   // the reader said that it is, whatever was weighed
	Unimportant  Kind = "unimportant" // or that it is not
	Look         Kind = "look"
	Leave        Kind = "leave" // looked at in a sitting and left undecided, on purpose
	Rename       Kind = "rename"
	WriteNote    Kind = "note"
	Comment      Kind = "comment"    // somebody of a team said something to the others
	Share        Kind = "share"      // a conversation of one's own is seen by a team from then on
	Unshare      Kind = "unshare"    // and is not any more
	SharedIn     Kind = "shared-in"  // in the team's box: somebody shared it
	HandDraft    Kind = "hand-draft" // a draft went to another of the team
	Label        Kind = "label"
	DropLabel    Kind = "drop-label" // a label and all its uses went
	ChangeLabel  Kind = "change-label"
	Combo        Kind = "combo"
	Here         Kind = "here"       // the reader is at a place
	DropSite     Kind = "drop-place" // a place went; what waited there is back
	MakeSite     Kind = "make-place"
	RenameSite   Kind = "rename-place"
	Choose       Kind = "choose"      // something was set up otherwise
	Rest         Kind = "rest"        // the rest is done: archived, but the starred
	FreshStart   Kind = "fresh-start" // archived, all before a date
	MakeFollowUp Kind = "follow-up"
	ChangeFollow Kind = "change"
	FinishFollow Kind = "finish"
	ReopenFollow Kind = "reopen"
	DropFollow   Kind = "drop"
	SeenReminder Kind = "seen"         // the card of a reminder was put away
	PutOff       Kind = "put-off"      // a follow-up was moved to another day
	PutInStage   Kind = "stage"        // a follow-up was put into a stage
	WaitFor      Kind = "wait"         // somebody's answer is awaited
	CloseDay     Kind = "close-day"    // what was left of the day was put off or dropped; on the agenda: it is time to
	WaitEnded    Kind = "wait-ended"   // the answer that was waited for has come
	AcceptAnswer Kind = "is-answer"    // a message that was offered is the answer
	RefuseAnswer Kind = "no-answer"    // it is not
	KeepWaiting  Kind = "keep-waiting" // what has come was no answer
	MakeEvent    Kind = "event"        // an event was put into the calendar
	ChangeEvent  Kind = "event-change"
	DropEvent    Kind = "event-drop"
	AnswerGuest  Kind = "invitation" // an invitation was answered
	RemindEvent  Kind = "remind-event"
	WriteLetter  Kind = "letter"      // on the agenda: what concerns somebody in teams is to come as one message
	TakeIn       Kind = "calendar-in" // a calendar file was read
	Return       Kind = "return"
	Remind       Kind = "remind"
	Arrive       Kind = "arrive"
	Deliver      Kind = "deliver"     // what was held came in at its time
	LetOneIn     Kind = "let-in"      // the reader looked for one thing and let it in
	LetAllIn     Kind = "let-all-in"  // the reader let all that was held in before its time
	Peek         Kind = "peek"        // the reader searched what is held
	HoldMail     Kind = "hold"        // held by hand
	OpenMail     Kind = "open"        // opened by hand
	EndHand      Kind = "end-hand"    // what was done by hand ended; the plan decides again
	ChangePlan   Kind = "plan"        // a plan was put in force, changed or ended
	GiveReceipt  Kind = "receipt"     // a sender was told that their message was opened
	LeaveList    Kind = "leave-list"  // the reader left a list, or could not
	AutoAnswer   Kind = "auto-answer" // a sender was told that mail is held
	Import       Kind = "import"
	SendMail     Kind = "send"          // a message is to go out
	Undelivered  Kind = "undelivered"   // a message could not be brought to whom it was for
	Join         Kind = "join"          // two conversations became one
	Part         Kind = "part"          // some messages of a conversation became one of their own
	FollowServer Kind = "elsewhere"     // what another program did to the mailbox was followed
	PutBack      Kind = "put-back"      // what had vanished from a server was laid there again
	Empty        Kind = "empty"         // what had lain in the bin or junk long enough was removed
	DropRestored Kind = "drop-restored" // what waited when a backup was made, and was past when Ebbe was restored from it, is not done any more
	ByRule       Kind = "rule"          // a rule did something with a message that came in
	NeverAgain   Kind = "never"         // a sender or list was put away for good
	ChangeRule   Kind = "change-rule"   // a rule was made, changed or deleted
	JunkFound    Kind = "junk-found"    // the junk test put it into junk
	NotJunk      Kind = "not-junk"      // it is none: back among the undecided
	AllJunk      Kind = "all-junk"      // what lay in junk was looked through: it is, and goes to the bin
	Block        Kind = "block"         // a sender or a domain was blocked
	CodeOver     Kind = "code-over"     // what brought nothing but a code was binned an hour later
	Give         Kind = "give"          // it was taken, given to somebody of the team, or given back
	ChangeTeam   Kind = "team"          // who is in a team, as what, or what it is called
	TakeBack     Kind = "take-back"
	Again        Kind = "again"
)

// Change is one conversation, follow-up or event before and after a decision.
// Exactly one of the pairs is used; what did not exist before, or does not
// afterwards, is nil there. A conversation comes and goes with a regrouping.
type Change struct {
	Regroup        *Regrouping        `json:"regroup,omitempty"` // messages that changed their conversation with this
	Before         *Conversation      `json:"before,omitempty"`
	After          *Conversation      `json:"after,omitempty"`
	FollowUpBefore *followup.FollowUp `json:"followUpBefore,omitempty"`
	FollowUpAfter  *followup.FollowUp `json:"followUpAfter,omitempty"`
	EventBefore    *calendar.Event    `json:"eventBefore,omitempty"`
	EventAfter     *calendar.Event    `json:"eventAfter,omitempty"`
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

// Conversation is the one the change is about, its own or that of its follow-up
// or event; 0 if that is about no mail.
func (c Change) Conversation() int64 {
	switch {
	case c.After != nil:
		return c.After.ID
	case c.Before != nil:
		return c.Before.ID
	case c.FollowUpAfter != nil:
		return c.FollowUpAfter.Conversation
	case c.FollowUpBefore != nil:
		return c.FollowUpBefore.Conversation
	case c.EventAfter != nil:
		return c.EventAfter.Conversation
	case c.EventBefore != nil:
		return c.EventBefore.Conversation
	}
	return 0
}

// Nothing says that the change leaves everything as it was.
func (c Change) Nothing() bool {
	return c.Regroup == nil && same(c.Before, c.After) && alike(c.FollowUpBefore, c.FollowUpAfter) && alike(c.EventBefore, c.EventAfter)
}

func same[T comparable](a, b *T) bool {
	return a == nil && b == nil || a != nil && b != nil && *a == *b
}

// alike is same for what has lists in it.
func alike[T interface{ Equal(T) bool }](a, b *T) bool {
	return a == nil && b == nil || a != nil && b != nil && (*a).Equal(*b)
}

// back puts c on top of the inbox, unread, still knowing since when it was
// snoozed.
func back(c Conversation, why Reason, since when.Instant) Conversation {
	c.Position = Position{Place: Inbox, Reason: why, Since: since, SnoozedAt: c.SnoozedAt, Snoozes: c.Snoozes, Site: c.Site}
	c.Unread, c.Looks = true, 0
	return c
}

// ComeBack is what the clock does at now to a snoozed conversation whose time
// has come. It counts as here since the instant since, so that what comes back
// late keeps its order. While mail is held and the reader wants what comes back
// to wait for the next delivery, it is held with it. What is not due back is
// returned unchanged.
func ComeBack(c Conversation, since, now when.Instant, held bool) Conversation {
	if c.Place != Snoozed || c.Return.IsZero() || c.Return.At > now {
		return c
	}
	why := Back
	switch c.Until {
	case UntilUnanswered:
		why = Unanswered
	case UntilSomeday:
		why = Monthly
	}
	c = back(c, why, since)
	if held {
		c.Place = Held
	}
	return c
}

// BeAt is what it does to a conversation that the reader is at the place site
// at now. What does not wait for that place is returned unchanged.
func BeAt(c Conversation, site int64, now when.Instant) Conversation {
	if c.Place != Snoozed || c.Until != UntilSite || c.Site != site {
		return c
	}
	return back(c, AtSite, now)
}

// Arrival is what is known of a message that joins a conversation.
type Arrival struct {
	At     when.Instant // when it came in
	Own    bool         // the reader wrote it
	Answer bool         // the reader wrote the message before it
	Unread bool
	Auto   bool  // a machine wrote it (RFC 3834): it answers nothing
	Bounce bool  // it says that a message of this conversation was not delivered
	ToMe   bool  // it is to the reader alone, or calls them by their name
	Along  bool  // it is seen to in another box, and is only to be seen here
	Asleep bool  // the reader wants new mail to leave a snoozed conversation where it is
	Place  Place // where it goes; Inbox unless it is imported elsewhere

	Held  bool         // it does not come in yet
	Why   Reason       // why it comes in: Arrived, WithRound, Through or LetIn
	Round when.Instant // the round that brings it, if one does
}

// Receive is what the message a does to c. A new conversation is given as the
// zero Position. The reader's own messages move nothing; a message that came
// in after the last decision brings an archived or binned conversation to the
// inbox, and a snoozed one unless the reader wants it to sleep on. A
// conversation that waits for an answer comes back for an answer, whatever is
// wanted otherwise, and for nothing a machine writes; but what says that a
// message was not delivered brings its conversation back at once. An older message, found
// by an import, joins its conversation where it is. A message that is held
// moves only what is new, or held already, and shows nowhere. A conversation that is
// silenced stays where it is, until something in it is to the reader or answers them:
// that ends the silence. What is seen to in another box moves only what waits for an answer.
func Receive(c Conversation, a Arrival) Conversation {
	fresh := c.Place == ""
	in := Position{Place: Inbox, Reason: a.Why, Since: a.At, Round: a.Round}
	if in.Reason == "" {
		in.Reason = Arrived
	}
	if a.Answer && !a.Auto {
		in.Reason, in.Round = Answer, 0
	}
	if !a.Own && (a.ToMe || a.Answer && !a.Auto || a.Bounce) {
		c.Silent = false
	}
	switch {
	case c.Silent && !a.Own && !a.Held && c.Place != Held && !fresh:
	case a.Along && !a.Own && !fresh && !waitsForAnswer(c):
		c.Unread = c.Unread || c.Place == Inbox && a.Unread
	case a.Bounce && !fresh && !a.Own && c.Place != Junk && a.Place == Inbox:
		c.Position, c.Unread, c.Looks = Position{Place: Inbox, Reason: Bounced, Since: a.At}, true, 0
	case a.Held && !a.Own:
		if fresh {
			in.Place = Held
			c.Position = in
		}
		if c.Place == Held {
			c.Unread = c.Unread || a.Unread
		}
		if c.Place == Held && in.Reason == Answer {
			c.Reason = Answer
		}
	case fresh && a.Own:
		c.Position = Position{Place: Archived, Reason: Arrived, Since: a.At}
	case a.Own || c.Place == Junk:
	case fresh:
		in.Place = a.Place
		c.Position, c.Unread = in, a.Unread
	case (a.Place != Inbox || a.At < c.Since) && c.Place != Held:
	case waitsForAnswer(c):
		c.Unread = c.Unread || a.Unread
		if !a.Auto {
			c.Position, c.Looks = Position{Place: Inbox, Reason: Answer, Since: a.At}, 0
		}
	case c.Place == Snoozed && a.Asleep:
		c.Unread = c.Unread || a.Unread
	default:
		if c.Place == Held && c.Reason != Arrived { // it came back, or answers, and was held
			in.Reason, in.Round, in.SnoozedAt, in.Snoozes, in.Site = c.Reason, 0, c.SnoozedAt, c.Snoozes, c.Site
		}
		c.Position, c.Looks = in, 0
		c.Unread = c.Unread || a.Unread
	}
	return c
}

// waitsForAnswer says that a conversation comes back with an answer.
func waitsForAnswer(c Conversation) bool {
	return c.Place == Snoozed && (c.Until == UntilAnswer || c.Until == UntilUnanswered)
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
		if n := done.After.Snoozes; n > done.Before.Snoozes && c.Position != done.After.Position && c.Snoozes == n {
			c.Snoozes = done.Before.Snoozes // it has come back since, and stays; what was taken back was no snooze
		}
		c.Position = kept(c.Position, done.Before.Position, done.After.Position)
		c.Unread = kept(c.Unread, done.Before.Unread, done.After.Unread)
		c.Starred = kept(c.Starred, done.Before.Starred, done.After.Starred)
		c.Looks = kept(c.Looks, done.Before.Looks, done.After.Looks)
		c.Title = kept(c.Title, done.Before.Title, done.After.Title)
		c.Note = kept(c.Note, done.Before.Note, done.After.Note)
		c.Said = kept(c.Said, done.Before.Said, done.After.Said)
		c.Silent = kept(c.Silent, done.Before.Silent, done.After.Silent)
		c.Stream = kept(c.Stream, done.Before.Stream, done.After.Stream)
		c.Kept = kept(c.Kept, done.Before.Kept, done.After.Kept)
		c.Labels = c.Labels.Without(done.After.Labels.Minus(done.Before.Labels)...).With(done.Before.Labels.Minus(done.After.Labels)...)
		out.After = &c
	}
	if done.Regroup != nil {
		r := done.Regroup.Reversed()
		out.Regroup = &r
		switch {
		case done.After == nil: // it had become a part of another: it is itself again
			out.Before, out.After = nil, done.Before
		case done.Before == nil: // it had begun with this: it is a part again
			out.After = nil
		}
	}
	out.FollowUpAfter = reverted(done.FollowUpBefore, done.FollowUpAfter, now.FollowUpAfter)
	out.EventBefore = now.EventAfter
	out.EventAfter = reverted(done.EventBefore, done.EventAfter, now.EventAfter)
	return out
}

// reverted is how something is when what led from before to after is taken
// back, given how it is now; nil stands for "does not exist".
func reverted[T any](before, after, now *T) *T {
	switch {
	case before == nil && after == nil:
		return now
	case before == nil: // it was made: it goes
		return nil
	case after == nil: // it was taken away: it comes back
		b := *before
		return &b
	case now == nil: // it was changed, and has gone since: it stays away
		return nil
	}
	g := *now
	b, a, n := reflect.ValueOf(*before), reflect.ValueOf(*after), reflect.ValueOf(&g).Elem()
	for i := range n.NumField() { // field by field, whatever fields there are
		if reflect.DeepEqual(n.Field(i).Interface(), a.Field(i).Interface()) {
			n.Field(i).Set(b.Field(i))
		}
	}
	return &g
}

// Stands says that all that done changed is still as it left it, given how its
// conversation or follow-up is now: it can be taken back by itself. Having been
// read or looked at since does not count.
func Stands(done Change, now Change) bool {
	if done.Regroup != nil && (done.After == nil) != (now.After == nil) {
		return false // what was joined has been parted since, or the other way round
	}
	if done.After != nil && done.Before != nil {
		if now.After == nil {
			return false
		}
		b, a, c := done.Before, done.After, now.After
		added, removed := a.Labels.Minus(b.Labels), b.Labels.Minus(a.Labels)
		if moved(b.Position, a.Position, c.Position) || moved(b.Starred, a.Starred, c.Starred) || moved(b.Title, a.Title, c.Title) || moved(b.Note, a.Note, c.Note) || moved(b.Said, a.Said, c.Said) || moved(b.Silent, a.Silent, c.Silent) ||
			moved(b.Stream, a.Stream, c.Stream) || moved(b.Kept, a.Kept, c.Kept) ||
			len(c.Labels.With(added...).Minus(c.Labels)) > 0 || len(c.Labels.Minus(c.Labels.Without(removed...))) > 0 {
			return false
		}
	}
	switch {
	case done.FollowUpBefore != nil || done.FollowUpAfter != nil:
		return alike(done.FollowUpAfter, now.FollowUpAfter)
	case done.EventBefore != nil || done.EventAfter != nil:
		return alike(done.EventAfter, now.EventAfter)
	}
	return true
}

// moved says that what was changed from before to after is no longer after.
func moved[T comparable](before, after, now T) bool { return before != after && now != after }
