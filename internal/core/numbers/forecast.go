package numbers

import (
	"math"
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// Hour is one hour in milliseconds.
const Hour = when.Instant(3_600_000)

// Flow is what happened in one hour: how many conversations came in, and how
// many the user decided. At is when the hour began.
type Flow struct {
	At      when.Instant
	In      int
	Decided int
}

// Habit is what a user's days are like: the pace at which they decide, by hour
// of the day, on working days and others, and the mail to expect, by hour of
// the week. Its numbers are per hour.
type Habit struct {
	Pace    [2][24]float64 // [0] on days off, [1] on working days
	Arrives [7][24]float64 // from Sunday on
	Days    int            // days from which it was learned
}

// learnedDays is how many days of the past a Habit is learned from.
const learnedDays = 28

// LearnedSince is the first instant whose flow counts for a Habit at now.
func LearnedSince(now when.Instant, loc *time.Location) when.Instant {
	return when.DayStart(now, loc, -learnedDays)
}

// Learn reads the Habit out of the flow of the four weeks before today. The
// pace of an hour is the median over the days of its sort, the arrivals are
// the mean. Days before the first flow do not count: nothing was known then.
func Learn(flow []Flow, now when.Instant, loc *time.Location, works func(time.Weekday) bool) Habit {
	first := when.Instant(math.MaxInt64)
	for _, f := range flow {
		first = min(first, f.At)
	}
	var h Habit
	var decided [2][24]map[string]float64
	var in [7][24]float64
	var days [7]float64
	sort := func(d time.Weekday) int {
		if works(d) {
			return 1
		}
		return 0
	}
	var count [2]int
	known := map[string]bool{}
	for d := 1; d <= learnedDays; d++ {
		start := when.DayStart(now, loc, -d)
		if when.DayStart(now, loc, 1-d) <= first {
			break
		}
		day := start.In(loc)
		known[day.Format(time.DateOnly)] = true
		days[day.Weekday()]++
		count[sort(day.Weekday())]++
		h.Days++
	}
	for _, f := range flow {
		t := f.At.In(loc)
		day := t.Format(time.DateOnly)
		if !known[day] {
			continue
		}
		in[t.Weekday()][t.Hour()] += float64(f.In)
		s := sort(t.Weekday())
		if decided[s][t.Hour()] == nil {
			decided[s][t.Hour()] = map[string]float64{}
		}
		decided[s][t.Hour()][day] += float64(f.Decided)
	}
	for s := range decided {
		for hour, byDay := range decided[s] {
			h.Pace[s][hour] = median(byDay, count[s])
		}
	}
	for d := range in {
		for hour := range in[d] {
			if days[d] > 0 {
				h.Arrives[d][hour] = in[d][hour] / days[d]
			}
		}
	}
	return h
}

// median of the values, as many more being zero as are missing from n.
func median(values map[string]float64, n int) float64 {
	all := make([]float64, 0, n)
	for _, v := range values {
		all = append(all, v)
	}
	for len(all) < n {
		all = append(all, 0)
	}
	if len(all) == 0 {
		return 0
	}
	slices.Sort(all)
	return (all[(len(all)-1)/2] + all[len(all)/2]) / 2
}

// Slot is a piece of the forecast: what comes in, comes back and is decided in
// it, and how many are left at its end.
type Slot struct {
	At   when.Instant // its end
	In   float64
	Back float64
	Out  float64
	Left float64
}

// slotLength is how long the slots of a forecast are.
const slotLength = Hour / 4

// Foresee computes how many will be left to decide from now until to: what is
// left, less the user's own pace, plus the mail to expect and what comes back.
// Each slot adds up: its Left is the Left before it + In + Back − Out, where no
// more goes out than there is. The forecast equals left at now. in is how much
// mail comes in after one instant and until another; nil where it comes in as
// it arrives.
func Foresee(h Habit, left int, in func(after, until when.Instant) float64, back []when.Instant, now, to when.Instant, loc *time.Location, works func(time.Weekday) bool) []Slot {
	var slots []Slot
	n := float64(max(left, 0))
	for at := now; at < to; {
		end := min(at+slotLength-at%slotLength, to)
		share := float64(end-at) / float64(Hour)
		t := at.In(loc)
		s := Slot{At: end, In: h.Arrives[t.Weekday()][t.Hour()] * share}
		if in != nil {
			s.In = in(at, end)
		}
		for _, b := range back {
			if b > at && b <= end {
				s.Back++
			}
		}
		day := 0
		if works(t.Weekday()) {
			day = 1
		}
		s.Out = min(h.Pace[day][t.Hour()]*share, n+s.In+s.Back)
		n += s.In + s.Back - s.Out
		n = max(n, 0)
		s.Left = n
		slots = append(slots, s)
		at = end
	}
	return slots
}

// Zero is when the forecast first comes to less than one half of a
// conversation; 0 if it does not. A forecast of nothing left from the start
// says nothing.
func Zero(slots []Slot, left int) when.Instant {
	if left <= 0 {
		return 0
	}
	for _, s := range slots {
		if s.Left < 0.5 {
			return s.At
		}
	}
	return 0
}
