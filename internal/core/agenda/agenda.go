// Package agenda knows what must happen when. What waits on the agenda always
// follows from the state of a conversation or a follow-up: whoever stores the
// one stores the other, so that nothing can be forgotten or happen twice.
package agenda

import (
	"cmp"
	"slices"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Thing is one thing that must happen at a time. Kind is inbox.Return,
// inbox.Remind or inbox.RemindEvent; its subject is the conversation, the
// follow-up or the event.
type Thing struct {
	At           when.Instant
	Kind         inbox.Kind
	Conversation int64
	FollowUp     string // UID of the follow-up or event
}

// OfConversation is what c waits for, if anything.
func OfConversation(c inbox.Conversation) (Thing, bool) {
	if c.Place != inbox.Snoozed || c.Return.IsZero() {
		return Thing{}, false
	}
	return Thing{At: c.Return.At, Kind: inbox.Return, Conversation: c.ID}, true
}

// OfFollowUp is what f waits for, if anything: its next reminder, or the day to
// ask again. A reminder that has fired is none any more.
func OfFollowUp(f followup.FollowUp, w when.Week) (Thing, bool) {
	at := f.Next(w)
	return Thing{At: at, Kind: inbox.Remind, FollowUp: f.UID}, at != 0
}

// OfEvent is what e waits for, if anything.
func OfEvent(e calendar.Event) (Thing, bool) {
	at := e.Next()
	return Thing{At: at, Kind: inbox.RemindEvent, FollowUp: e.UID}, at != 0
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
