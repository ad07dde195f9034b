// Package agenda knows what must happen when. What waits on the agenda always
// follows from the state of a conversation or a follow-up: whoever stores the
// one stores the other, so that nothing can be forgotten or happen twice.
package agenda

import (
	"cmp"
	"slices"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Thing is one thing that must happen at a time. Kind is inbox.Return or
// inbox.Remind; its subject is the conversation or the follow-up.
type Thing struct {
	At           when.Instant
	Kind         inbox.Kind
	Conversation int64
	FollowUp     string // UID
}

// OfConversation is what c waits for, if anything.
func OfConversation(c inbox.Conversation) (Thing, bool) {
	if c.Place != inbox.Snoozed || c.Return.IsZero() {
		return Thing{}, false
	}
	return Thing{At: c.Return.At, Kind: inbox.Return, Conversation: c.ID}, true
}

// OfFollowUp is what f waits for, if anything. A reminder that has fired is
// none any more: firing takes it out of the follow-up and leaves the card.
func OfFollowUp(f followup.FollowUp) (Thing, bool) {
	if !f.Open() || f.Remind.IsZero() {
		return Thing{}, false
	}
	return Thing{At: f.Remind.At, Kind: inbox.Remind, Conversation: f.Conversation, FollowUp: f.UID}, true
}

// Fire is what happens to a follow-up when its reminder is due at now: the
// card appears, and the reminder is spent.
func Fire(f followup.FollowUp, now when.Instant) followup.FollowUp {
	if t, ok := OfFollowUp(f); ok && t.At <= now {
		f.Remind, f.Card = when.Moment{}, true
	}
	return f
}

// Due picks what has to happen by now, in the order in which it has to: by
// time, then by subject. The store asks for them in the same order.
func Due(things []Thing, now when.Instant) []Thing {
	var due []Thing
	for _, t := range things {
		if t.At <= now {
			due = append(due, t)
		}
	}
	slices.SortFunc(due, Order)
	return due
}

// Order compares two things by when they happen, then by subject.
func Order(a, b Thing) int {
	return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.Conversation, b.Conversation), cmp.Compare(a.FollowUp, b.FollowUp))
}
