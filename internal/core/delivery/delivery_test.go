package delivery

import (
	"slices"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

func zone(t require.TestingT, name string) *time.Location {
	loc, err := time.LoadLocation(name)
	require.NoError(t, err)
	return loc
}

func at(loc *time.Location, text string) when.Instant {
	t, err := time.Parse("2006-01-02T15:04", text)
	if err != nil {
		panic(err)
	}
	return when.Of(when.Resolve(t, loc))
}

// week is a plan in force whose days are drawn by the lines; machines get none.
func week(t require.TestingT, lines ...string) Settings {
	p := Plan{ID: "p", Name: "Test", People: make([]Day, 7), Machines: make([]Day, 7)}
	for _, text := range lines {
		l, err := ReadLine(text, []time.Weekday{1, 2, 3, 4, 5})
		require.NoError(t, err, text)
		p.People = l.On(p.People)
	}
	s := Usual()
	s.Plans, s.On = []Plan{p}, "p"
	require.NoError(t, s.Valid())
	return s
}

// zones have clocks that change at two, at midnight, by half an hour, late in
// the evening, and not at all.
var zones = []string{"Europe/Oslo", "America/New_York", "Australia/Lord_Howe", "America/Santiago", "Africa/Cairo", "America/Nuuk", "Asia/Kathmandu", "Asia/Beirut", "UTC"}

func drawDay(t *rapid.T) Day {
	m := rapid.OneOf(rapid.Map(rapid.IntRange(0, 47), func(n int) int { return n * 30 }), rapid.IntRange(0, EndOfDay-1), rapid.IntRange(60, 210)) // often near to when clocks change
	span := func(t *rapid.T) Span {
		a, b := m.Draw(t, "from"), m.Draw(t, "to")
		if a == b {
			b = EndOfDay
		}
		return Span{min(a, b), max(a, b)}
	}
	return Day{
		Open:  rapid.SliceOfN(rapid.Custom(span), 0, 2).Draw(t, "open"),
		Quiet: rapid.SliceOfN(rapid.Custom(span), 0, 1).Draw(t, "quiet"),
		Focus: rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Block {
			return Block{span(t), rapid.SampledFrom([]string{"writing", "board"}).Draw(t, "name")}
		}), 0, 1).Draw(t, "focus"),
		Rounds: rapid.SliceOfN(m, 0, 2).Draw(t, "rounds"),
	}
}

// drawn are the streams of drawn settings: "choir" draws no days and comes in with
// newsletters, "copies" draws its own, "weekly" comes at rounds of its own, with a plan or
// without, "deleted" is gone and comes in with people's mail.
var drawn = []Stream{StreamPeople, StreamMachines, "choir", "copies", "weekly", "deleted"}

func drawSettings(t *rapid.T, now when.Instant) Settings {
	days := func(label string) []Day { return rapid.SliceOfN(rapid.Custom(drawDay), 7, 7).Draw(t, label) }
	s := Usual()
	s.Own = []OwnStream{{ID: "choir", Name: "choir", Along: StreamMachines}, {ID: "copies", Name: "copies", Along: StreamPeople},
		{ID: "weekly", Name: "weekly", Along: StreamMachines, At: Rounds{Days: rapid.IntRange(1, 127).Draw(t, "days of weekly"), Minute: rapid.IntRange(0, EndOfDay-1).Draw(t, "minute of weekly")}}}
	s.Plans, s.On = []Plan{{ID: "p", Name: "Drawn", People: days("people"), Machines: days("machines"), Own: map[Stream][]Day{"copies": days("copies")}}}, rapid.SampledFrom([]string{"p", "p", "p", ""}).Draw(t, "on")
	s.Hand.Mode = rapid.SampledFrom([]Mode{ModePlan, ModePlan, ModeHold, ModeOpen}).Draw(t, "hand")
	if s.Hand.Mode != ModePlan && rapid.Bool().Draw(t, "ends") {
		s.Hand.Until.At = now + when.Instant(rapid.IntRange(-100, 3000).Draw(t, "until"))*minuteLong
	}
	return s
}

const minuteLong = when.Instant(60_000)

// slow walks minute by minute and looks at the wall clock, the furthest it has
// shown so far: that is all a plan knows of time.
type slow struct {
	s        Settings
	days     []Day
	loc      *time.Location
	furthest time.Time // wall-clock time carried in UTC
}

