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
	Low   float64 `json:"low"` // whole; about four times in five it is between Low and High, both included
	High  float64 `json:"high"`
}

// around is e with a range of so many standard deviations, in whole messages.
func (e Expected) around(z, deviation float64) Expected {
	e.Low, e.High = max(math.Round(e.Mean-z*deviation), 0), math.Round(e.Mean+z*deviation)
	return e
}

// and is e with n messages more, which are known.
func (e Expected) and(n int) Expected {
	e.Mean, e.Low, e.High = e.Mean+float64(n), e.Low+float64(n), e.High+float64(n)
	return e
}

// Known says that there is a number.
func (e Expected) Known() bool { return e.Weeks >= weeksNeeded }

// Weeks is how many full weeks of mail there are before now, eight at most.
func (a Arrived) Weeks(now when.Instant, loc *time.Location) (n int) {
	first := a.first()
	for n < weeksBack && now.WeeksBefore(n+1, loc) >= first-day { // a first day without mail is no missing day
		n++
	}
	return n
}

// Expect says how many messages of the stream will arrive from the instant
// from until to, seen from now: as many as in the same hours of the weeks
// before, the last of which weigh most, at the level of the last seven days if
// that has changed. Its range is one as usual; Ahead fits it to how past ones
// did.
func (a Arrived) Expect(stream Stream, from, to, now when.Instant, loc *time.Location) Expected {
	e, deviation := a.expect(stream, from, to, now, loc)
	return e.around(usual, deviation)
}

// usual is how many standard deviations a range has to each side as long as there are
// too few past ones to fit it to.
const usual = 1.28

// expect is what is to be expected, with the standard deviation of a number around it.
func (a Arrived) expect(stream Stream, from, to, now when.Instant, loc *time.Location) (e Expected, deviation float64) {
	e = Expected{Weeks: a.Weeks(now, loc)}
	if !e.Known() || from >= to {
		return e, 0
	}
	back := 0 // weeks until the same hours lie in the past
	for to.WeeksBefore(back, loc) > now && back < weeksBack {
		back++
	}
	var sum, weights, squares float64
	weight := 1.0
	level := a.level(stream, e.Weeks, now, loc)
	for k := max(back, 1); k < max(back, 1)+e.Weeks; k++ {
		n := level * float64(between(a[stream], from.WeeksBefore(k, loc), to.WeeksBefore(k, loc)))
		sum, squares, weights = sum+weight*n, squares+weight*n*n, weights+weight
		weight *= fading
	}
	e.Mean = sum / weights
	scatter := max(squares/weights-e.Mean*e.Mean, 0) * float64(e.Weeks) / float64(e.Weeks-1)
	chance := e.Mean // what falls by chance alone scatters by its mean (Poisson)
	return e, math.Sqrt((scatter+chance)/2 + chance/weights)
}

// changed is by how much, and by how many standard deviations, the mail of a week has to differ from what
// the weeks before it had been for it to be no chance: since then there is more of it, or less.
const (
	changed  = 0.3
	noChance = 2
)

// level is how much mail there is now against the weeks that expectations are made of; 1 unless the last
// seven days were so different that it has changed, as in holidays, or with a new office.
func (a Arrived) level(stream Stream, weeks int, now when.Instant, loc *time.Location) float64 {
	var last, before, all, weights float64
	weight := 1.0
	for k := 1; k <= weeks; k++ {
		n := float64(between(a[stream], now.WeeksBefore(k, loc), now.WeeksBefore(k-1, loc)))
		if k == 1 {
			last = n
		} else {
			before += weight * n
		}
		all, weights = all+weight*n, weights+weight
		weight *= fading
	}
	if weights <= 1 {
		return 1
	}
	usual := before / (weights - 1)
	if off := math.Abs(last - usual); off <= changed*usual || off <= noChance*math.Sqrt(max(usual, 1)) {
		return 1
	}
	return last / max(all/weights, 1)
}

// Record is how the ranges of past deliveries did, each as it would have been said when
// the one before it had come in.
type Record struct {
	Of    int     `json:"of"`    // deliveries of the past weeks of which enough was known, eight weeks at most
	Held  int     `json:"held"`  // that brought as many as was said
	Width float64 `json:"width"` // mean difference of the ends of their ranges, in messages
	Plain float64 `json:"plain"` // the same where all hours are taken for alike, with ranges that hold as often
}

// tried is one past delivery: what was expected of it and what it brought.
type tried struct {
	mean, deviation float64
	plain           float64 // what was expected if all hours are alike
	n               float64
}

// past are the deliveries that the plan in force would have had in the weeks before now.
func (s Settings) past(a Arrived, now when.Instant, loc *time.Location) (out []tried) {
	s.Hand = Hand{}
	for k := weeksBack - weeksNeeded; k >= 1; k-- {
		from, to := now.WeeksBefore(k, loc), now.WeeksBefore(k-1, loc)
		if a.Weeks(from, loc) < weeksNeeded {
			continue
		}
		for _, stream := range s.All() {
			rate := float64(between(a[stream], 0, from)) / max(float64(from)-float64(a.first()), 1)
			for _, x := range s.stretches(stream, from, to, loc) {
				if x.until > now || x.since >= x.until {
					continue
				}
				e, deviation := a.expect(stream, x.since, x.until, x.since, loc)
				out = append(out, tried{e.Mean, deviation, rate * float64(x.until-x.since), float64(between(a[stream], x.since, x.until))})
			}
		}
	}
	return out
}

