package when

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestRhythmsInWords(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	now := Of(time.Date(2026, 11, 25, 15, 0, 0, 0, w.Location())) // a Wednesday
	for _, c := range []struct{ words, first, sentence string }{
		{"every 3 working days, twice, then tell me", "2026-11-30 08:00", "Mon 30 Nov, 8:00, then every 3 working days, twice, then you are told"},
		{"every working day until they answer", "2026-11-26 08:00", "Thu 26 Nov, 8:00, then every working day until an answer comes"},
		{"Every Other Day at 14:30 3 times", "2026-11-27 14:30", "Fri 27 Nov, 14:30, then every 2 days, 3 times, then you are told"},
		{"every week", "2026-12-02 08:00", "Wed 2 Dec, 8:00, then every week until an answer comes"},
		{"each monday at 9, at most four times and then tell me", "2026-11-30 09:00", "Mon 30 Nov, 9:00, then every week, 4 times, then you are told"},
		{"daily at 9", "2026-11-26 09:00", "Thu 26 Nov, 9:00, then every day until an answer comes"},
		{"weekly, twice", "2026-12-02 08:00", "Wed 2 Dec, 8:00, then every week, twice, then you are told"},
		{"every two weeks once", "2026-12-09 08:00", "Wed 9 Dec, 8:00, once, then you are told"},
		{"every workday, 2×", "2026-11-26 08:00", "Thu 26 Nov, 8:00, then every working day, twice, then you are told"},
	} {
		r := w.ReadIn(Field{Rhythm: true}, c.words, now)
		require.Empty(t, r.Doubt, "%s: %s", c.words, r.Sentence)
		require.Equal(t, c.first, r.Moment.At.In(w.Location()).Format("2006-01-02 15:04"), c.words)
		require.Equal(t, c.sentence, r.Sentence)
		require.Nil(t, w.Read(c.words, now).Rhythm, "only where a field asks for it")
	}
	for words, part := range map[string]string{
		"every 3 moons":           "“moons” as a distance",
		"every 0 days":            "“0” as a distance",
		"every 400 days":          "1 to 365",
		"every 99999999999999999": "as a rhythm",
		"every day 100 times":     "asks 1 to 99 times",
		"every day zero times":    "asks 1 to 99 times",
		"every day at noonish":    "“noonish” as a time of day",
		"every day and night":     "as a rhythm",
		"every":                   "",
	} {
		r := w.ReadIn(Field{Rhythm: true}, words, now)
		require.Equal(t, Unclear, r.Doubt, words)
		require.Contains(t, r.Sentence, part)
	}
	require.Empty(t, w.ReadIn(Field{Rhythm: true}, "in 3 days", now).Doubt)
}

// A rhythm's next time lies ahead, on a day the rhythm knows and at its clock; what is
// shown of it, typed again, is the same rhythm; whatever is typed never panics.
func TestRhythmsGoOn(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		w := Ordinary(rapid.SampledFrom([]string{"Europe/Oslo", "America/New_York", "Pacific/Apia", "Australia/Lord_Howe"}).Draw(rt, "zone"))
		now := Instant(rapid.Int64Range(1_700_000_000_000, 1_900_000_000_000).Draw(rt, "now"))
		r := Rhythm{Every: rapid.IntRange(1, MaxEvery).Draw(rt, "every"), Unit: rapid.SampledFrom([]RhythmUnit{WorkingDays, Days, Weeks}).Draw(rt, "unit"), Times: rapid.IntRange(0, MaxTimes).Draw(rt, "times")}
		require.NoError(rt, r.Valid())
		read, known := w.ReadRhythm(r.Say(), now)
		require.True(rt, known)
		require.Equal(rt, &r, read.Rhythm, r.Say())
		require.Equal(rt, r.First(w, now), read.Moment)
		next := r.After(read.Moment, w, read.Moment.At)
		require.Greater(rt, next.At, read.Moment.At)
		require.Equal(rt, w.Morning, minuteOf(next.Wall(w.Location())))
		if day := next.Wall(w.Location()); r.Unit == WorkingDays {
			require.True(rt, w.Works(day.Weekday()))
			n := 0 // counted on the fingers
			for d := read.Moment.Wall(w.Location()).AddDate(0, 0, 1); !d.After(day); d = d.AddDate(0, 0, 1) {
				if w.Works(d.Weekday()) {
					n++
				}
			}
			require.Equal(rt, r.Every, n)
		}
		w.ReadRhythm("every "+rapid.StringOf(rapid.SampledFrom([]rune("every 3two,times ateach×7mon until\x00é"))).Draw(rt, "words"), now)
	})
}

func minuteOf(t time.Time) int { return t.Hour()*60 + t.Minute() }