// step moves on to t and says whether mail comes in at t.
func (w *slow) step(t when.Instant) bool {
	c := t.In(w.loc)
	wall := time.Date(c.Year(), c.Month(), c.Day(), c.Hour(), c.Minute(), 0, 0, time.UTC)
	before := w.furthest
	if wall.After(w.furthest) {
		w.furthest = wall
	}
	held, opened := false, false
	if w.s.Hand.Mode != ModePlan && (w.s.Hand.Until.At == 0 || t < w.s.Hand.Until.At) {
		held, opened = w.s.Hand.Mode == ModeHold, w.s.Hand.Mode == ModeOpen
	}
	if held || opened || w.days == nil {
		return !held
	}
	for d := before; !d.After(w.furthest.AddDate(0, 0, 1)); d = d.AddDate(0, 0, 1) { // a round whose minute was passed in this step
		for _, r := range w.days[d.Weekday()].Rounds {
			at := time.Date(d.Year(), d.Month(), d.Day(), 0, r, 0, 0, time.UTC)
			if at.After(before) && !at.After(w.furthest) {
				return true
			}
		}
	}
	day, m := w.days[w.furthest.Weekday()], w.furthest.Hour()*60+w.furthest.Minute()
	in := func(s Span) bool { return s.From <= m && m < s.To }
	return slices.ContainsFunc(day.Open, in) && !slices.ContainsFunc(day.Quiet, in) && !slices.ContainsFunc(day.Focus, func(b Block) bool { return in(b.Span) })
}

// The plan function against the slow one: for random plans, zones and times of
// a year, at each minute whether mail comes in, and when what does not will.
func TestJudgeAgainstMinuteByMinute(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		loc := zone(t, rapid.SampledFrom(zones).Draw(t, "zone"))
		start := at(loc, "2026-01-01T00:00") + when.Instant(rapid.IntRange(0, 365*24*60).Draw(t, "start"))*minuteLong
		if _, change := start.In(loc).ZoneBounds(); rapid.Bool().Draw(t, "near a change") && !change.IsZero() && when.Of(change) < start+366*day {
			start = when.Of(change) - when.Instant(rapid.IntRange(0, 30*60).Draw(t, "before"))*minuteLong
		}
		s := drawSettings(t, start)
		stream := rapid.SampledFrom(drawn).Draw(t, "stream")
		ref := &slow{s: s, loc: loc}
		if p := s.Plan(); p != nil {
			ref.days = map[Stream][]Day{StreamPeople: p.People, StreamMachines: p.Machines, "choir": p.Machines, "copies": p.Own["copies"], "deleted": p.People}[stream]
		}
		if r := s.Own[2].At; stream == "weekly" {
			ref.days = make([]Day, 7)
			for d := range ref.days {
				if r.Days>>d&1 == 1 {
					ref.days[d] = Day{Rounds: []int{r.Minute}}
				}
			}
		}
		const look, ahead = 24 * 60, 8*24*60 + 3100
		for m := when.Instant(-2 * look); m < 0; m++ {
			ref.step(start + m*minuteLong)
		}
		in := make([]bool, look+ahead)
		for m := range in {
			in[m] = ref.step(start + when.Instant(m)*minuteLong)
		}
		next := when.Instant(0)
		for m := len(in) - 1; m >= 0; m-- {
			now := start + when.Instant(m)*minuteLong
			if in[m] {
				next = now
			}
			if m < look && (m%7 == 0 || in[m] != in[m+1]) {
				v := s.Judge(Arriving{Stream: stream}, now, loc)
				require.Equal(t, in[m], v.In, "at %s", now.In(loc))
				require.Equal(t, next, v.At, "at %s", now.In(loc))
				last := s.Last(stream, start, now, loc).At
				for k := m; k >= 0 && last == 0; k-- {
					require.False(t, in[k], "nothing came in before %s", now.In(loc))
				}
				if last != 0 {
					require.True(t, in[(last-start)/minuteLong])
				}
			}
		}
	})
}