func (a Arrived) first() when.Instant {
	first := when.Instant(math.MaxInt64)
	for _, times := range a {
		if len(times) > 0 {
			first = min(first, times[0])
		}
	}
	return first
}

const (
	fewTried = 20   // with fewer past deliveries ranges are as usual
	holding  = 0.82 // how often a range is to hold
	widest   = 60   // tenths of a standard deviation
)

// fit is how many standard deviations a range needs to hold as often as it should, by
// past ones, with how it would have done; mean says what was expected, and how sure.
func fit(past []tried, mean func(tried) (float64, float64)) (z float64, held int, width float64) {
	for tenths := 4; tenths <= widest; tenths++ {
		z, held, width = float64(tenths)/10, 0, 0
		for _, t := range past {
			m, deviation := mean(t)
			e := Expected{Mean: m}.around(z, deviation)
			if t.n >= e.Low && t.n <= e.High {
				held++
			}
			width += e.High - e.Low
		}
		if float64(held) >= holding*float64(len(past)) {
			break
		}
	}
	return z, held, width / float64(max(len(past), 1))
}

func byHours(t tried) (mean, deviation float64) { return t.mean, t.deviation }
func plainly(t tried) (mean, deviation float64) { return t.plain, math.Sqrt(t.plain) }

// Tried says how the ranges of the past eight weeks did, under the plan in force.
func (s Settings) Tried(a Arrived, now when.Instant, loc *time.Location) (r Record) {
	past := s.past(a, now, loc)
	if r.Of = len(past); r.Of == 0 {
		return r
	}
	_, r.Held, r.Width = fit(past, byHours)
	_, _, r.Plain = fit(past, plainly)
	return r
}

// between counts the times in [from, to); the times are in order.
func between(times []when.Instant, from, to when.Instant) int {
	i, _ := slices.BinarySearch(times, from)
	j, _ := slices.BinarySearch(times, to)
	return max(j-i, 0)
}

// plus adds what is expected of another stream or stretch.
func (e Expected) plus(o Expected) Expected {
	mean := e.Mean + o.Mean
	low, high := math.Hypot(e.Mean-e.Low, o.Mean-o.Low), math.Hypot(e.High-e.Mean, o.High-o.Mean)
	return Expected{Weeks: max(e.Weeks, o.Weeks), Mean: mean, Low: max(math.Round(mean-low), 0), High: math.Round(mean + high)}
}

// Coming is a delivery ahead: a round at At, or a stretch from At until Until
// in which mail flows.
type Coming struct {
	At       when.Instant `json:"at"`
	Until    when.Instant `json:"until"` // 0 for a round
	Round    bool         `json:"round"`
	Within   string       `json:"within,omitempty"` // the block, or “quiet hours”, in which the round lies
	Streams  []Stream     `json:"streams"`
	Expected Expected     `json:"expected"`
}

// stretch is a delivery of one stream with what it brings: what arrives from
// since until at, and while mail flows until its end.
type stretch struct {
	since, at, until when.Instant // until is at for a round
	within           string       // in what a round lies
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
			out = append(out, stretch{at: r, until: r, within: c.within(r)})
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
// bring: what arrives since the one before it. What is held already, by stream, is
// counted and not expected; nil says that it is not told. Deliveries of several
// streams at the same time are one.
func (s Settings) Ahead(a Arrived, held map[Stream]int, now, to when.Instant, loc *time.Location) (out []Coming) {
	out = []Coming{}
	z := usual
	if past := s.past(a, now, loc); len(past) >= fewTried {
		z, _, _ = fit(past, byHours)
	}
	for _, stream := range s.All() {
		for i, x := range s.stretches(stream, now, to, loc) {
			c := Coming{At: x.at, Until: x.until, Within: x.within, Streams: []Stream{stream}}
			c.Expected = a.brings(held, stream, x, i == 0, z, now, loc)
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

// brings is what a stretch is expected to bring; the first of a stream brings what is
// held.
func (a Arrived) brings(held map[Stream]int, stream Stream, x stretch, first bool, z float64, now when.Instant, loc *time.Location) Expected {
	counted := first && held != nil
	since := x.since
	if counted {
		since = max(since, now)
	}
	e, deviation := a.expect(stream, since, x.until, now, loc)
	if e = e.around(z, deviation); counted {
		e = e.and(held[stream])
	}
	return e
}

// Inflow is mail that is expected to come in evenly from At until Until, or all
// at once at At if they are the same.
type Inflow struct {
	At, Until when.Instant
	N         float64
}

// Inflows is the mail that is expected to come in from now until to; held as for Ahead.
func (s Settings) Inflows(a Arrived, held map[Stream]int, now, to when.Instant, loc *time.Location) (out []Inflow) {
	for _, stream := range s.All() {
		for i, x := range s.stretches(stream, now, to, loc) {
			if x.since < x.at {
				out = append(out, Inflow{x.at, x.at, a.brings(held, stream, stretch{since: x.since, at: x.at, until: x.at}, i == 0, usual, now, loc).Mean})
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
