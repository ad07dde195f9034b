package numbers

import (
	"math"
	"slices"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Ahead is a day to come: what falls on it, what one usually does on such a day, and what is left of it
// when it ends.
type Ahead struct {
	Day    int64
	Off    bool    // no working day, or one that is taken off
	Mail   float64 // conversations to be expected
	Back   int     // conversations that come back
	Pace   float64 // conversations that are decided on a full day (Days)
	Due    int     // minutes of follow-ups that are due
	Events int     // minutes of events within working hours
	Room   int     // minutes of follow-ups that are usually finished on such a day
	Work   int     // minutes of working hours

	Left float64 // conversations left to decide at its end
	Over int     // minutes of follow-ups that are due and not done at its end
}

// LookAhead works out what is left at the end of each day, from what is left now: what comes is decided
// at the usual pace, and what is due is done as far as there is room for it beside events. On a day off
// nothing is; what is not done falls on the next.
func LookAhead(days []Ahead, left, late int) []Ahead {
	days = slices.Clone(days)
	n, over := float64(max(left, 0)), max(late, 0)
	for i := range days {
		d := &days[i]
		n, over = n+d.Mail+float64(d.Back), over+d.Due
		if !d.Off {
			n = max(0, n-d.Pace)
			over = max(0, over-min(d.Room, max(0, d.Work-d.Events)))
		}
		d.Left, d.Over = n, over
	}
	return days
}

// CaughtUp is the first of the days at whose end no more is left with some days taken off than without,
// to less than half a conversation; false if that is none of them.
func CaughtUp(without, with []Ahead) (day int64, ok bool) {
	for i := len(with) - 1; i >= 0; i-- {
		if with[i].Left-without[i].Left >= 0.5 || with[i].Over > without[i].Over {
			if i+1 == len(with) {
				return 0, false
			}
			return with[i+1].Day, true
		}
	}
	if len(with) == 0 {
		return 0, false
	}
	return with[0].Day, true
}

// Days is what days are like, as far as conversations go.
type Days struct {
	Mail  [7]float64 // that come and no rule decides, by the day of the week, from Sunday on
	Pace  [2]float64 // that somebody decides, on days off and on working days, on a full one: three of four are less
	Known int        // days of which that was learned
}

// DaysOf learns it of the counts of the days [from, to), of which the first that has any is the first that
// is known. A day that is far from all others, such as one on which a thousand were decided at once, weighs
// as three times the middle one does, and ten.
func DaysOf(counts []Count, from, to int64, works func(time.Weekday) bool) (d Days) {
	first := to
	mail, decided := map[int64]float64{}, map[int64]float64{}
	for _, c := range counts {
		day := c.Wall.Day()
		switch {
		case c.Measure == Came && c.Detail != string(inbox.Return) && c.Detail != string(inbox.Import):
			mail[day] += float64(c.N)
		case c.Measure == Decided && c.By == "person":
			decided[day] += float64(c.N)
		case c.Measure == Decided:
			mail[day] -= float64(c.N)
		default:
			continue
		}
		first = min(first, day)
	}
	tame := func(of map[int64]float64, most float64) {
		for day := range of {
			of[day] = min(max(of[day], 0), 3*most+10)
		}
	}
	all := func(of map[int64]float64, is func(time.Weekday) bool) (out []float64) {
		for day := max(from, first); day < to; day++ {
			if is(DateOf(day).Weekday()) {
				out = append(out, of[day])
			}
		}
		return out
	}
	every := func(time.Weekday) bool { return true }
	tame(mail, middle(all(mail, every)))
	tame(decided, middle(all(decided, works)))
	for w := range d.Mail {
		those := all(mail, func(day time.Weekday) bool { return int(day) == w })
		for _, n := range those {
			d.Mail[w] += n / float64(len(those))
		}
	}
	for sort := range d.Pace {
		those := all(decided, func(day time.Weekday) bool { return works(day) == (sort == 1) })
		slices.Sort(those)
		if len(those) > 0 {
			d.Pace[sort] = those[len(those)*3/4]
		}
	}
	d.Known = int(max(0, to-max(from, first)))
	return d
}

// Past is what forecasts of days that have been are made of, and held against.
type Past struct {
	Flow   []Flow
	Steps  []Step                                            // all changes of the number left to decide
	Back   []when.Instant                                    // when something came back, which had been on the agenda
	Left   int                                               // left to decide now
	Done   []followup.Past                                   // follow-ups that were finished
	Came   func(from, to when.Instant) float64               // how many messages came
	Expect func(from, to, seen when.Instant) (float64, bool) // how many are to be expected, seen from an instant; false: that is not known
	Week   when.Week
}

// ProvedDays is how many days are looked at.
const ProvedDays = 56

// Prove compares what would have been foreseen in the morning of each working day of eight weeks, from what
// was known then, with what happened.
func Prove(p Past, now when.Instant) (out Proofs) {
	loc := p.Week.Location()
	first := when.Instant(math.MaxInt64)
	for _, f := range p.Flow {
		first = min(first, f.At)
	}
	steps := slices.Clone(p.Steps)
	slices.SortStableFunc(steps, func(a, b Step) int { return int(a.At - b.At) })
	levels := make([]int, len(steps)+1) // before each step, and after the last
	levels[len(steps)] = p.Left
	for i := len(steps) - 1; i >= 0; i-- {
		levels[i] = levels[i+1] - steps[i].Delta
	}
	after := func(at when.Instant) int { // how many steps were not later
		i, _ := slices.BinarySearchFunc(steps, at+1, func(s Step, at when.Instant) int { return int(s.At - at) })
		return i
	}
	zero := func(at, end when.Instant) when.Instant {
		for i := after(at); i < len(steps) && steps[i].At < end; i++ {
			if levels[i+1] <= 0 {
				return steps[i].At
			}
		}
		return end
	}
	finished := func(from, to when.Instant) (n float64) {
		for _, d := range p.Done {
			if d.At >= from && d.At < to {
				n += float64(followup.Remaining(d.Effort, 0))
			}
		}
		return n
	}
	var ours, plain [3][]float64
	add := func(i int, is, says, before float64) {
		ours[i], plain[i] = append(ours[i], math.Abs(says-is)), append(plain[i], math.Abs(before-is))
	}
	for d := 1; d <= ProvedDays; d++ {
		start, end := when.DayStart(now, loc, -d), when.DayStart(now, loc, 1-d)
		weekday := start.In(loc).Weekday()
		if !p.Week.Works(weekday) {
			continue
		}
		start7, end7 := when.DayStart(now, loc, -d-7), when.DayStart(now, loc, -d-6)
		at, at7 := when.At(start.In(loc), p.Week.Morning, loc), when.At(start7.In(loc), p.Week.Morning, loc)
		if first <= start7 {
			if n, known := p.Expect(at, end, at); known {
				add(1, p.Came(at, end), n, p.Came(at7, end7))
			}
			if n, n7 := levels[after(at)], levels[after(at7)]; n > 0 && n7 > 0 {
				var before []Flow
				for _, f := range p.Flow {
					if f.At < start {
						before = append(before, f)
					}
				}
				says := Zero(Foresee(Learn(before, at, loc, p.Week.Works), n, nil, p.Back, at, end, loc, p.Week.Works), n)
				if says == 0 {
					says = end
				}
				add(0, float64(zero(at, end)-at)/60_000, float64(says-at)/60_000, float64(zero(at7, end7)-at7)/60_000)
			}
		}
		var before []followup.Past
		for _, f := range p.Done {
			if f.At < start {
				before = append(before, f)
			}
		}
		if pace := followup.LearnPace(before, at, p.Week); pace.Weeks > 0 {
			add(2, finished(start, end), float64(pace.Minutes[weekday]), finished(start7, end7))
		}
	}
	for i, of := range []*Proof{&out.Zero, &out.Mail, &out.Load} {
		*of = Proof{len(ours[i]), mean(ours[i]), mean(plain[i])}
	}
	return out
}

// mean is 0 of none.
func mean(all []float64) (m float64) {
	for _, n := range all {
		m += n / float64(len(all))
	}
	return m
}

// middle is the median; 0 of none.
func middle(all []float64) float64 {
	if len(all) == 0 {
		return 0
	}
	all = slices.Sorted(slices.Values(all))
	return (all[(len(all)-1)/2] + all[len(all)/2]) / 2
}
