// Package when knows times as people mean them: instants, wall-clock times in
// a zone, the parts of a working day, and phrases such as "fri after lunch".
// It never reads the clock: the present is always passed in.
package when

import (
	"fmt"
	"time"
)

// Instant is a point in time: milliseconds since 1970-01-01T00:00:00Z.
// Zero means "none".
type Instant int64

// Of turns t into an Instant, cutting off what is finer than a millisecond.
func Of(t time.Time) Instant {
	if t.IsZero() {
		return 0
	}
	return Instant(t.UnixMilli())
}

// Time is i as a time.Time in UTC. The zero Instant gives the zero Time.
func (i Instant) Time() time.Time {
	if i == 0 {
		return time.Time{}
	}
	return time.UnixMilli(int64(i)).UTC()
}

// In is i as a time.Time in loc.
func (i Instant) In(loc *time.Location) time.Time { return i.Time().In(loc) }

const (
	wallTime = "2006-01-02T15:04"
	wallDate = "2006-01-02"
)

// Moment is a future time as the user meant it. At is always set unless the
// Moment is empty. Where a wall-clock time was meant, Local holds it
// ("2026-11-27T13:30", or "2026-11-27" for a whole day) and Zone the IANA name
// of the zone, so that At can be computed anew when the zone's rules change.
// Local and Zone are empty for spans such as "in 2 h".
type Moment struct {
	At    Instant `json:"at"`
	Local string  `json:"local,omitempty"`
	Zone  string  `json:"zone,omitempty"`
}

// IsZero says that no time is meant.
func (m Moment) IsZero() bool { return m.At == 0 }

// WholeDay says that a day is meant and no time of it; At is then the last
// millisecond of that day.
func (m Moment) WholeDay() bool { return len(m.Local) == len(wallDate) }

// Realign computes At anew from the wall-clock time under the zone rules this
// program carries. A Moment without a wall-clock time, or with one that no
// longer can be read, is returned unchanged.
func (m Moment) Realign() Moment {
	if m.Local == "" {
		return m
	}
	loc, err := LoadZone(m.Zone)
	if err != nil {
		return m
	}
	if m.WholeDay() {
		d, err := time.Parse(wallDate, m.Local)
		if err != nil {
			return m
		}
		return dayMoment(d, loc)
	}
	w, err := time.Parse(wallTime, m.Local)
	if err != nil {
		return m
	}
	return wallMoment(w, loc)
}

// wallMoment is the Moment of the wall-clock time w (its own zone is ignored).
func wallMoment(w time.Time, loc *time.Location) Moment {
	return Moment{At: Of(Resolve(w, loc)), Local: w.Format(wallTime), Zone: loc.String()}
}

func dayMoment(d time.Time, loc *time.Location) Moment {
	end := Resolve(midnight(d).AddDate(0, 0, 1), loc).Add(-time.Millisecond)
	return Moment{At: Of(end), Local: d.Format(wallDate), Zone: loc.String()}
}

// Day is m without its time of day: the whole day it falls on in loc.
func (m Moment) Day(loc *time.Location) Moment { return dayMoment(wall(m.At.In(loc)), loc) }

// Resolve finds the instant at which clocks in loc show the wall-clock time w,
// whose own zone is ignored. A time that does not exist moves forward to the
// first that does; one that exists twice is the first of the two.
func Resolve(w time.Time, loc *time.Location) time.Time {
	u := wall(w)
	var found time.Time
	for t := u.Add(-36 * time.Hour).In(loc); t.Before(u.Add(36 * time.Hour)); {
		_, offset := t.Zone()
		c := u.Add(-time.Duration(offset) * time.Second).In(loc)
		if wall(c).Equal(u) && (found.IsZero() || c.Before(found)) {
			found = c
		}
		_, end := t.ZoneBounds()
		if !end.IsZero() && !end.After(t) { // what the library says at the end of a leap year without changes ahead
			t = t.Add(time.Hour)
			continue
		}
		if end.IsZero() || end.After(u.Add(36*time.Hour)) {
			break
		}
		before := end.Add(time.Duration(offset) * time.Second).UTC()
		if _, after := end.Zone(); found.IsZero() && !u.Before(before) && u.Before(end.Add(time.Duration(after)*time.Second).UTC()) {
			return end
		}
		t = end
	}
	return found
}

// wall is t's wall-clock reading to the minute, carried in UTC so that
// calendar arithmetic on it is free of any zone.
func wall(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), 0, 0, time.UTC)
}

func midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

// DayStart is the first instant of the day, days after the one in which now
// falls in loc (negative days lie before it).
func DayStart(now Instant, loc *time.Location, days int) Instant {
	return Of(Resolve(midnight(now.In(loc)).AddDate(0, 0, days), loc))
}

// Week is how a person's time is divided: their zone, when the parts of the
// day begin (minutes after midnight), which weekdays they work, and whether
// they write times as am and pm.
type Week struct {
	Zone       string         `json:"zone"`
	Morning    int            `json:"morning"`
	Midday     int            `json:"midday"`
	Evening    int            `json:"evening"`
	Workdays   []time.Weekday `json:"workdays"`
	TwelveHour bool           `json:"twelveHour"`
	First      WeekStart      `json:"first,omitempty"`
	Languages  []Language     `json:"languages,omitempty"` // in which words about time are read besides English
}

// WeekStart is the day with which a calendar week begins: Monday (ISO 8601) where
// nothing is said.
type WeekStart string

// The days with which weeks begin.
const (
	OnMonday   WeekStart = "monday"
	OnSaturday WeekStart = "saturday"
	OnSunday   WeekStart = "sunday"
)