// Whatever the plan, and whenever the program is off: every message comes in
// exactly once, never before it may, and at its time while the program runs.
func TestEveryMessageComesInOnceAndAtItsTime(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		loc := zone(t, rapid.SampledFrom(zones).Draw(t, "zone"))
		now := at(loc, "2026-03-27T00:00")
		s := drawSettings(t, now)
		stream := rapid.SampledFrom([]Stream{StreamPeople, StreamMachines, "choir", "copies"}).Draw(t, "stream")
		offFrom := now + when.Instant(rapid.IntRange(0, 7*24*60).Draw(t, "off"))*minuteLong
		offTo := offFrom + when.Instant(rapid.IntRange(0, 48*60).Draw(t, "for"))*minuteLong
		arrivals := rapid.SliceOfN(rapid.IntRange(0, 9*24*60), 1, 40).Draw(t, "arrivals")
		slices.Sort(arrivals)
		end := now + 12*day
		held := map[int]when.Instant{} // arrival by message
		land := func(tick when.Instant) {
			oldest := tick + 1
			for _, a := range held {
				oldest = min(oldest, a)
			}
			landing := s.Last(stream, oldest, tick, loc)
			for i, a := range held {
				if landing.At == 0 || a > landing.At {
					continue
				}
				due := s.Next(stream, a, loc).At
				require.GreaterOrEqual(t, tick, due, "not before it may")
				if due < offFrom || due > offTo {
					require.Equal(t, due, tick, "at its time")
				}
				delete(held, i)
			}
		}
		tick, msg := now, 0
		for tick != 0 && tick < end {
			next := s.Changes(tick, loc)
			for msg < len(arrivals) && (next == 0 || now+when.Instant(arrivals[msg])*minuteLong < next) {
				a := now + when.Instant(arrivals[msg])*minuteLong
				if v := s.Judge(Arriving{Stream: stream}, a, loc); !v.In {
					held[msg] = a
				}
				msg++
			}
			if tick = next; tick > offFrom && tick < offTo {
				continue
			}
			if tick != 0 {
				land(tick)
			}
		}
		land(end)
		for _, a := range held {
			due := s.Next(stream, a, loc).At
			require.True(t, due == 0 || due > end, "nothing is stuck: it was to come in at %s", due.In(loc))
		}
	})
}

func TestCourseInWords(t *testing.T) {
	oslo := zone(t, "Europe/Oslo")
	rounds := week(t, "mon–fri 9, 14, 16:30", "tue, thu writing 10:30–12", "wed open 8–10", "sun 19")
	hold := rounds
	hold.Hand = Hand{Mode: ModeHold, Until: when.Moment{At: at(oslo, "2026-11-30T08:00")}}
	open := rounds
	open.Hand = Hand{Mode: ModeOpen, Until: when.Moment{At: at(oslo, "2026-11-24T18:00")}}
	always := hold
	always.Hand.Until = when.Moment{}
	for _, c := range []struct {
		name string
		s    Settings
		now  string
		in   bool
		next string
		why  Why
		said string
	}{
		{"between rounds", rounds, "2026-11-24T10:00", false, "2026-11-24T14:00", WhyShut, ""},
		{"in a block", rounds, "2026-11-24T10:42", false, "2026-11-24T14:00", WhyFocus, "writing"},
		{"at the round itself", rounds, "2026-11-24T14:00", true, "2026-11-24T14:00", WhyRound, ""},
		{"a minute after it", rounds, "2026-11-24T14:01", false, "2026-11-24T16:30", WhyShut, ""},
		{"in the evening, until the hours open", rounds, "2026-11-24T20:00", false, "2026-11-25T08:00", WhyShut, ""},
		{"in open hours", rounds, "2026-11-25T09:30", true, "2026-11-25T09:30", WhyOpen, ""},
		{"over the weekend", rounds, "2026-11-28T12:00", false, "2026-11-29T19:00", WhyShut, ""},
		{"held by hand past several rounds", hold, "2026-11-24T10:00", false, "2026-11-30T09:00", WhyHand, ""},
		{"held by hand without an end", always, "2026-11-24T10:00", false, "", WhyHand, ""},
		{"opened by hand", open, "2026-11-24T10:00", true, "2026-11-24T10:00", WhyOpen, ""},
		{"no plan", Usual(), "2026-11-24T10:00", true, "2026-11-24T10:00", WhyOpen, ""},
		{"a round in the hour that is lost", week(t, "sun 2:30"), "2026-03-29T01:00", false, "2026-03-29T03:00", WhyShut, ""},
		{"a round in the doubled hour, its first", week(t, "sun 2:30"), "2026-10-25T01:00", false, "2026-10-25T02:30", WhyShut, ""},
		{"quiet hours over midnight", week(t, "quiet 18-8"), "2026-11-24T23:00", false, "2026-11-25T08:00", WhyQuiet, ""},
	} {
		v := c.s.Judge(Arriving{Stream: StreamPeople}, at(oslo, c.now), oslo)
		next := when.Instant(0)
		if c.next != "" {
			next = at(oslo, c.next)
		}
		assert.Equal(t, Verdict{In: c.in, At: next, Why: c.why, Name: c.said}, v, c.name)
	}
	second := at(oslo, "2026-10-25T02:30") + 60*minuteLong // 2:30 once more
	assert.NotEqual(t, second, week(t, "sun 2:30").Next(StreamPeople, second-minuteLong, oslo).At, "in the doubled hour a round happens once")
}

