// Package followup is about work that is tracked until it is done. Its terms
// are those of the VTODO component of iCalendar (RFC 5545, section 3.6.2).
package followup

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/mail"
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

// Priorities lists them, the highest first.
var Priorities = []Priority{Urgent, High, Normal, Low}

// Name is the word for a priority.
func (p Priority) Name() string {
	switch {
	case p == Urgent:
		return "urgent"
	case p >= 2 && p <= 4:
		return "high"
	case p >= 6:
		return "low"
	}
	return "normal"
}

// Near is the priority Ebbe offers that is nearest to p (RFC 5545, section
// 3.8.1.9: 0 is undefined, 1 to 4 high, 5 the middle, 6 to 9 low).
func (p Priority) Near() Priority {
	switch {
	case p == Urgent:
		return Urgent
	case p >= 2 && p <= 4:
		return High
	case p >= 6 && p <= 9:
		return Low
	}
	return Normal
}

// Item is one line of the checklist of a follow-up.
type Item struct {
	UID  string `json:"uid"`
	Text string `json:"text"`
	Done bool   `json:"done,omitempty"`
}

// FollowUp is one piece of tracked work. Lists in it are nil when empty.
type FollowUp struct {
	UID       string       `json:"uid"` // RFC 5545, section 3.8.4.7
	Title     string       `json:"title"`
	Status    Status       `json:"status"`
	Priority  Priority     `json:"priority"`
	Start     when.Moment  `json:"start"` // DTSTART: before it there is nothing to do
	Due       when.Moment  `json:"due"`
	Stage     string       `json:"stage,omitempty"`   // the ID of a stage; empty: the first that is mine
	Project   string       `json:"project,omitempty"` // by its name
	Context   string       `json:"context,omitempty"` // the place or tool it needs
	With      mail.Address `json:"with"`              // whom it concerns; Address may be empty
	Labels    []int64      `json:"labels,omitempty"`  // ascending
	Notes     string       `json:"notes,omitempty"`   // DESCRIPTION
	Checklist []Item       `json:"checklist,omitempty"`
	Effort    int          `json:"effort,omitempty"`  // minutes; 0: not said
	Percent   int          `json:"percent,omitempty"` // PERCENT-COMPLETE
	Reminders []Reminder   `json:"reminders,omitempty"`
	Card      bool         `json:"card"` // a reminder has fired and waits for an answer
	Repeat    *Repeat      `json:"repeat,omitempty"`
	Waits     Wait         `json:"waits"`           // for the answer of With
	Moved     int          `json:"moved,omitempty"` // how often it was put off when the day was closed
	Owner     Owner        `json:"owner,omitzero"`  // in the box of a team

	Conversation int64        `json:"conversation"` // 0: about no mail
	Message      string       `json:"message"`      // Message-ID of the original (RFC 2392 "mid:"), may be empty
	Made         when.Instant `json:"made"`
	Changed      when.Instant `json:"changed,omitempty"` // LAST-MODIFIED; 0: since it was made never
	Finished     when.Instant `json:"finished"`          // zero while open
	Foreign      string       `json:"foreign,omitempty"` // lines of iCalendar that other programs understand
}

// UnmarshalJSON reads a follow-up, also as it was kept when it had one reminder
// at most.
func (f *FollowUp) UnmarshalJSON(raw []byte) error {
	type plain FollowUp
	old := struct {
		*plain
		Remind when.Moment `json:"remind"`
	}{plain: (*plain)(f)}
	if err := json.Unmarshal(raw, &old); err != nil {
		return err
	}
	if !old.Remind.IsZero() && len(f.Reminders) == 0 {
		f.Reminders = []Reminder{{At: old.Remind}}
	}
	return nil
}

// Equal says that f and o are the same in everything.
func (f FollowUp) Equal(o FollowUp) bool { return reflect.DeepEqual(f, o) }

// Open says that it still has to be done.
func (f FollowUp) Open() bool { return f.Status == NeedsAction || f.Status == InProcess }

// Waiting says that it waits for somebody's answer.
func (f FollowUp) Waiting() bool { return f.Open() && f.Waits.Since != 0 }

// Finish is f done at now; one that is not open is returned unchanged.
func (f FollowUp) Finish(now when.Instant) FollowUp {
	if f.Open() {
		f.Status, f.Finished, f.Card, f.Percent = Completed, now, false, 100
		f.Waits.Since, f.Waits.Ask, f.Waits.Rhythm, f.Waits.Asked = 0, when.Moment{}, nil, 0
	}
	return f
}

// Drop is f given up at now; one that is not open is returned unchanged.
func (f FollowUp) Drop(now when.Instant) FollowUp {
	if f.Open() {
		f.Status, f.Finished, f.Card = Cancelled, now, false
		f.Waits.Since, f.Waits.Ask, f.Waits.Rhythm, f.Waits.Asked = 0, when.Moment{}, nil, 0
	}
	return f
}

// Reopen is f open again, in the stage it had if that is not one of finished
// things.
func (f FollowUp) Reopen(s Settings) FollowUp {
	if !f.Open() {
		f.Status, f.Finished, f.Percent = NeedsAction, 0, 0
		if s.Stage(f.Stage).Means == Done {
			f.Stage = ""
		}
		f.Status = s.statusIn(f.Stage)
	}
	return f
}

