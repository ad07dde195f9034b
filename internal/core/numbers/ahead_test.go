package numbers

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
)

func TestLookingAhead(t *testing.T) {
	day := func(n int64, mail float64, due, events int) Ahead {
		return Ahead{Day: n, Mail: mail, Pace: 20, Due: due, Events: events, Room: 120, Work: 600}
	}
	week := []Ahead{day(1, 20, 100, 0), day(2, 30, 200, 0), day(3, 10, 0, 540)}
	got := LookAhead(week, 5, 30)
	require.Equal(t, []float64{5, 15, 5}, []float64{got[0].Left, got[1].Left, got[2].Left})
	require.Equal(t, []int{10, 90, 30}, []int{got[0].Over, got[1].Over, got[2].Over}, "events leave room for an hour on the third")
	off := append([]Ahead{}, week...)
	off[0].Off = true
	with := LookAhead(off, 5, 30)
	require.Equal(t, []float64{25, 35, 25}, []float64{with[0].Left, with[1].Left, with[2].Left})
	_, ok := CaughtUp(got, with)
	require.False(t, ok, "not within these days")
	quiet := append(append([]Ahead{}, off...), day(4, 0, 0, 0), day(5, 0, 0, 0), day(6, 0, 0, 0))
	plain := append([]Ahead{}, quiet...)
	plain[0].Off = false
	at, ok := CaughtUp(LookAhead(plain, 5, 30), LookAhead(quiet, 5, 30))
	require.True(t, ok)
	require.EqualValues(t, 5, at)
}

// What days are like is learned of those that are known; what a rule decided was never there to decide, and
// a day on which a thousand were decided at once is no measure of a day.
func TestWhatDaysAreLike(t *testing.T) {
	var counts []Count
	monday := DayOf(2026, 10, 26)
	for day := monday; day < monday+28; day++ {
		if !workdays(DateOf(day).Weekday()) {
			continue
		}
		at := Wall(day*24 + 9)
		counts = append(counts, Count{Wall: at, Measure: Came, Detail: "arrive", By: "mail", N: 12}, Count{Wall: at, Measure: Came, Detail: "return", By: "clock", N: 5},
			Count{Wall: at, Measure: Came, Detail: "import", By: "mail", N: 900}, Count{Wall: at, Measure: Decided, Detail: "rule", By: "rule", N: 2}, Count{Wall: at, Measure: Decided, Detail: "archive", By: "person", N: 8 + int(day-monday)%7})
	}
	d := DaysOf(counts, monday-10, monday+28, workdays)
	require.Equal(t, Days{Mail: [7]float64{0, 10, 10, 10, 10, 10, 0}, Pace: [2]float64{0, 11}, Known: 28}, d)
	counts = append(counts, Count{Wall: Wall(monday*24 + 10), Measure: Decided, Detail: "fresh-start", By: "person", N: 5000})
	require.LessOrEqual(t, DaysOf(counts, monday, monday+28, workdays).Pace[1], 12.0)
	require.Zero(t, DaysOf(nil, monday, monday+28, workdays))
}

// Whatever comes: nothing is lost from one day to the next, and whoever takes a day off has no less left.
func TestLookingAheadAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 42).Draw(t, "days")
		days := make([]Ahead, n)
		for i := range days {
			days[i] = Ahead{Day: int64(i), Off: rapid.Bool().Draw(t, "off"), Mail: float64(rapid.IntRange(0, 90).Draw(t, "mail")), Back: rapid.IntRange(0, 9).Draw(t, "back"),
				Pace: float64(rapid.IntRange(0, 90).Draw(t, "pace")), Due: rapid.IntRange(0, 400).Draw(t, "due"), Events: rapid.IntRange(0, 700).Draw(t, "events"), Room: rapid.IntRange(0, 400).Draw(t, "room"), Work: 600}
		}
		left, late := rapid.IntRange(0, 300).Draw(t, "left"), rapid.IntRange(0, 300).Draw(t, "late")
		got := LookAhead(days, left, late)
		was, over := float64(left), late
		for i, d := range got {
			if d.Left > was+d.Mail+float64(d.Back) || d.Left < was+d.Mail+float64(d.Back)-d.Pace || d.Over > over+d.Due || d.Over < over+d.Due-d.Room || d.Left < 0 || d.Over < 0 {
				t.Fatalf("day %d: %v after %f and %d", i, d, was, over)
			}
			was, over = d.Left, d.Over
		}
		off := append([]Ahead{}, days...)
		off[rapid.IntRange(0, n-1).Draw(t, "free")].Off = true
		for i, d := range LookAhead(off, left, late) {
			if d.Left < got[i].Left || d.Over < got[i].Over {
				t.Fatalf("a day off leaves less on day %d", i)
			}
		}
	})
}

// A steady life is foreseen without a miss; where each week differs from the one before, what is made of
// all weeks is nearer than what was a week ago.
func TestForecastsAreProved(t *testing.T) {
	w := when.Ordinary("Europe/Oslo")
	build := func(mail func(week int) int) (p Past) {
		p = Past{Week: w}
		for d := 1; d <= 120; d++ {
			start := when.DayStart(present, oslo, -d)
			if !workdays(start.In(oslo).Weekday()) {
				continue
			}
			n := mail(d / 7)
			p.Flow = append(p.Flow, Flow{At: start + 7*Hour, In: n}, Flow{At: start + 14*Hour, Decided: n + 4}, Flow{At: start + 9*Hour, In: 4})
			p.Steps = append(p.Steps, Step{start + 7*Hour, n}, Step{start + 9*Hour, 4}, Step{start + 14*Hour + Hour/2, -n - 4})
			p.Done = append(p.Done, followup.Past{At: start + 15*Hour, Effort: 10 * n})
		}
		p.Came = func(from, to when.Instant) (n float64) {
			for _, f := range p.Flow {
				if f.At >= from && f.At < to {
					n += float64(f.In)
				}
			}
			return n
		}
		p.Expect = func(from, to, seen when.Instant) (float64, bool) {
			sum, days := 0.0, 0.0
			for _, f := range p.Flow {
				if at := f.At.In(oslo); f.At < seen && f.At >= seen-56*24*Hour && at.Weekday() == from.In(oslo).Weekday() {
					if at.Hour() >= from.In(oslo).Hour() { // and its mornings begin at eight
						sum += float64(f.In)
					}
					if at.Hour() == 9 {
						days++
					}
				}
			}
			return sum / days, days > 1
		}
		return p
	}
	got := Prove(build(func(int) int { return 8 }), present)
	require.Equal(t, 40, got.Zero.Days)
	require.LessOrEqual(t, got.Zero.Ours, 30.0)
	require.Zero(t, got.Mail.Ours)
	require.Zero(t, got.Mail.Plain)
	require.Zero(t, got.Load.Plain)
	require.Zero(t, got.Load.Ours)
	uneven := Prove(build(func(week int) int { return 2 + 12*(week%2) }), present)
	require.Less(t, uneven.Load.Ours, uneven.Load.Plain)
	require.Equal(t, 40, uneven.Load.Days)
	require.Zero(t, Prove(Past{Week: w, Expect: func(_, _, _ when.Instant) (float64, bool) { return 0, false }}, present))
}