func TestStands(t *testing.T) {
	oslo := zone(t, "Europe/Oslo")
	s := week(t, "mon–fri 9, 14", "wed open 8–10, 13–18")
	got := s.Stands(StreamPeople, at(oslo, "2026-11-24T10:42"), oslo)
	assert.Equal(t, Standing{State: StateShut, Until: at(oslo, "2026-11-25T08:00"), Next: Delivery{At: at(oslo, "2026-11-24T14:00"), Round: true}}, got)
	got = s.Stands(StreamPeople, at(oslo, "2026-11-25T15:00"), oslo)
	assert.Equal(t, Standing{State: StateOpen, Until: at(oslo, "2026-11-25T18:00")}, got)
	s.Hand = Hand{Mode: ModeHold, From: 1}
	got = s.Stands(StreamPeople, at(oslo, "2026-11-25T15:00"), oslo)
	assert.Equal(t, Standing{State: StateHand, Hand: true}, got)
	assert.True(t, s.Silent(at(oslo, "2026-11-25T15:00"), oslo))
	s.Hand.Until = when.Moment{At: at(oslo, "2026-12-31T08:00")}
	got = s.Stands(StreamPeople, at(oslo, "2026-11-25T15:00"), oslo)
	assert.Equal(t, s.Hand.Until.At, got.Until)
	assert.Equal(t, Delivery{At: at(oslo, "2026-12-31T09:00"), Round: true}, got.Next)
	assert.Equal(t, at(oslo, "2026-12-31T08:00"), s.Changes(at(oslo, "2026-11-25T15:00"), oslo))
	assert.Equal(t, Standing{State: StateOpen}, Usual().Stands(StreamPeople, 1, oslo))
	assert.Zero(t, Usual().Changes(1, oslo))
}

func TestLetThrough(t *testing.T) {
	now := at(time.UTC, "2026-11-24T10:00")
	for _, c := range []struct {
		entry Exception
		m     Arriving
		lets  bool
	}{
		{Exception{By: BySender, Value: "halvard@lindqvist.example"}, Arriving{From: "halvard@lindqvist.example"}, true},
		{Exception{By: BySender, Value: "halvard@lindqvist.example"}, Arriving{From: "not-halvard@lindqvist.example"}, false},
		{Exception{By: ByDomain, Value: "coastline.example"}, Arriving{From: "mirela@coastline.example"}, true},
		{Exception{By: ByDomain, Value: "coastline.example"}, Arriving{From: "mirela@depot.coastline.example"}, true},
		{Exception{By: ByDomain, Value: "coastline.example"}, Arriving{From: "x@notcoastline.example"}, false},
		{Exception{By: ByOwn, Value: "loans@museum.example"}, Arriving{To: []string{"a@b.example", "loans@museum.example"}}, true},
		{Exception{By: ByOwn, Value: "loans@museum.example"}, Arriving{To: []string{"a@b.example"}}, false},
		{Exception{By: ByWords, Value: "Customs form"}, Arriving{Subject: "The CUSTOMS form, once more"}, true},
		{Exception{By: ByWords, Value: "customs"}, Arriving{Text: "it is at customs."}, true},
		{Exception{By: ByWords, Value: "custom"}, Arriving{Text: "it is at customs."}, false},
		{Exception{By: ByWords, Value: "customs form"}, Arriving{Subject: "customs", Text: "form"}, false},
		{Exception{By: ByWritten, Days: 14}, Arriving{Written: now - 13*day}, true},
		{Exception{By: ByWritten, Days: 14}, Arriving{Written: now - 15*day}, false},
		{Exception{By: ByWritten, Days: 14}, Arriving{}, false},
		{Exception{By: ByWaited}, Arriving{Waited: true}, true},
		{Exception{By: ByWaited}, Arriving{}, false},
	} {
		c.entry.ID, c.m.Stream = "e", StreamPeople
		s := week(t, "shut")
		s.Through = []Exception{c.entry}
		require.NoError(t, s.Valid())
		v := s.Judge(c.m, now, time.UTC)
		assert.Equal(t, c.lets, v.In, "%v %v", c.entry, c.m)
		if c.lets {
			assert.Equal(t, Verdict{In: true, At: now, Why: WhyThrough, Entry: "e"}, v)
		}
	}
	for _, e := range []Exception{{By: BySender, Value: "nobody"}, {By: ByDomain, Value: "a b"}, {By: ByWords, Value: "…"}, {By: ByWritten}, {By: "luck"}, {By: BySender, Value: "A@b.example"}} {
		assert.Error(t, e.Valid(), "%v", e)
	}
}

