package numbers

import (
	"math"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

var oslo, _ = time.LoadLocation("Europe/Oslo")

func workdays(d time.Weekday) bool { return d >= time.Monday && d <= time.Friday }

// present is Tue 24 Nov 2026, 10:42 in Oslo.
var present = when.Of(time.Date(2026, 11, 24, 9, 42, 0, 0, time.UTC))

// steady is four weeks in which each working day 12 came at nine and 12 were
// decided at ten and two at eighteen.
func steady() (flow []Flow) {
	for d := 1; d <= 28; d++ {
		start := when.DayStart(present, oslo, -d)
		if workdays(start.In(oslo).Weekday()) {
			flow = append(flow, Flow{At: start + 9*Hour, In: 12}, Flow{At: start + 10*Hour, Decided: 10}, Flow{At: start + 18*Hour, Decided: 2})
		}
	}
	return flow
}

func TestLearningThePaceAndTheMail(t *testing.T) {
	h := Learn(steady(), present, oslo, workdays)
	require.Equal(t, 28, h.Days)
	require.Equal(t, 10.0, h.Pace[1][10])
	require.Equal(t, 2.0, h.Pace[1][18])
	require.Zero(t, h.Pace[0][10], "nothing is decided on days off")
	require.Equal(t, 12.0, h.Arrives[time.Tuesday][9])
	require.Zero(t, h.Arrives[time.Sunday][9])
	// One wild day does not move a median.
	flow := append(steady(), Flow{At: when.DayStart(present, oslo, -1) + 10*Hour, Decided: 5000})
	require.Equal(t, 10.0, Learn(flow, present, oslo, workdays).Pace[1][10])
	// Days before there was any mail do not count as days without.
	require.Equal(t, 3, Learn([]Flow{{At: when.DayStart(present, oslo, -3) + 9*Hour, In: 6}}, present, oslo, workdays).Days)
	require.Zero(t, Learn(nil, present, oslo, workdays).Days)
}

func TestForeseeingADay(t *testing.T) {
	h := Learn(steady(), present, oslo, workdays)
	end := when.DayStart(present, oslo, 1)
	slots := Foresee(h, 4, nil, []when.Instant{present + 4*Hour}, present, end, oslo, workdays)
	// 18 minutes of the hour at ten are left: 3 of its 10. One comes back at
	// 14:42, and two are decided from 18:00 on.
	require.InDelta(t, 1, slots[1].Left, 0.01)
	zero := Zero(slots, 4)
	require.Equal(t, "Tue 19:00", zero.In(oslo).Format("Mon 15:04"))
	require.Zero(t, Zero(slots[:3], 4), "not within three slots")
	require.Zero(t, Zero(slots, 0), "nothing left is no forecast")
	require.InDelta(t, 0, slots[len(slots)-1].Left, 0.01)

	// With a round at 14:00 what is expected comes then, and not before.
	round := present + 3*Hour + 18*Hour/60
	slots = Foresee(h, 4, func(after, until when.Instant) float64 {
		if after < round && round <= until {
			return 6
		}
		return 0
	}, nil, present, end, oslo, workdays)
	require.InDelta(t, 1, slots[11].Left, 0.01)
	require.InDelta(t, 7, slots[13].Left, 0.01)
}

// Whatever the habit: never below zero, the present at now, and each slot adds
// up to the next.
func TestForecastsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var h Habit
		per := rapid.Float64Range(0, 40)
		for hour := range 24 {
			h.Pace[0][hour], h.Pace[1][hour] = per.Draw(t, "pace"), per.Draw(t, "pace")
			for d := range 7 {
				h.Arrives[d][hour] = per.Draw(t, "mail")
			}
		}
		left := rapid.IntRange(0, 500).Draw(t, "left")
		now := present + when.Instant(rapid.Int64Range(0, int64(400*24*Hour)).Draw(t, "now"))
		to := now + when.Instant(rapid.Int64Range(0, int64(30*Hour)).Draw(t, "span"))
		var back []when.Instant
		for range rapid.IntRange(0, 5).Draw(t, "n") {
			back = append(back, now+1+when.Instant(rapid.Int64Range(0, int64(30*Hour)).Draw(t, "back")))
		}
		before, at, came := float64(left), now, 0.0
		for _, s := range Foresee(h, left, nil, back, now, to, oslo, workdays) {
			if s.At <= at || s.At > to {
				t.Fatalf("a slot ends at %d after %d", s.At, at)
			}
			if s.Left < 0 || s.In < 0 || s.Out < 0 || math.Abs(before+s.In+s.Back-s.Out-s.Left) > 1e-6 {
				t.Fatalf("%v does not add up after %f", s, before)
			}
			before, at, came = s.Left, s.At, came+s.Back
		}
		due := 0.0
		for _, b := range back {
			if b <= to {
				due++
			}
		}
		if at != to || came != due {
			t.Fatalf("ends at %d, not %d; %f came back, not %f", at, to, came, due)
		}
	})
}

// A steady life is foreseen without a miss; one that changes is not.
func TestTheMissOfPastForecasts(t *testing.T) {
	var flow []Flow
	var steps []Step
	for d := 1; d <= 56; d++ {
		start := when.DayStart(present, oslo, -d)
		flow = append(flow, Flow{At: start + 9*Hour, In: 12}, Flow{At: start + 14*Hour, Decided: 12})
		steps = append(steps, Step{start + 9*Hour, 12}, Step{start + 14*Hour, -12})
	}
	every := func(time.Weekday) bool { return true }
	m := Misses(flow, steps, nil, 0, present, oslo, every)
	require.Equal(t, 28, m.Days)
	require.InDelta(t, 0, m.Median, 0.01)
	for i := range steps { // nothing was decided in the last days of the month
		if steps[i].At > when.DayStart(present, oslo, -20) && steps[i].Delta < 0 {
			steps[i].Delta = 0
		}
	}
	m = Misses(flow, steps, nil, 240, present, oslo, every)
	require.Greater(t, m.Median, 5.0)
	require.Less(t, m.Bias, 0.0, "more was left than foreseen")
	require.Zero(t, Misses(nil, nil, nil, 3, present, oslo, every).Days)
}
