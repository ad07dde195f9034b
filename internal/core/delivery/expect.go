package delivery

import (
	"math"
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// Arrived are the instants at which messages of each stream arrived in the
// past, in order.
type Arrived map[Stream][]when.Instant

const (
	weeksBack   = 8   // weeks that expectations are made of
	weeksNeeded = 2   // with less there are none
	fading      = 0.8 // how much each week before weighs of the one after it
)

// ArrivedSince is from when on arrivals are needed at now.
func ArrivedSince(now when.Instant, loc *time.Location) when.Instant {
	return now.WeeksBefore(weeksBack, loc)
}

// Expected is how many messages are to be expected.
type Expected struct {
	Weeks int     `json:"weeks"` // of mail it was made from; with less than two there is no number
	Mean  float64 `json:"mean"`
	Low   float64 `json:"low"` // four times in five it is between Low and High, if weeks are like those before
	High  float64 `json:"high"`
}

// Known says that there is a number.
func (e Expected) Known() bool { return e.Weeks >= weeksNeeded }

// Weeks is how many full weeks of mail there are before now, eight at most.
func (a Arrived) Weeks(now when.Instant, loc *time.Location) (n int) {
	first := when.Instant(math.MaxInt64)
	for _, times := range a {
		if len(times) > 0 {
			first = min(first, times[0])
		}
	}
	for n < weeksBack && now.WeeksBefore(n+1, loc) >= first-day { // a first day without mail is no missing day
		n++
	}
	return n
}

// Expect says how many messages of the stream will arrive from the instant
// from until to, seen from now: as many as in the same hours of the weeks
// before, the last of which weigh most.
func (a Arrived) Expect(stream Stream, from, to, now when.Instant, loc *time.Location) Expected {
	e := Expected{Weeks: a.Weeks(now, loc)}
	if !e.Known() || from >= to {
		return e
	}
	back := 0 // weeks until the same hours lie in the past
	for to.WeeksBefore(back, loc) > now && back < weeksBack {
		back++
	}
	var sum, weights, squares float64
	weight := 1.0
	for k := max(back, 1); k < max(back, 1)+e.Weeks; k++ {
		n := float64(between(a[stream], from.WeeksBefore(k, loc), to.WeeksBefore(k, loc)))
		sum, squares, weights = sum+weight*n, squares+weight*n*n, weights+weight
		weight *= fading
	}
	e.Mean = sum / weights
	spread := 1.28 * math.Sqrt(max(squares/weights-e.Mean*e.Mean, 0))
	e.Low, e.High = max(e.Mean-spread, 0), e.Mean+spread
	return e
}

// between counts the times in [from, to); the times are in order.
func between(times []when.Instant, from, to when.Instant) int {
	i, _ := slices.BinarySearch(times, from)
	j, _ := slices.BinarySearch(times, to)
	return max(j-i, 0)
}

// plus adds what is expected of another stream or stretch.
func (e Expected) plus(o Expected) Expected {
	spread := math.Hypot(e.High-e.Mean, o.High-o.Mean)
	mean := e.Mean + o.Mean
	return Expected{Weeks: max(e.Weeks, o.Weeks), Mean: mean, Low: max(mean-spread, 0), High: mean + spread}
}

// Coming is a delivery ahead: a round at At, or a stretch from At until Until
// in which mail flows.
type Coming struct {
	At       when.Instant `json:"at"`
	Until    when.Instant `json:"until"` // 0 for a round
	Round    bool         `json:"round"`
	Streams  []Stream     `json:"streams"`
	Expected Expected     `json:"expected"`
}

// Ahead are the deliveries from now until to, with what each is expected to
// bring: what arrives since the one before it. Deliveries of both streams at
// the same time are one.
func (s Settings) Ahead(a Arrived, now, to when.Instant, loc *time.Location) (out []Coming) {
	for _, stream := range Streams {
		c := s.Course(stream, now, to, loc)
		var here []Coming
		for _, p := range c.Pieces {
			if p.State == StateOpen {
				here = append(here, Coming{At: p.From, Until: p.To})
			}
		}
		for _, r := range c.Rounds {
			if !slices.ContainsFunc(here, func(p Coming) bool { return p.At <= r && r < p.Until }) {
				here = append(here, Coming{At: r, Round: true})
			}
		}
		slices.SortFunc(here, func(x, y Coming) int { return int(x.At - y.At) })
		since := now // from when on what arrives comes in with the next
		if len(here) > 0 && here[0].At > now {
			if last := s.Last(stream, when.DayStart(now, loc, -horizon), now, loc); last.At > 0 {
				since = last.At
			}
		}
		for _, x := range here {
			until := max(x.At, x.Until)
			x.Expected = a.Expect(stream, since, until, now, loc)
			since = until
			if i := slices.IndexFunc(out, func(y Coming) bool { return y.At == x.At && y.Until == x.Until }); i >= 0 {
				out[i].Streams, out[i].Expected = append(out[i].Streams, stream), out[i].Expected.plus(x.Expected)
				continue
			}
			x.Streams = []Stream{stream}
			out = append(out, x)
		}
	}
	slices.SortStableFunc(out, func(x, y Coming) int { return int(x.At - y.At) })
	return out
}

// Waits is how long messages would have waited under a plan.
type Waits struct {
	Messages int          `json:"messages"`
	Median   when.Instant `json:"median"` // milliseconds
	Ninety   when.Instant `json:"ninety"` // nine of ten waited no longer, milliseconds
	Never    int          `json:"never"`  // would not have come in by themselves
}

// waited is for how many days back Waits looks.
const waited = 28

// Wait computes how long the messages of the past four weeks would have waited
// under the days of a plan.
func Wait(days []Day, arrived []when.Instant, now when.Instant, loc *time.Location) (w Waits) {
	from := when.DayStart(now, loc, -waited)
	i, _ := slices.BinarySearch(arrived, from)
	j, _ := slices.BinarySearch(arrived, now)
	arrived = arrived[i:max(i, j)]
	c := courseOf(days, from, when.DayStart(now, loc, horizon), loc)
	var waits []when.Instant
	piece, round := 0, 0
	for _, t := range arrived {
		for piece < len(c.Pieces) && (c.Pieces[piece].State != StateOpen || c.Pieces[piece].To <= t) {
			piece++
		}
		for round < len(c.Rounds) && c.Rounds[round] < t {
			round++
		}
		in := when.Instant(-1)
		if piece < len(c.Pieces) {
			in = max(t, c.Pieces[piece].From)
		}
		if round < len(c.Rounds) && (in < 0 || c.Rounds[round] < in) {
			in = c.Rounds[round]
		}
		if in < 0 {
			w.Never++
			continue
		}
		waits = append(waits, in-t)
	}
	slices.Sort(waits)
	if w.Messages = len(arrived); len(waits) > 0 {
		w.Median, w.Ninety = waits[(len(waits)-1)/2], waits[(len(waits)-1)*9/10]
	}
	return w
}