func TestAnswers(t *testing.T) {
	s := week(t, "9")
	s.Since, s.Plans[0].Answer, s.Plans[0].Contact = 5, "Hello [name], back [next delivery]. Else [contact].", "Tomasz"
	asks := Asking{Arriving: Arriving{Stream: StreamPeople}, AnswerTo: "mirela@coastline.example", Named: true}
	now := at(time.UTC, "2026-11-24T10:00")
	held := s.Judge(asks.Arriving, now, time.UTC)
	r, ok := s.Answer(asks, held, now)
	require.True(t, ok)
	assert.Equal(t, Reply{Hold: "plan-p-5", To: "mirela@coastline.example", Text: s.Plans[0].Answer, Contact: "Tomasz"}, r)
	assert.Equal(t, "Hello Mirela, back Wed 9:00. Else Tomasz.", Fill(r.Text, map[string]string{BlankName: "Mirela", BlankNext: "Wed 9:00", BlankContact: "Tomasz"}))

	for name, change := range map[string]func(*Asking, *Verdict, *Settings){
		"it is in":               func(_ *Asking, v *Verdict, _ *Settings) { v.In = true },
		"a machine's":            func(m *Asking, _ *Verdict, _ *Settings) { m.Stream = StreamMachines },
		"may not be answered":    func(m *Asking, _ *Verdict, _ *Settings) { m.AnswerTo = "" },
		"the reader's own":       func(m *Asking, _ *Verdict, _ *Settings) { m.Own = true },
		"a copy to many":         func(m *Asking, _ *Verdict, _ *Settings) { m.Named = false },
		"nothing was written":    func(_ *Asking, _ *Verdict, s *Settings) { s.Plans[0].Answer = "" },
		"held by hand, silently": func(_ *Asking, _ *Verdict, s *Settings) { s.Hand = Hand{Mode: ModeHold} },
	} {
		m, v, q := asks, held, s
		q.Plans = slices.Clone(s.Plans)
		change(&m, &v, &q)
		_, ok := q.Answer(m, v, now)
		assert.False(t, ok, name)
	}
	s.Hand = Hand{Mode: ModeHold, From: 77, Answer: "Away."}
	r, _ = s.Answer(asks, held, now)
	assert.Equal(t, "hand-77", r.Hold, "another hold, another answer")
	s.Hand.Answer = "Ask [whom]"
	assert.ErrorContains(t, s.Valid(), "[whom] cannot be filled")
}

