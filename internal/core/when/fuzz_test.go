package when

import (
	"testing"
	"time"
)

var fuzzNow = Of(time.Date(2026, 11, 24, 9, 42, 0, 0, time.UTC))

// Whatever is typed as a time: it is read as one ahead, or there is a doubt, and
// always a sentence.
func FuzzPhrase(f *testing.F) {
	for _, s := range []string{"fri 10", "in 3 days", "first monday of march", "24 dec 9:00", "next week", "tomorrow", "2h", "à 14h", "31.02.", "", "99:99", "in 999999999999 years", "noon noon"} {
		f.Add(s)
	}
	w := Ordinary("Europe/Oslo")
	f.Fuzz(func(t *testing.T, phrase string) {
		r := w.Read(phrase, fuzzNow)
		if r.Moment.IsZero() && r.Doubt == "" && phrase != "" {
			t.Fatalf("%q is read as nothing, without a doubt", phrase)
		}
		w.ReadRule(phrase, fuzzNow)
	})
}

// Whatever text comes: the times found in it stand in it, in order.
func FuzzFindTimes(f *testing.F) {
	for _, s := range []string{"see you on Friday at 10", "12.12.2026 14:00–15:30", "between 9 and 11 CET", "tomorrow", "99 May"} {
		f.Add(s)
	}
	w := Ordinary("Europe/Oslo")
	f.Fuzz(func(t *testing.T, text string) {
		for _, l := range append(Languages, "") {
			for _, one := range w.FindTimes(text, l, fuzzNow) {
				if one.From < 0 || one.To > len(text) || one.From > one.To {
					t.Fatalf("%q in %q: %d to %d", one.Text, l, one.From, one.To)
				}
			}
		}
	})
}
