package when

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"
	"pgregory.net/rapid"
)

func TestRulesFromWords(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	for _, c := range []struct{ words, rule, said string }{
		{"every monday", "FREQ=WEEKLY;BYDAY=MO", "every week on Mon"},
		{"every mon and thu", "FREQ=WEEKLY;BYDAY=MO,TH", "every week on Mon and Thu"},
		{"every workday", "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "every week on Mon, Tue, Wed, Thu and Fri"},
		{"every day", "FREQ=DAILY", "every day"},
		{"daily 5 times", "FREQ=DAILY;COUNT=5", "every day, 5 times"},
		{"every 2 weeks", "FREQ=WEEKLY;INTERVAL=2", "every 2 weeks"},
		{"every other week on fri", "FREQ=WEEKLY;INTERVAL=2;BYDAY=FR", "every 2 weeks on Fri"},
		{"monthly", "FREQ=MONTHLY", "every month"},
		{"every month on the 3rd", "FREQ=MONTHLY;BYMONTHDAY=3", "every month on day 3"},
		{"every 31st", "FREQ=MONTHLY;BYMONTHDAY=-1", "every month on the last day"},
		{"every 30th", "FREQ=MONTHLY;BYMONTHDAY=28,29,30;BYSETPOS=-1", "every month on day 30"},
		{"every last friday", "FREQ=MONTHLY;BYDAY=-1FR", "every month on last Fri"},
		{"every first monday of the month", "FREQ=MONTHLY;BYDAY=1MO", "every month on first Mon"},
		{"every 24 dec", "FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=24", "every year on 24 Dec"},
		{"yearly until 2030-01-01", "FREQ=YEARLY;UNTIL=20300101", "every year until 1 Jan 2030"},
		{"weekly until 24 dec", "FREQ=WEEKLY;UNTIL=20261224", "every week until 24 Dec 2026"},
	} {
		r, known := w.ReadRule(c.words, tuesday)
		require.True(t, known, c.words)
		require.Empty(t, r.Wrong, c.words)
		require.Equal(t, c.rule, r.Rule, c.words)
		require.Equal(t, c.said, SayRule(r.Rule, w.Location()), c.words)
	}
	r, _ := w.ReadRule("every 10 days after it is done", tuesday)
	require.Equal(t, RuleReading{Rule: "FREQ=DAILY;INTERVAL=10", FromDone: true}, r)
	r, _ = w.ReadRule("every day not on days off", tuesday)
	require.True(t, r.DaysOff)
	r, known := w.ReadRule("every banana", tuesday)
	require.True(t, known)
	require.Contains(t, r.Wrong, "every banana")
	_, known = w.ReadRule("fri 10", tuesday)
	require.False(t, known)
}

func TestRulesThatCannotBe(t *testing.T) {
	for text, want := range map[string]error{"": ErrRecur, "FREQ=SOMETIMES": ErrRecur, "FREQ=HOURLY": ErrFine, "FREQ=DAILY;BYHOUR=9,15": ErrFine, "FREQ=MONTHLY;BYMONTHDAY=40": ErrRecur} {
		_, err := ParseRecur(text, time.UTC)
		require.ErrorIs(t, err, want, text)
	}
	never, err := ParseRecur("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", time.UTC)
	require.NoError(t, err)
	require.Empty(t, slices.Collect(never.Falls(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC), true)), "it ends, and finds nothing")
}

var anyRule = rapid.Custom(func(t *rapid.T) string {
	rule := rapid.SampledFrom([]string{"FREQ=DAILY", "FREQ=WEEKLY", "FREQ=WEEKLY;BYDAY=MO,TH", "FREQ=MONTHLY", "FREQ=MONTHLY;BYMONTHDAY=-1", "FREQ=MONTHLY;BYDAY=-1FR",
		"FREQ=MONTHLY;BYMONTHDAY=28,29,30;BYSETPOS=-1", "FREQ=YEARLY", "FREQ=YEARLY;BYMONTH=3,10;BYDAY=-1SU"}).Draw(t, "rule")
	if n := rapid.IntRange(1, 4).Draw(t, "interval"); n > 1 {
		rule += ";INTERVAL=" + string(rune('0'+n))
	}
	return rule + rapid.SampledFrom([]string{"", ";COUNT=7", ";UNTIL=20271231T235959Z"}).Draw(t, "end")
})

