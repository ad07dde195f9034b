package followup

import (
	"fmt"
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// Anchor is what a reminder counts from.
type Anchor string

// The anchors of reminders (RELATED of RFC 5545, section 3.8.6.3).
const (
	ByTime  Anchor = ""      // it has a time of its own
	OfDue   Anchor = "due"   // RELATED=END
	OfStart Anchor = "start" // RELATED=START
)

// Reminder is a VALARM of a follow-up (RFC 5545, section 3.6.6): at a time, or
// some days and minutes before it is due or starts. With a Clock it is at that
// time of the day, Days before; with a Weekday on that day of the same week.
type Reminder struct {
	At      when.Moment  `json:"at"` // by time
	Of      Anchor       `json:"of,omitempty"`
	Days    int          `json:"days,omitempty"`
	Minutes int          `json:"minutes,omitempty"`
	Clock   *int         `json:"clock,omitempty"`   // minutes after midnight
	Weekday int          `json:"weekday,omitempty"` // 1 Monday to 7 Sunday: on that day of the week in which Days before lies; 0: none
	Fired   when.Instant `json:"fired,omitempty"`   // when it did, or was passed over
	Foreign string       `json:"foreign,omitempty"` // lines of iCalendar that other programs understand
}

func (f FollowUp) anchor(r Reminder) when.Moment {
	if r.Of == OfStart {
		return f.Start
	}
	return f.Due
}

// Time is when the reminder r of f is due; zero if what it counts from is
// missing. A day without a time of day counts from the morning of w.
func (r Reminder) Time(f FollowUp, w when.Week) when.Instant {
	if r.Of == ByTime {
		return r.At.At
	}
	m := f.anchor(r)
	if m.IsZero() {
		return 0
	}
	loc := w.Location()
	if zone, err := when.LoadZone(m.Zone); err == nil && m.Zone != "" {
		loc = zone
	}
	t := m.Wall(loc)
	clock := t.Hour()*60 + t.Minute()
	if m.WholeDay() {
		clock = w.Morning
	}
	if r.Clock != nil {
		clock = *r.Clock
	}
	day := t.AddDate(0, 0, -r.Days)
	if r.Weekday > 0 {
		first := w.StartOfWeek(day)
		day = first.AddDate(0, 0, (r.Weekday-int(first.Weekday())+7)%7)
	}
	return when.At(day, clock, loc) - when.Instant(r.Minutes)*60_000
}

// Say writes the reminder as a person would: "1 day before it is due, at 10:00".
func (r Reminder) Say(w when.Week, now when.Instant) string {
	if r.Of == ByTime {
		return w.Say(r.At, now)
	}
	text := ""
	switch {
	case r.Weekday > 0:
		text = "on the " + time.Weekday(r.Weekday%7).String() + " of the week"
		if r.Days > 0 {
			text += " before the one"
		}
		text += " in which"
	case r.Days > 0 && r.Minutes > 0:
		text = count(r.Days, "day") + " " + SayMinutes(r.Minutes) + " before"
	case r.Days > 0:
		text = count(r.Days, "day") + " before"
	case r.Minutes > 0:
		text = SayMinutes(r.Minutes) + " before"
	default:
		text = "when"
	}
	text += map[Anchor]string{OfDue: " it is due", OfStart: " it starts"}[r.Of]
	if r.Clock != nil {
		text += fmt.Sprintf(", at %d:%02d", *r.Clock/60, *r.Clock%60)
	}
	return text
}

func count(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// SayMinutes writes a span as a person would: "45 min", "2 h", "1 h 30 min".
func SayMinutes(n int) string {
	switch {
	case n < 60:
		return fmt.Sprintf("%d min", n)
	case n%60 == 0:
		return fmt.Sprintf("%d h", n/60)
	}
	return fmt.Sprintf("%d h %d min", n/60, n%60)
}

// Next is when f has to come up next by itself: the earliest reminder that has
// not fired, or the day to ask again; zero if never.
func (f FollowUp) Next(w when.Week) (at when.Instant) {
	if !f.Open() {
		return 0
	}
	earlier := func(t when.Instant) {
		if t != 0 && (at == 0 || t < at) {
			at = t
		}
	}
	for _, r := range f.Reminders {
		if r.Fired == 0 {
			earlier(r.Time(f, w))
		}
	}
	if f.Waiting() {
		earlier(f.Waits.Ask.At)
	}
	return at
}

// Fire is f when its reminders are due at now: those that are, however many,
// are spent and leave one card.
func (f FollowUp) Fire(w when.Week, now when.Instant) FollowUp {
	if next := f.Next(w); next == 0 || next > now {
		return f
	}
	f.Card, f.Reminders = true, slices.Clone(f.Reminders)
	for i, r := range f.Reminders {
		if t := r.Time(f, w); r.Fired == 0 && t != 0 && t <= now {
			f.Reminders[i].Fired = now
		}
	}
	if f.Waiting() && !f.Waits.Ask.IsZero() && f.Waits.Ask.At <= now {
		f.Waits = f.Waits.timeToAsk(w, now)
	}
	return f
}

// rearmed are the reminders of f after its times have changed: one that is
// ahead now can fire (again), one that has been passed does not any more.
func rearmed(f FollowUp, w when.Week, now when.Instant) []Reminder {
	out := slices.Clone(f.Reminders)
	for i, r := range out {
		switch t := r.Time(f, w); {
		case r.Of != ByTime && t > now:
			out[i].Fired = 0
		case r.Of != ByTime && t != 0 && r.Fired == 0:
			out[i].Fired = now
		}
	}
	return out
}

// RemindAgain is f with its card put away and, unless at is empty, one more
// reminder. Spent reminders at a time of their own go.
func (f FollowUp) RemindAgain(at when.Moment) FollowUp {
	f.Card = false
	if at.IsZero() {
		return f
	}
	f.Reminders = slices.DeleteFunc(slices.Clone(f.Reminders), func(r Reminder) bool { return r.Of == ByTime && r.Fired != 0 })
	f.Reminders = append(f.Reminders, Reminder{At: at})
	return f
}
