package inbox

import (
	"strings"

	"ebbe/internal/core/when"
)

// Regrouping is messages that have gone from one conversation to another, with
// what hangs on them: two conversations were joined, or one was parted.
type Regrouping struct {
	From      int64    `json:"from"`
	Into      int64    `json:"into"`
	Messages  []int64  `json:"messages"`
	Refs      []string `json:"refs,omitempty"`      // Message-IDs that are looked for in Into now
	FollowUps []string `json:"followUps,omitempty"` // by UID
	Events    []string `json:"events,omitempty"`
	Drafts    []int64  `json:"drafts,omitempty"`
	Emptied   bool     `json:"emptied,omitempty"` // all of From went: it is a part of Into now
	Begun     bool     `json:"begun,omitempty"`   // Into has begun with this
}

// Reversed is the regrouping that takes r back. A conversation that was parted
// from another by hand, or by taking a joining back, is not joined to another
// again by mail.
func (r Regrouping) Reversed() Regrouping {
	r.From, r.Into, r.Emptied, r.Begun = r.Into, r.From, r.Begun, r.Emptied
	return r
}

// alive is the order in which places win when conversations are joined: what
// is undecided over what comes back over what is done over what was thrown away.
var alive = map[Place]int{Inbox: 5, Held: 4, Snoozed: 3, Archived: 2, Bin: 1, Junk: 0}

// JoinByMail says that a message which refers to both may join two
// conversations: what lies in junk or in the bin takes no other along, and is
// taken along by none.
func JoinByMail(a, b Place) bool { return a == b || !a.Thrown() && !b.Thrown() }

// TakesIn says that a conversation may get a message by its references. Into
// what is junk, nobody's message is drawn but that of somebody who wrote in it:
// a stranger could hide others' mail there.
func TakesIn(c Place, wrote, own bool) bool { return c != Junk || wrote || own }

// Joined is what becomes of two conversations that are one from now on, and the
// return from a snooze that was cancelled by it, if one was. The more alive
// place wins: a snooze stays booked beside what is done or held, and not beside
// what is undecided. What is held of either stays held.
func Joined(into, from Conversation) (c Conversation, cancelled when.Moment) {
	c = into
	winner, loser := into.Position, from.Position
	if wins(loser, winner) {
		winner, loser = loser, winner
	}
	if winner.Place == Inbox && loser.Place == Snoozed {
		cancelled = loser.Return
	}
	c.Position = winner
	if from.Looks > c.Looks && c.Position == from.Position {
		c.Looks = from.Looks
	}
	c.Unread, c.Starred = into.Unread || from.Unread, into.Starred || from.Starred
	if c.Title == "" {
		c.Title = from.Title
	}
	c.Silent = into.Silent && from.Silent
	if !c.Kept && (from.Kept || c.Stream == "") {
		c.Stream, c.Kept = from.Stream, from.Kept
	}
	if c.Said == "" {
		c.Said = from.Said
	}
	if c.Note = strings.TrimSpace(into.Note + "\n" + from.Note); len(c.Note) > MaxNote {
		c.Note = strings.ToValidUTF8(c.Note[:MaxNote], "")
	}
	c.Labels = into.Labels.With(from.Labels.IDs()...)
	return c, cancelled
}

// wins says that the position a stands when it is joined with b. What is held as
// a whole shows nowhere, so what is in view says where the joined one is; of two
// snoozes the earlier return stands.
func wins(a, b Position) bool {
	switch {
	case a.Place == Snoozed && b.Place == Snoozed:
		return b.Return.IsZero() && !a.Return.IsZero() || !a.Return.IsZero() && a.Return.At < b.Return.At
	case a.Place == Held || b.Place == Held:
		return b.Place == Held && a.Place != Held
	}
	return alive[a.Place] > alive[b.Place]
}
