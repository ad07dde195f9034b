package when

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestStretchesThatHaveBeen(t *testing.T) {
	w := Ordinary("Europe/Stockholm")
	now := Of(time.Date(2026, 11, 24, 10, 42, 0, 0, w.Location())) // a Tuesday
	for phrase, want := range map[string]string{
		"2025": "2025-01-01 2026-01-01", "last year": "2025-01-01 2026-01-01", "this year": "2026-01-01 2027-01-01",
		"october": "2026-10-01 2026-11-01", "Oct 2024": "2024-10-01 2024-11-01", "december": "2025-12-01 2026-01-01", "november": "2026-11-01 2026-12-01", "last november": "2025-11-01 2025-12-01",
		"spring": "2026-03-01 2026-06-01", "last spring": "2026-03-01 2026-06-01", "spring 2024": "2024-03-01 2024-06-01", "the autumn": "2026-09-01 2026-12-01", "winter": "2025-12-01 2026-03-01",
		"last week": "2026-11-16 2026-11-23", "this week": "2026-11-23 2026-11-30", "last month": "2026-10-01 2026-11-01", "this month": "2026-11-01 2026-12-01",
		"the last 7 days": "2026-11-18 2026-11-25", "past 2 weeks": "2026-11-10 2026-11-25",
		"yesterday": "2026-11-23 2026-11-24", "today": "2026-11-24 2026-11-25", "3 nov": "2026-11-03 2026-11-04", "last friday": "2026-11-20 2026-11-21", "3 days ago": "2026-11-21 2026-11-22",
		"2031": "", "crate": "", "": "", "week": "", "spring cleaning": "", "last 0 days": "", "last 9999999 days": "", "last 3 crates": "", "last": "", "last spring 2024": "",
	} {
		s := w.Lately(phrase, now)
		got := ""
		if s != (Stretch{}) {
			got = s.From.In(w.Location()).Format(time.DateOnly) + " " + s.To.In(w.Location()).Format(time.DateOnly)
		}
		require.Equal(t, want, got, phrase)
	}
}

func TestNoStretchBeginsAhead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := Ordinary(rapid.SampledFrom([]string{"Europe/Stockholm", "America/Chicago", "Pacific/Apia", "Asia/Kathmandu"}).Draw(t, "zone"))
		now := Instant(rapid.Int64Range(1_600_000_000_000, 1_900_000_000_000).Draw(t, "now"))
		words := rapid.SliceOfN(rapid.SampledFrom([]string{"last", "this", "the", "past", "3", "two", "days", "weeks", "month", "year", "october", "may", "spring", "winter", "2024", "2029", "yesterday", "fri", "ago"}), 1, 4).Draw(t, "words")
		phrase := ""
		for _, x := range words {
			phrase += x + " "
		}
		if s := w.Lately(phrase, now); s != (Stretch{}) {
			require.Less(t, s.From, s.To)
			require.LessOrEqual(t, s.From, now)
		}
	})
}
