package numbers

import (
	"math"
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// Miss is by how much forecasts made in the past were wrong.
type Miss struct {
	Days   int     `json:"days"`   // days that could be compared
	Median float64 `json:"median"` // of the differences at the end of the day, in conversations
	Bias   float64 `json:"bias"`   // mean of forecast less fact: above zero means that it expected more to be left
}

// Proof is how far a forecast was off, beside one that says of each day what was a week before: the
// means of the differences.
type Proof struct {
	Days  int     `json:"days"` // that could be compared
	Ours  float64 `json:"ours"`
	Plain float64 `json:"plain"`
}

// Proofs are those of what is foreseen in the morning of a day.
type Proofs struct {
	Zero Proof `json:"zero"` // when nothing is left to decide, in minutes; the end of the day, if never
	Mail Proof `json:"mail"` // how many messages come until the end of the day
	Load Proof `json:"load"` // minutes of follow-ups that are finished on it
}

// Misses compares, for each of the past four weeks' days, the forecast as it
// would have been made at the present time of that day, from what was known
// then, with how many were left at its end. steps are all changes of the
// number left to decide; left is how many there are now; back are the instants
// at which something came back, which were on the agenda before.
func Misses(flow []Flow, steps []Step, back []when.Instant, left int, now when.Instant, loc *time.Location, works func(time.Weekday) bool) Miss {
	at := func(t when.Instant) int { // left at the instant t
		n := left
		for _, s := range steps {
			if s.At > t {
				n -= s.Delta
			}
		}
		return max(n, 0)
	}
	first := when.Instant(math.MaxInt64)
	for _, f := range flow {
		first = min(first, f.At)
	}
	var m Miss
	var off []float64
	sinceMidnight := now - when.DayStart(now, loc, 0)
	for d := 1; d <= learnedDays; d++ {
		start, end := when.DayStart(now, loc, -d), when.DayStart(now, loc, 1-d)
		then := min(start+sinceMidnight, end)
		if first > start-7*24*Hour { // nothing to learn from a week before
			break
		}
		var before []Flow
		for _, f := range flow {
			if f.At < start {
				before = append(before, f)
			}
		}
		slots := Foresee(Learn(before, then, loc, works), at(then), nil, back, then, end, loc, works)
		if len(slots) == 0 {
			continue
		}
		diff := slots[len(slots)-1].Left - float64(at(end-1))
		off = append(off, math.Abs(diff))
		m.Bias += diff
		m.Days++
	}
	if m.Days == 0 {
		return m
	}
	m.Bias /= float64(m.Days)
	slices.Sort(off)
	m.Median = (off[(len(off)-1)/2] + off[len(off)/2]) / 2
	return m
}
