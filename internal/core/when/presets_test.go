package when

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestPresetsFollowTheUsersOwnWeek(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	early := Ordinary("Europe/Oslo")
	early.Workdays = []time.Weekday{time.Tuesday, time.Wednesday, time.Thursday}
	early.Morning = 6*60 + 15
	for _, c := range []struct {
		now  string
		w    Week
		want []string
	}{
		{"2026-11-24T10:42", Ordinary("Europe/Oslo"), []string{"midday Tue 24 13:30", "evening Tue 24 18:00", "tomorrow Wed 25 8:00", "week's end Fri 27 13:30", "next week Mon 30 8:00", "next month Tue 1 8:00"}},
		{"2026-11-24T17:45", Ordinary("Europe/Oslo"), []string{"tomorrow Wed 25 8:00", "week's end Fri 27 13:30", "next week Mon 30 8:00", "next month Tue 1 8:00"}},
		{"2026-11-27T14:00", Ordinary("Europe/Oslo"), []string{"evening Fri 27 18:00", "tomorrow Sat 28 8:00", "next workday Mon 30 8:00", "next month Tue 1 8:00"}},
		{"2026-11-26T09:00", early, []string{"midday Thu 26 13:30", "evening Thu 26 18:00", "tomorrow Fri 27 6:15", "next workday Tue 1 6:15"}},
	} {
		local, err := time.ParseInLocation("2006-01-02T15:04", c.now, oslo)
		require.NoError(t, err)
		var got []string
		for _, p := range c.w.Presets(Of(local)) {
			at := p.Moment.At.In(oslo)
			got = append(got, fmt.Sprintf("%s %s %d:%02d", p.Name, at.Format("Mon 2"), at.Hour(), at.Minute()))
		}
		require.Equal(t, c.want, got, c.now)
	}
}

// Whenever: ahead, in order, and at the beginning of a part of the day.
func TestPresetsLieAhead(t *testing.T) {
	w := Ordinary("America/New_York")
	rapid.Check(t, func(t *rapid.T) {
		now := Instant(rapid.Int64Range(1_700_000_000_000, 1_900_000_000_000).Draw(t, "now"))
		before := now
		for _, p := range w.Presets(now) {
			if p.Moment.At <= before || p.Moment.Realign() != p.Moment {
				t.Fatalf("%s at %v after %v", p.Name, p.Moment, before)
			}
			before = p.Moment.At
		}
		day := rapid.IntRange(1, 28).Draw(t, "day")
		if m := w.MonthDay(day, now); m.At <= now || m.At.In(w.Location()).Day() != day || m.At > now+32*24*3_600_000 {
			t.Fatalf("day %d after %v is %v", day, now, m)
		}
		ahead := rapid.IntRange(1, 20).Draw(t, "ahead")
		m := w.OnDay(Moment{At: now, Local: "2026-11-24T13:30", Zone: w.Zone}, ahead, now)
		if local := m.At.In(w.Location()); local.Hour() != 13 || local.Minute() != 30 || DayStart(m.At, w.Location(), 0) != DayStart(now, w.Location(), ahead) {
			t.Fatalf("%d days after %v is %v", ahead, now, m)
		}
	})
}