// Ordinary is the working week somebody has until they change it: Monday to
// Friday, mornings from 8:00, midday from 13:30, evenings from 18:00.
func Ordinary(zone string) Week {
	return Week{Zone: zone, Morning: 8 * 60, Midday: 13*60 + 30, Evening: 18 * 60,
		Workdays: []time.Weekday{1, 2, 3, 4, 5}}
}

// Valid says in a sentence for the user what is wrong with w, or nil.
func (w Week) Valid() error {
	if _, err := LoadZone(w.Zone); err != nil || w.Zone == "" || w.Zone == "Local" {
		return fmt.Errorf("there is no time zone named %q; use a name such as Europe/Oslo", w.Zone)
	}
	if w.Morning < 0 || w.Morning >= w.Midday || w.Midday >= w.Evening || w.Evening >= 24*60 {
		return fmt.Errorf("the morning has to begin before midday, midday before the evening, and all of them within one day")
	}
	switch w.First {
	case "", OnMonday, OnSaturday, OnSunday:
	default:
		return fmt.Errorf("a week begins on a Monday, a Saturday or a Sunday, not on %q", string(w.First))
	}
	for _, l := range w.Languages {
		if l.tongue() == nil {
			return fmt.Errorf("%q is no language that Ebbe reads; it reads English and %s", string(l), languageNames())
		}
	}
	for _, d := range w.Workdays {
		if d < time.Sunday || d > time.Saturday {
			return fmt.Errorf("%d is no weekday", d)
		}
	}
	return nil
}

// Location is the zone of w; UTC if its name is not known.
func (w Week) Location() *time.Location {
	loc, err := LoadZone(w.Zone)
	if err != nil {
		return time.UTC
	}
	return loc
}

// Works says that d is a working day; without any, every day is.
func (w Week) Works(d time.Weekday) bool {
	for _, x := range w.Workdays {
		if x == d {
			return true
		}
	}
	return len(w.Workdays) == 0
}

// Part is one of the three parts of a day in which things can come back.
type Part int

// The parts of a day.
const (
	Morning Part = iota
	Midday
	Evening
)

func (w Week) start(p Part) int { return [...]int{w.Morning, w.Midday, w.Evening}[p] }

// part says into which part of its day the wall-clock time t falls: midday
// begins at noon at the latest, the hours before the morning belong to it.
func (w Week) part(t time.Time) Part {
	m := t.Hour()*60 + t.Minute()
	switch {
	case m >= w.Evening:
		return Evening
	case m >= min(w.Midday, 12*60):
		return Midday
	}
	return Morning
}

// Cell is one part of one day of the coming week: the Moment at which
// something put there comes back, and how much already waits there.
type Cell struct {
	Moment Moment `json:"moment"`
	Past   bool   `json:"past"`
	Back   int    `json:"back"`
	Due    int    `json:"due"`
}

// Day is one column of the week grid.
type Day struct {
	Start Instant `json:"start"`
	Cells [3]Cell `json:"cells"`
}

// Grid lays out the seven days from today, a Cell for each part, and counts
// into them the times at which things come back and are due.
func (w Week) Grid(now Instant, back, due []Instant) [7]Day {
	loc := w.Location()
	first := midnight(now.In(loc))
	var g [7]Day
	for d := range g {
		day := first.AddDate(0, 0, d)
		g[d].Start = Of(Resolve(day, loc))
		for p := Morning; p <= Evening; p++ {
			m := wallMoment(day.Add(time.Duration(w.start(p))*time.Minute), loc)
			g[d].Cells[p] = Cell{Moment: m, Past: m.At <= now}
		}
	}
	count := func(times []Instant, into func(*Cell) *int) {
		for _, at := range times {
			t := wall(at.In(loc))
			if d := int(midnight(t).Sub(first) / (24 * time.Hour)); at >= g[0].Start && d < len(g) {
				*into(&g[d].Cells[w.part(t)])++
			}
		}
	}
	count(back, func(c *Cell) *int { return &c.Back })
	count(due, func(c *Cell) *int { return &c.Due })
	return g
}

// Say writes m as a person would: "Fri 27 Nov, 13:30", with the year where it
// is not the present one.
func (w Week) Say(m Moment, now Instant) string {
	loc := w.Location()
	t := m.At.In(loc)
	date := "Mon 2 Jan"
	if t.Year() != now.In(loc).Year() {
		date += " 2006"
	}
	if m.WholeDay() {
		return t.Format(date)
	}
	return t.Format(date) + ", " + w.clock(t)
}

// SayMinute says the minute after midnight as the person reads clocks: "7:15",
// "7:15 am".
func (w Week) SayMinute(minute int) string {
	return w.clock(time.Date(2000, 1, 1, 0, minute, 0, 0, time.UTC))
}

func (w Week) clock(t time.Time) string {
	if w.TwelveHour {
		return t.Format("3:04 pm")
	}
	return fmt.Sprintf("%d:%02d", t.Hour(), t.Minute())
}

// At is the instant of the minute after midnight on the date of t (its own
// zone is ignored) on the clocks of loc; see Resolve for what does not exist or
// exists twice.
func At(t time.Time, minute int, loc *time.Location) Instant {
	return Of(Resolve(midnight(t).Add(time.Duration(minute)*time.Minute), loc))
}

// WeeksBefore is the instant at which the clocks of loc showed, n weeks before,
// what they show at i, to the minute.
func (i Instant) WeeksBefore(n int, loc *time.Location) Instant {
	t := i.In(loc)
	return Of(Resolve(wall(t).AddDate(0, 0, -7*n), loc).Add(time.Duration(t.Second())*time.Second + time.Duration(t.Nanosecond())))
}
