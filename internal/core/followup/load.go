package followup

import (
	"math"
	"time"

	"ebbe/internal/core/when"
)

// UsualEffort is how many minutes a follow-up takes whose effort was not said.
const UsualEffort = 30

// Minutes is the effort of f that is still to be made.
func (f FollowUp) Minutes() int { return Remaining(f.Effort, f.Percent) }

// Load is how many minutes of the day on which f is due it takes: none while it
// waits for somebody else.
func (f FollowUp) Load() int {
	if f.Waiting() {
		return 0
	}
	return f.Minutes()
}

// Remaining is how many minutes are left of an effort of which a part is done.
func Remaining(effort, percent int) int {
	if effort == 0 {
		effort = UsualEffort
	}
	return int(math.Ceil(float64(effort*(100-min(percent, 100))) / 100))
}

// Past is a follow-up that was finished: when, and what effort it took.
type Past struct {
	At     when.Instant
	Effort int // minutes; 0: not said
}

// LearnWeeks is from how many weeks before today a Pace is learned.
const LearnWeeks = 8

// Pace is how many minutes of follow-ups a person usually finishes on each day
// of the week.
type Pace struct {
	Minutes [7]int `json:"minutes"` // from Sunday on
	Weeks   int    `json:"weeks"`   // from how many weeks it was learned; none with less than two
}

// ordinaryDay is what is assumed of a working day until more is known.
const ordinaryDay = 3 * 60

// LearnPace computes the Pace from what was finished in the LearnWeeks before
// the day of now: for each weekday the mean of such days since the first that is
// known. With less than two weeks a working day has three hours.
func LearnPace(done []Past, now when.Instant, w when.Week) (p Pace) {
	loc := w.Location()
	today := when.DayStart(now, loc, 0)
	first := today
	sums := [7]int{}
	for _, d := range done {
		if d.At >= today || d.At < when.DayStart(now, loc, -7*LearnWeeks) {
			continue
		}
		first = min(first, d.At)
		sums[d.At.In(loc).Weekday()] += Remaining(d.Effort, 0)
	}
	days := int(midnight(today.In(loc)).Sub(midnight(first.In(loc))) / (24 * time.Hour))
	if p.Weeks = (days + 6) / 7; p.Weeks < 2 {
		p.Weeks = 0
	}
	seen := [7]int{} // how many days of each kind there were
	for i := range days {
		seen[(int(first.In(loc).Weekday())+i)%7]++
	}
	for d := range p.Minutes {
		switch {
		case p.Weeks > 0:
			p.Minutes[d] = (sums[d] + seen[d]/2) / max(seen[d], 1)
		case w.Works(time.Weekday(d)):
			p.Minutes[d] = ordinaryDay
		}
	}
	return p
}

// Day is what is open on a day against what is usually finished on such a day.
type Day struct {
	Start when.Instant `json:"start"`
	Open  int          `json:"open"`
	Load  int          `json:"load"`  // minutes
	Usual int          `json:"usual"` // minutes
	Over  bool         `json:"over"`  // more than is usual
	Off   bool         `json:"off"`   // no working day
}

// Fits says that so many minutes more still fit into the day.
func (d Day) Fits(minutes int) bool { return d.Load+minutes <= d.Usual }

// Days lays out n days from that of now on; open and minutes are by the day,
// counted from today.
func (p Pace) Days(n int, open, minutes map[int]int, w when.Week, now when.Instant) []Day {
	loc := w.Location()
	days := make([]Day, n)
	for i := range days {
		start := when.DayStart(now, loc, i)
		weekday := start.In(loc).Weekday()
		d := Day{Start: start, Open: open[i], Load: minutes[i], Usual: p.Minutes[weekday], Off: !w.Works(weekday)}
		d.Over = d.Load > d.Usual && d.Open > 0
		days[i] = d
	}
	return days
}

// Free picks up to three of the days after today, counted from it, into which
// so many minutes fit best: the nearest working days with room, or if there is
// none the emptiest ones.
func Free(days []Day, minutes int) (free []int) {
	for i := 1; i < len(days) && len(free) < 3; i++ {
		if !days[i].Off && days[i].Fits(minutes) {
			free = append(free, i)
		}
	}
	if len(free) > 0 {
		return free
	}
	best := 0
	for i := 1; i < len(days); i++ {
		if !days[i].Off && (best == 0 || days[i].Load < days[best].Load) {
			best = i
		}
	}
	return []int{max(best, 1)}
}
