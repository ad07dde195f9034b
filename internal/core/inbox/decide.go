package inbox

import (
	"errors"
	"strings"

	"ebbe/internal/core/when"
)

// What a decision can change about one conversation is here, a function each.
// They give the conversation back as it is afterwards; what is so already stays
// as it is.

// Errors of Snoozed, Called and Noted. Their texts are parts of sentences for the
// user.
var (
	ErrPast    = errors.New("that time has passed: choose one that is still ahead")
	ErrNowhere = errors.New("no place was named to wait for")
	ErrUntil   = errors.New("that is nothing a conversation can wait for")
	ErrLong    = errors.New("that is too long: a name has room for 300 letters, a note for 4,000")
)

// The longest name and note of a conversation, in bytes.
const (
	MaxTitle = 600
	MaxNote  = 8000
)

// In is c put into the place p at now: Inbox, Archived, Bin or Junk. What is put
// away counts as read.
func (c Conversation) In(p Place, now when.Instant) Conversation {
	if c.Place != p {
		c.Position, c.Looks = Position{Place: p, Reason: Decided, Since: now}, 0
	}
	c.Unread = c.Unread && p == Inbox
	return c
}

// Sleep is what a conversation that is snoozed waits for.
type Sleep struct {
	Until  Until
	Return when.Moment // the time it comes back at, for all but an answer and a place
	Site   int64       // the place to be at, for UntilSite
}

// Snoozed is c put away at now until what s says; one that is snoozed already
// begins anew. It returns ErrPast, ErrNowhere or ErrUntil.
func (c Conversation) Snoozed(s Sleep, now when.Instant) (Conversation, error) {
	p := Position{Place: Snoozed, Reason: Decided, Since: now, SnoozedAt: now, Snoozes: c.Snoozes, Until: s.Until}
	if c.Place != Snoozed {
		p.Snoozes++
	}
	switch s.Until {
	case UntilAnswer:
	case UntilSite:
		if p.Site = s.Site; p.Site == 0 {
			return c, ErrNowhere
		}
	case UntilTime, UntilUnanswered, UntilArrival, UntilSomeday:
		if p.Return = s.Return; p.Return.At <= now {
			return c, ErrPast
		}
	default:
		return c, ErrUntil
	}
	c.Position, c.Looks, c.Unread = p, 0, false
	return c, nil
}

// Looked is c after a look that left it where it is.
func (c Conversation) Looked() Conversation {
	c.Unread = false
	if c.Place == Inbox {
		c.Looks++
	}
	return c
}

// Silenced is c with what comes in it going past the inbox from now on, or no more.
func (c Conversation) Silenced(on bool) Conversation {
	c.Silent = on
	return c
}

// InStream is c in a stream, "" for that of its kind; kept says that what comes in it is
// to come in that stream, too.
func (c Conversation) InStream(stream string, kept bool) Conversation {
	c.Stream, c.Kept = stream, kept
	return c
}

// Rated is c with what the reader says of its importance: Important, Unimportant, or
// nothing.
func (c Conversation) Rated(said Kind) Conversation {
	c.Said = said
	return c
}

// Star is c with a star, or without.
func (c Conversation) Star(on bool) Conversation {
	c.Starred = on
	return c
}

// Read is c marked read, or unread.
func (c Conversation) Read(read bool) Conversation {
	c.Unread = !read
	return c
}

// Called is c with a title of the reader's; an empty one gives it its subject
// back. It returns ErrLong.
func (c Conversation) Called(title string) (Conversation, error) {
	if len(title) > MaxTitle {
		return c, ErrLong
	}
	c.Title = strings.Join(strings.Fields(title), " ")
	return c, nil
}

// Noted is c with this note on it, or none. It returns ErrLong.
func (c Conversation) Noted(note string) (Conversation, error) {
	if len(note) > MaxNote {
		return c, ErrLong
	}
	c.Note = strings.TrimSpace(note)
	return c, nil
}

// Labelled is c with labels put on it and others taken off.
func (c Conversation) Labelled(add, remove []int64) Conversation {
	c.Labels = c.Labels.With(add...).Without(remove...)
	return c
}