func TestExpectations(t *testing.T) {
	oslo := zone(t, "Europe/Oslo")
	now := at(oslo, "2026-11-24T10:00")
	var times []when.Instant
	for k := 4; k >= 1; k-- { // Tuesdays: 4, 6, 8 and last week 10 between 12 and 14
		for i := range 12 - 2*k {
			times = append(times, at(oslo, "2026-11-24T12:00").WeeksBefore(k, oslo)+when.Instant(i)*minuteLong)
		}
	}
	a := Arrived{StreamPeople: times}
	e := a.Expect(StreamPeople, at(oslo, "2026-11-24T12:00"), at(oslo, "2026-11-24T14:00"), now, oslo)
	assert.Equal(t, 4, e.Weeks)
	assert.InDelta(t, (10+8*.8+6*.64+4*.512)/(1+.8+.64+.512), e.Mean, 1e-9, "the last weeks weigh more")
	assert.Less(t, e.Low, e.Mean)
	assert.Greater(t, e.High, e.Mean)
	assert.Zero(t, a.Expect(StreamPeople, at(oslo, "2026-11-25T12:00"), at(oslo, "2026-11-25T14:00"), now, oslo).Mean, "nothing comes on Wednesdays")
	assert.Zero(t, a.Expect(StreamMachines, at(oslo, "2026-11-24T12:00"), at(oslo, "2026-11-24T14:00"), now, oslo).Mean)

	few := Arrived{StreamPeople: times[len(times)-10:]}
	assert.False(t, few.Expect(StreamPeople, now, now+day, now, oslo).Known(), "a week of mail is too little")

	s := week(t, "mon–fri 9, 14, 16:30")
	ahead := s.Ahead(a, nil, now, at(oslo, "2026-11-26T00:00"), oslo)
	require.Len(t, ahead, 5)
	assert.Equal(t, at(oslo, "2026-11-24T14:00"), ahead[0].At)
	assert.InDelta(t, e.Mean, ahead[0].Expected.Mean, 1e-9, "all that comes since the round of nine")
	assert.Zero(t, ahead[1].Expected.Mean)

	// What the forecast takes in: all at once at the round, evenly while mail flows.
	flows := s.Inflows(a, nil, now, at(oslo, "2026-11-24T15:00"), oslo)
	require.Len(t, flows, 1)
	assert.Equal(t, flows[0].At, flows[0].Until)
	assert.InDelta(t, e.Mean, flows[0].N, 1e-9)
	open := week(t, "tue open 13–15")
	flows = open.Inflows(a, nil, now, at(oslo, "2026-11-24T18:00"), oslo)
	require.Len(t, flows, 2, "what has waited, and what flows")
	assert.Equal(t, at(oslo, "2026-11-24T13:00"), flows[0].Until)
	assert.Equal(t, at(oslo, "2026-11-24T15:00"), flows[1].Until)
	assert.InDelta(t, e.Mean, flows[0].N+flows[1].N, 1e-9)

	// Both streams at one round are one delivery, surer than the sum of both alone.
	s.Plans[0].Machines = s.Plans[0].People
	a[StreamMachines] = times
	both := s.Ahead(a, nil, now, at(oslo, "2026-11-24T15:00"), oslo)
	require.Len(t, both, 1)
	assert.Equal(t, Streams, both[0].Streams)
	assert.InDelta(t, 2*e.Mean, both[0].Expected.Mean, 1e-9)
	assert.Less(t, both[0].Expected.High-both[0].Expected.Mean, 2*(e.High-e.Mean))

	w := Wait(s.Plans[0].People, times, now, oslo)
	assert.Equal(t, len(times), w.Messages)
	assert.InDelta(t, 117*60_000, float64(w.Median), 3*60_000, "they came about noon and wait for two o’clock")
	assert.LessOrEqual(t, w.Median, w.Ninety)
	assert.Equal(t, len(times), Wait(week(t, "shut").Plans[0].People, times, now, oslo).Never)
}

// What is expected of a stretch is what is expected of its parts.
func TestExpectationsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		loc := zone(t, rapid.SampledFrom(zones).Draw(t, "zone"))
		now := at(loc, "2026-11-24T10:00")
		var times []when.Instant
		for _, m := range rapid.SliceOfN(rapid.IntRange(1, 60*24*60), 20, 200).Draw(t, "arrivals") {
			times = append(times, now-when.Instant(m)*minuteLong)
		}
		slices.Sort(times)
		a := Arrived{StreamPeople: times}
		from := now - when.Instant(rapid.IntRange(0, 600).Draw(t, "since"))*minuteLong
		mid := from + when.Instant(rapid.IntRange(0, 2000).Draw(t, "mid"))*minuteLong
		to := mid + when.Instant(rapid.IntRange(0, 2000).Draw(t, "to"))*minuteLong
		whole := a.Expect(StreamPeople, from, to, now, loc)
		parts := a.Expect(StreamPeople, from, mid, now, loc).Mean + a.Expect(StreamPeople, mid, to, now, loc).Mean
		assert.InDelta(t, whole.Mean, parts, 1e-6)
	})
}