// Over any rule, zone and beginning, the wall-clock times are those of the
// library's own expansion, and each instant shows just that time on the clocks
// of the zone, unless the clocks leave it out.
func TestRulesFallAsTheLibraryExpandsThem(t *testing.T) {
	zones := []string{"Europe/Oslo", "America/New_York", "Australia/Lord_Howe", "Asia/Kolkata", "America/St_Johns", "Africa/Casablanca", "UTC"}
	rapid.Check(t, func(t *rapid.T) {
		zone := rapid.SampledFrom(zones).Draw(t, "zone")
		loc, err := time.LoadLocation(zone)
		require.NoError(t, err)
		rule := anyRule.Draw(t, "recur")
		first := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(rapid.IntRange(0, 366*24*60).Draw(t, "minute")) * time.Minute)
		r, err := ParseRecur(rule, time.UTC)
		require.NoError(t, err)
		opt, err := rrule.StrToROption(rule)
		require.NoError(t, err)
		opt.Dtstart = first
		theirs, err := rrule.NewRRule(*opt)
		require.NoError(t, err)
		next, n := theirs.Iterator(), 0
		last := Instant(0)
		for got := range r.Falls(first, true) {
			want, ok := next()
			require.True(t, ok)
			require.True(t, want.Equal(got), "%s: %s, not %s", rule, got, want)
			m := AtWall(got, loc)
			shown := wall(m.At.In(loc))
			require.True(t, shown.Equal(got) || shown.After(got) && shown.Sub(got) <= time.Hour, "%s in %s is shown as %s", got, zone, shown)
			require.Greater(t, m.At, last, "in order")
			last = m.At
			if n++; n == 60 {
				return
			}
		}
		if _, more := next(); !r.Endless() {
			require.False(t, more)
		}
	})
}

// The end of a leap year lies beyond the changes of the clocks that zones list
// one by one; it is a time like any other.
func TestEndOfALeapYear(t *testing.T) {
	for _, zone := range []string{"Europe/Oslo", "America/New_York", "Australia/Lord_Howe"} {
		require.Equal(t, "2040-12-31T08:00", Moment{Local: "2040-12-31T08:00", Zone: zone}.Realign().At.In(loadZone(t, zone)).Format(wallTime))
	}
}

func loadZone(t *testing.T, name string) *time.Location {
	loc, err := time.LoadLocation(name)
	require.NoError(t, err)
	return loc
}

// Stepping over what lies before gives what walking through it gives.
func TestFallsFromIsWhatWalkingGives(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		freq := rapid.SampledFrom([]string{"DAILY", "WEEKLY", "MONTHLY", "YEARLY"}).Draw(rt, "freq")
		text := "FREQ=" + freq
		if n := rapid.IntRange(1, 7).Draw(rt, "interval"); n > 1 {
			text += fmt.Sprintf(";INTERVAL=%d", n)
		}
		switch rapid.IntRange(0, 7).Draw(rt, "by") {
		case 0:
			text += ";BYDAY=MO,TH"
		case 1:
			if freq == "MONTHLY" || freq == "YEARLY" {
				text += ";BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1"
			}
		case 2:
			if freq == "MONTHLY" {
				text += ";BYMONTHDAY=29,31"
			}
		case 3:
			text += ";BYMONTH=2,8"
		case 4:
			text += ";COUNT=40"
		case 5:
			text += ";UNTIL=20330601T000000"
		case 6:
			text += ";WKST=SU"
		}
		r, err := ParseRecur(text, time.UTC)
		require.NoError(rt, err)
		first := time.Date(2020, time.Month(rapid.IntRange(1, 12).Draw(rt, "month")), rapid.IntRange(1, 31).Draw(rt, "day"), rapid.IntRange(0, 23).Draw(rt, "hour"), 30, 0, 0, time.UTC)
		from := first.AddDate(0, 0, rapid.IntRange(-100, 6000).Draw(rt, "days")).Add(time.Duration(rapid.IntRange(-12, 12).Draw(rt, "hours")) * time.Hour)
		var want, got []time.Time
		for at := range r.Falls(first, true) {
			if !at.Before(from) {
				want = append(want, at)
			}
			if len(want) == 20 {
				break
			}
		}
		for at := range r.FallsFrom(first, from) {
			if got = append(got, at); len(got) == 20 {
				break
			}
		}
		require.Equal(rt, want, got, "%s from %s, seen from %s", text, first, from)
	})
}

// A daily event of ten years costs no more to lay out than one of today.
func TestWhatLiesBeforeCostsNothing(t *testing.T) {
	r, err := ParseRecur("FREQ=DAILY", time.UTC)
	require.NoError(t, err)
	first := time.Date(2016, 11, 24, 9, 0, 0, 0, time.UTC)
	week := func(first time.Time) {
		n := 0
		for range r.FallsFrom(first, time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)) {
			if n++; n == 7 {
				return
			}
		}
	}
	young := testing.AllocsPerRun(10, func() { week(first.AddDate(10, 0, -10)) })
	old := testing.AllocsPerRun(10, func() { week(first) })
	require.LessOrEqual(t, old, 2*young+20)
}
