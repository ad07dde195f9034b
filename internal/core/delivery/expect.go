package delivery

import (
	"cmp"
	"math"
	"slices"
	"time"

	"ebbe/internal/core/when"
)

const (
	weeksBack   = 8   // weeks that expectations are made of
	weeksNeeded = 2   // with less there are none
	fading      = 0.8 // how much each week before weighs of the one after it
)

// ArrivedSince is from when on arrivals are needed on the day of now.
func ArrivedSince(now when.Instant, loc *time.Location) when.Instant {
	return when.DayStart(now, loc, -7*weeksBack-horizon)
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

// stretch is a delivery of one stream with what it brings: what arrives from
// since until at, and while mail flows until its end.
type stretch struct {
	since, at, until when.Instant // until is at for a round
}

// stretches are the deliveries of a stream from now until to.
func (s Settings) stretches(stream Stream, now, to when.Instant, loc *time.Location) (out []stretch) {
	c := s.Course(stream, now, to, loc)
	for _, p := range c.Pieces {
		if p.State == StateOpen {
			out = append(out, stretch{at: p.From, until: p.To})
		}
	}
	for _, r := range c.Rounds {
		if !slices.ContainsFunc(out, func(x stretch) bool { return x.at <= r && r < x.until }) {
			out = append(out, stretch{at: r, until: r})
		}
	}
	slices.SortFunc(out, func(x, y stretch) int { return cmp.Compare(x.at, y.at) })
	since := now // from when on what arrives comes in with the next
	if len(out) > 0 && out[0].at > now {
		if last := s.Last(stream, when.DayStart(now, loc, -horizon), now, loc); last.At > 0 {
			since = last.At
		}
	}
	for i := range out {
		out[i].since, since = since, out[i].until
	}
	return out
}

// Ahead are the deliveries from now until to, with what each is expected to
// bring: what arrives since the one before it. Deliveries of both streams at
// the same time are one.
func (s Settings) Ahead(a Arrived, now, to when.Instant, loc *time.Location) (out []Coming) {
	out = []Coming{}
	for _, stream := range Streams {
		for _, x := range s.stretches(stream, now, to, loc) {
			c := Coming{At: x.at, Until: x.until, Streams: []Stream{stream}, Expected: a.Expect(stream, x.since, x.until, now, loc)}
			if c.Round = x.at == x.until; c.Round {
				c.Until = 0
			}
			if i := slices.IndexFunc(out, func(y Coming) bool { return y.At == c.At && y.Until == c.Until }); i >= 0 {
				out[i].Streams, out[i].Expected = append(out[i].Streams, stream), out[i].Expected.plus(c.Expected)
				continue
			}
			out = append(out, c)
		}
	}
	slices.SortStableFunc(out, func(x, y Coming) int { return cmp.Compare(x.At, y.At) })
	return out
}

// Inflow is mail that is expected to come in evenly from At until Until, or all
// at once at At if they are the same.
type Inflow struct {
	At, Until when.Instant
	N         float64
}

// Inflows is the mail that is expected to come in from now until to.
func (s Settings) Inflows(a Arrived, now, to when.Instant, loc *time.Location) (out []Inflow) {
	for _, stream := range Streams {
		for _, x := range s.stretches(stream, now, to, loc) {
			if x.since < x.at {
				out = append(out, Inflow{x.at, x.at, a.Expect(stream, x.since, x.at, now, loc).Mean})
			}
			if x.at < x.until {
				out = append(out, Inflow{x.at, x.until, a.Expect(stream, x.at, x.until, now, loc).Mean})
			}
		}
	}
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