// MoveTo is f due on the day, days after the one of now, at the time of day it
// had. Reminders relative to its due time move with it.
func (f FollowUp) MoveTo(days int, w when.Week, now when.Instant) FollowUp {
	loc := w.Location()
	day := when.DayStart(now, loc, days).In(loc)
	m := f.Due
	if m.IsZero() || m.WholeDay() {
		m = when.WholeDayOf(day, loc)
	} else {
		t := m.Wall(loc)
		m = m.OnWall(time.Date(day.Year(), day.Month(), day.Day(), t.Hour(), t.Minute(), 0, 0, time.UTC), loc)
	}
	return f.withDue(m, w, now)
}

// MoveAt is f due at m. Reminders relative to its due time move with it.
func (f FollowUp) MoveAt(m when.Moment, w when.Week, now when.Instant) FollowUp {
	return f.withDue(m, w, now)
}

func (f FollowUp) withDue(m when.Moment, w when.Week, now when.Instant) FollowUp {
	f.Due = m
	if !f.Start.IsZero() && f.Start.At > m.At {
		f.Start = when.Moment{}
	}
	f.Reminders = rearmed(f, w, now)
	return f
}

// The longest parts of a follow-up: bytes, or how many.
const (
	MaxTitle     = 500
	MaxNotes     = 20_000
	MaxName      = 80 // of a project or context
	MaxChecklist = 100
	MaxReminders = 10
)

// Tidy brings f into the form in which it is kept: texts without needless
// white space, lists sorted and nil when empty, times aligned with their zones.
func (f FollowUp) Tidy() FollowUp {
	line := func(s string) string { return strings.Join(strings.Fields(s), " ") }
	f.Title, f.Project, f.Context, f.Notes = line(f.Title), line(f.Project), line(f.Context), strings.TrimSpace(f.Notes)
	f.With.Name, f.With.Address = line(f.With.Name), strings.ToLower(line(f.With.Address))
	f.Start, f.Due, f.Waits.Ask = f.Start.Realign(), f.Due.Realign(), f.Waits.Ask.Realign()
	if f.Priority == 0 {
		f.Priority = Normal
	}
	f.Labels = slices.Clone(f.Labels)
	slices.Sort(f.Labels)
	f.Labels = slices.Compact(f.Labels)
	f.Checklist = slices.DeleteFunc(slices.Clone(f.Checklist), func(i Item) bool { return line(i.Text) == "" })
	for i := range f.Checklist {
		f.Checklist[i].Text = line(f.Checklist[i].Text)
	}
	f.Reminders = slices.Clone(f.Reminders)
	for i := range f.Reminders {
		f.Reminders[i].At = f.Reminders[i].At.Realign()
	}
	if len(f.Labels) == 0 {
		f.Labels = nil
	}
	if len(f.Checklist) == 0 {
		f.Checklist = nil
	}
	if len(f.Reminders) == 0 {
		f.Reminders = nil
	}
	return f
}

// Valid says in a sentence for the user what is wrong with f, or nil.
func (f FollowUp) Valid() error {
	for _, c := range []struct {
		wrong bool
		text  string
	}{
		{strings.TrimSpace(f.Title) == "", "a follow-up needs a title: write what has to be done"},
		{len(f.Title) > MaxTitle, "that title is too long: write what has to be done in a sentence"},
		{!slices.Contains(Priorities, f.Priority), "the priority has to be urgent, high, normal or low"},
		{!f.Due.IsZero() && !f.Start.IsZero() && f.Due.At < f.Start.At, "it would be due before it starts: choose a later due date or an earlier start"},
		{len(f.Notes) > MaxNotes, "the notes are too long: they have room for 20,000 letters"},
		{len(f.Project) > MaxName || len(f.Context) > MaxName, "the name of a project or place has room for 80 letters"},
		{len(f.Checklist) > MaxChecklist, "a checklist has room for 100 lines"},
		{len(f.Reminders) > MaxReminders, "that is more than ten reminders"},
		{f.Percent < 0 || f.Percent > 100, "the part that is done lies between 0 and 100 %"},
		{f.Effort < 0 || f.Effort > 60*24*365, "the effort is a number of minutes, at most a year"},
	} {
		if c.wrong {
			return errors.New(c.text)
		}
	}
	if r := f.Waits.Rhythm; r != nil && r.Valid() != nil {
		return r.Valid()
	}
	for _, r := range f.Reminders {
		if r.Of != "" && f.anchor(r).IsZero() {
			return fmt.Errorf("a reminder counts from the %s, and there is none: give it one, or name a time to remind at", r.Of)
		}
	}
	if f.Repeat != nil {
		return f.Repeat.valid(f)
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
// present and a person's week.
type Bounds struct {
	Now, Today, Tomorrow, Week when.Instant // each the first instant after the group
}

// BoundsAt computes the Bounds at now for somebody with the week w.
func BoundsAt(now when.Instant, w when.Week) Bounds {
	loc := w.Location()
	return Bounds{
		Now:      now,
		Today:    when.DayStart(now, loc, 1),
		Tomorrow: when.DayStart(now, loc, 2),
		Week:     when.At(w.StartOfWeek(now.In(loc)).AddDate(0, 0, 7), 0, loc),
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
		return week, Ever
	}
	return 0, 1 // no date
}

// Ever is later than any time that can be meant.
const Ever when.Instant = 1 << 60
