package followup

import (
	"testing"
	"time"

	"ebbe/internal/core/when"
)

// Whatever is typed as a line: it is read, and what is read of it is a follow-up.
func FuzzLine(f *testing.F) {
	for _, s := range []string{"ring the mover / fri 10 / opening / urgent", "x / remind 1 day before", "///", "a / every monday / jonas", " / ", "ring / 2h / p1"} {
		f.Add(s)
	}
	w, now := when.Ordinary("Europe/Oslo"), when.Of(time.Date(2026, 11, 24, 9, 42, 0, 0, time.UTC))
	f.Fuzz(func(t *testing.T, line string) {
		a := ReadLine(line, FollowUp{Status: NeedsAction}, known, w, now)
		b := ReadLine(line, FollowUp{Status: NeedsAction}, known, w, now)
		if !a.FollowUp.Equal(b.FollowUp) {
			t.Fatal("read twice, it is two follow-ups")
		}
	})
}
