package followup

import (
	"errors"
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// Repeat is the recurrence of a follow-up. One occurrence is open at a time;
// the next is made when it is finished.
type Repeat struct {
	Rule     string   `json:"rule"`               // RRULE (RFC 5545, section 3.8.5.3)
	FromDone bool     `json:"fromDone,omitempty"` // counted from the day the last was done, not from its due date
	First    string   `json:"first"`              // the wall-clock time of the first occurrence, as in when.Moment.Local
	Nth      int      `json:"nth"`                // which occurrence this is, from 1
	Except   []string `json:"except,omitempty"`   // days left out ("2026-12-24"), EXDATE
	DaysOff  bool     `json:"daysOff,omitempty"`  // days off are left out
}

const dayLayout = "2006-01-02"

func (r Repeat) valid(f FollowUp) error {
	if f.Due.IsZero() {
		return errors.New("what repeats needs a due date to begin with")
	}
	rule, err := when.ParseRecur(r.Rule, time.UTC)
	if err != nil {
		return err
	}
	for range rule.Falls(f.Due.Wall(time.UTC), true) {
		return nil
	}
	return when.ErrNever
}

// begins fills in where the series begins: with f, if it is new.
func (f FollowUp) begins(loc *time.Location) FollowUp {
	if f.Repeat == nil {
		return f
	}
	r := *f.Repeat
	if r.First == "" {
		r.First = f.Due.OnWall(f.Due.Wall(loc), loc).Local
	}
	r.Nth = max(r.Nth, 1)
	f.Repeat = &r
	return f
}

// FirstDue is the first time on which the rule of r falls, not before the day of
// now: a whole day.
func (r Repeat) FirstDue(w when.Week, now when.Instant) (when.Moment, error) {
	loc := w.Location()
	rule, err := when.ParseRecur(r.Rule, loc)
	if err != nil {
		return when.Moment{}, err
	}
	t := now.In(loc)
	for day := range rule.Falls(time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC), true) {
		if !r.leaves(day, w) {
			return when.WholeDayOf(day, loc), nil
		}
	}
	return when.Moment{}, when.ErrNever
}

// leaves says that the day is left out.
func (r Repeat) leaves(day time.Time, w when.Week) bool {
	return r.DaysOff && !w.Works(day.Weekday()) || slices.Contains(r.Except, day.Format(dayLayout))
}

// NextOf is the occurrence that follows f, which was finished at now; ok is
// false if f does not repeat or its series has ended. Occurrences whose day has
// passed are missed, and not made up for. The UID of what comes next is left to
// the caller.
func NextOf(f FollowUp, now when.Instant, w when.Week) (next FollowUp, missed int, ok bool) {
	if f.Repeat == nil || f.Due.IsZero() {
		return f, 0, false
	}
	loc := w.Location()
	if zone, err := when.LoadZone(f.Due.Zone); err == nil && f.Due.Zone != "" {
		loc = zone
	}
	r := *f.Repeat
	rule, err := when.ParseRecur(r.Rule, loc)
	if err != nil {
		return f, 0, false
	}
	was, t := f.Due.Wall(loc), now.In(loc)
	today := time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
	from := (when.Moment{Local: r.First, At: f.Due.At}).Wall(loc)
	if r.FromDone {
		from = time.Date(t.Year(), t.Month(), t.Day(), was.Hour(), was.Minute(), 0, 0, time.UTC)
		was = from
	}
	if r.FromDone && rule.Count() > 0 && r.Nth >= rule.Count() {
		return f, 0, false
	}
	for day := range rule.Falls(from, !r.FromDone) {
		switch {
		case !day.After(was) || r.leaves(day, w):
			continue
		case day.Before(today):
			missed++
			continue
		}
		return f.onto(day, was, r, missed, w, now, loc), missed, true
	}
	return f, missed, false
}

// onto is the next occurrence, due on the wall-clock time day, of f that was due
// on was.
func (f FollowUp) onto(day, was time.Time, r Repeat, missed int, w when.Week, now when.Instant, loc *time.Location) FollowUp {
	by := int(midnight(day).Sub(midnight(f.Due.Wall(loc))) / (24 * time.Hour))
	next := f
	next.Due = f.Due.OnWall(day, loc)
	if !f.Start.IsZero() {
		next.Start = f.Start.OnWall(f.Start.Wall(loc).AddDate(0, 0, by), loc)
	}
	next.Status, next.Percent, next.Card, next.Finished, next.Moved, next.Stage = NeedsAction, 0, false, 0, 0, ""
	next.Made, next.Changed, next.Waits = now, 0, Wait{}
	next.Checklist = slices.Clone(f.Checklist)
	for i := range next.Checklist {
		next.Checklist[i].Done = false
	}
	next.Reminders = slices.Clone(f.Reminders)
	for i, m := range next.Reminders {
		next.Reminders[i].Fired = 0
		if m.Of == ByTime {
			next.Reminders[i].At = m.At.OnWall(m.At.Wall(loc).AddDate(0, 0, by), loc)
		}
	}
	r.Nth += missed + 1
	next.Repeat = &r
	next.Reminders = rearmed(next, w, now)
	for i, m := range next.Reminders {
		if m.Of == ByTime && m.At.At <= now {
			next.Reminders[i].Fired = now
		}
	}
	return next
}

func midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}
