// Package followup is about work that is tracked until it is done. Its terms
// are those of the VTODO component of iCalendar (RFC 5545, section 3.6.2).
package followup

import (
	"errors"
	"strings"
	"time"

	"ebbe/internal/core/when"
)

// Status is the STATUS of RFC 5545, section 3.8.1.11, for VTODO.
type Status string

// The states of a follow-up.
const (
	NeedsAction Status = "needs-action"
	InProcess   Status = "in-process"
	Completed   Status = "completed"
	Cancelled   Status = "cancelled"
)

// Priority is the PRIORITY of RFC 5545, section 3.8.1.9: 1 is the highest, 9
// the lowest.
type Priority int

// The priorities Ebbe offers.
const (
	Urgent Priority = 1
	High   Priority = 3
	Normal Priority = 5
	Low    Priority = 9
)

// FollowUp is one piece of tracked work.
type FollowUp struct {
	UID          string       `json:"uid"` // RFC 5545, section 3.8.4.7
	Title        string       `json:"title"`
	Status       Status       `json:"status"`
	Priority     Priority     `json:"priority"`
	Due          when.Moment  `json:"due"`
	Remind       when.Moment  `json:"remind"`
	Card         bool         `json:"card"`         // the reminder has fired and waits for an answer
	Conversation int64        `json:"conversation"` // 0: about no mail
	Message      string       `json:"message"`      // Message-ID of the original (RFC 2392 "mid:"), may be empty
	Made         when.Instant `json:"made"`
	Finished     when.Instant `json:"finished"` // zero while open
}

// Open says that it still has to be done.
func (f FollowUp) Open() bool { return f.Status == NeedsAction || f.Status == InProcess }

// Finish is f done at now; one that is not open is returned unchanged.
func (f FollowUp) Finish(now when.Instant) FollowUp {
	if f.Open() {
		f.Status, f.Finished, f.Card = Completed, now, false
	}
	return f
}

// MaxTitle is the longest title, in bytes.
const MaxTitle = 500

// Valid says in a sentence for the user what is wrong with f, or nil.
func (f FollowUp) Valid() error {
	switch {
	case strings.TrimSpace(f.Title) == "":
		return errors.New("a follow-up needs a title: write what has to be done")
	case len(f.Title) > MaxTitle:
		return errors.New("that title is too long: write what has to be done in a sentence")
	case f.Priority != Urgent && f.Priority != High && f.Priority != Normal && f.Priority != Low:
		return errors.New("the priority has to be urgent, high, normal or low")
	}
	return nil
}

// Group is a span of due dates that are shown together.
type Group string

// The groups of the list by date, in its order.
const (
	Late      Group = "late"
	Today     Group = "today"
	Tomorrow  Group = "tomorrow"
	ThisWeek  Group = "this-week"
	NextWeeks Group = "next-weeks"
	NoDate    Group = "no-date"
)

// Groups lists the groups in the order in which they are shown.
var Groups = []Group{Late, Today, Tomorrow, ThisWeek, NextWeeks, NoDate}

// Bounds are the instants at which one group ends and the next begins, for a
// present and a zone. A week ends on Sunday.
type Bounds struct {
	Now, Today, Tomorrow, Week when.Instant // each the first instant after the group
}

// BoundsAt computes the Bounds at now in loc.
func BoundsAt(now when.Instant, loc *time.Location) Bounds {
	weekday := int(now.In(loc).Weekday()+6) % 7 // Monday is 0
	return Bounds{
		Now:      now,
		Today:    when.DayStart(now, loc, 1),
		Tomorrow: when.DayStart(now, loc, 2),
		Week:     when.DayStart(now, loc, 7-weekday),
	}
}

// Span gives the due times [from, to) that belong into a group.
func (b Bounds) Span(g Group) (from, to when.Instant) {
	week := max(b.Tomorrow, b.Week) // at the week's end nothing is left of it after tomorrow
	switch g {
	case Late:
		return 1, b.Now
	case Today:
		return b.Now, b.Today
	case Tomorrow:
		return b.Today, b.Tomorrow
	case ThisWeek:
		return b.Tomorrow, week
	case NextWeeks:
		return week, 1 << 60
	}
	return 0, 1 // no date
}
