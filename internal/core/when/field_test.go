package when

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// awkward are moments at which much goes wrong: the night of the clocks, the ends of
// months and years, a leap day, the last minute of a day, a weekend.
var awkward = []string{"2026-11-24T10:42", "2026-03-29T01:59", "2026-10-25T02:30", "2026-12-31T23:59", "2027-01-01T00:00", "2028-02-28T12:00", "2028-02-29T23:00", "2026-11-29T20:00", "2026-01-31T08:00", "2026-05-01T07:59"}

func TestAFieldThatLooksBack(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	w.Languages = []Language{German, French}
	for _, c := range []struct{ phrase, want string }{
		{"yesterday", "2026-11-23T00:00"}, {"the day before yesterday", "2026-11-22T00:00"}, {"today", "2026-11-24T00:00"},
		{"fri", "2026-11-20T00:00"}, {"tue", "2026-11-17T00:00"}, {"last tue", "2026-11-17T00:00"}, {"last fri 15:00", "2026-11-20T15:00"}, {"since mon", "2026-11-23T00:00"},
		{"last week", "2026-11-16T00:00"}, {"last month", "2026-10-01T00:00"}, {"last year", "2025-01-01T00:00"},
		{"3 days ago", "2026-11-21T00:00"}, {"two weeks ago", "2026-11-10T00:00"}, {"for 3 days", "2026-11-21T00:00"}, {"2 working days ago", "2026-11-20T00:00"}, {"a month ago", "2026-10-24T00:00"},
		{"24 dec", "2025-12-24T00:00"}, {"3 nov", "2026-11-03T00:00"}, {"24 nov", "2026-11-24T00:00"}, {"29 feb", "2024-02-29T00:00"}, {"2026-11-01", "2026-11-01T00:00"},
		{"9:00", "2026-11-24T09:00"}, {"15:00", "2026-11-23T15:00"}, {"this morning", "2026-11-24T08:00"},
		{"gestern", "2026-11-23T00:00"}, {"vor drei Tagen", "2026-11-21T00:00"}, {"letzten Freitag", "2026-11-20T00:00"}, {"seit Montag", "2026-11-23T00:00"}, {"hier", "2026-11-23T00:00"}, {"il y a deux semaines", "2026-11-10T00:00"}, {"mardi dernier", "2026-11-17T00:00"},
	} {
		r := w.ReadIn(Field{Way: Back}, c.phrase, tuesday)
		require.Empty(t, r.Doubt, "%s: %s", c.phrase, r.Sentence)
		require.Equal(t, c.want, r.Moment.Local, c.phrase)
	}
	for phrase, says := range map[string]string{"tomorrow": "lies ahead", "next fri": "lies ahead", "2027-01-01": "lies ahead", "in 3 days": "does not know", "31 feb": "no such day", "next round": "lies ahead"} {
		r := w.ReadIn(Field{Way: Back}, phrase, tuesday)
		require.Equal(t, Unclear, r.Doubt, phrase)
		require.Contains(t, r.Sentence, says, phrase)
	}
	for _, phrase := range []string{"yesterday", "last fri", "3 days ago", "gestern", "vor drei Tagen"} {
		r := w.Read(phrase, tuesday)
		require.Equal(t, Unclear, r.Doubt, phrase)
		require.Contains(t, r.Sentence, "lies behind us. Write a time ahead", phrase)
	}
}

func TestAFieldThatLooksEitherWay(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	for phrase, want := range map[string]string{"fri": "2026-11-27T08:00", "last fri": "2026-11-20T00:00", "yesterday": "2026-11-23T00:00", "2026-11-03": "2026-11-03T00:00", "24 dec": "2026-12-24T08:00", "3 days ago": "2026-11-21T00:00"} {
		require.Equal(t, want, w.ReadIn(Field{Way: Either}, phrase, tuesday).Moment.Local, phrase)
	}
	require.Contains(t, w.ReadIn(Field{Way: Either}, "whenever", tuesday).Sentence, "does not know “whenever”")
}

func TestWhatHasANameInEbbe(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	f := Field{Round: local("2026-11-24T11:30", "Europe/Oslo"), Someday: w.MonthDay(1, tuesday)}
	for phrase, want := range map[string]string{"next round": "2026-11-24T11:30", "until the next round": "2026-11-24T11:30", "before the round": "2026-11-24T11:15", "Someday": "2026-12-01T08:00"} {
		r := w.ReadIn(f, phrase, tuesday)
		require.Empty(t, r.Doubt, phrase)
		require.Equal(t, local(want, "Europe/Oslo"), r.Moment.At, phrase)
		require.Equal(t, strings.EqualFold(phrase, "someday"), r.Someday)
	}
	require.Contains(t, w.ReadIn(Field{}, "next round", tuesday).Sentence, "No round is planned")
	require.Contains(t, w.ReadIn(Field{}, "before the round", tuesday).Sentence, "No round is planned")
	require.Contains(t, w.ReadIn(Field{}, "someday", tuesday).Sentence, "no day here")
	f.Round = tuesday + 60_000
	require.Contains(t, w.ReadIn(f, "before the round", tuesday).Sentence, "The next round is at 10:43 already.")
}

// No phrase leaves the direction of its field, and what is said, typed again, is the
// same moment.
func TestNoPhraseLeavesItsDirection(t *testing.T) {
	more := append([]string{"yesterday", "ago", "last", "since", "round", "someday", "gestern", "vor", "Tagen"}, vocabulary...)
	rapid.Check(t, func(t *rapid.T) {
		phrase := strings.Join(rapid.SliceOfN(rapid.SampledFrom(more), 0, 6).Draw(t, "words"), " ")
		now := local(rapid.SampledFrom(awkward).Draw(t, "now"), "Europe/Oslo")
		w := Ordinary("Europe/Oslo")
		w.Languages = []Language{German}
		f := Field{Way: Back, Round: now + 9_000_000}
		r := w.ReadIn(f, phrase, now)
		require.LessOrEqual(t, r.Moment.At, now, phrase)
		require.Equal(t, r.Moment.IsZero(), r.Doubt == Unclear, phrase)
		if !r.Moment.IsZero() && w.clockChange(wall(r.Moment.At.In(w.Location()))) == "" {
			again := w.ReadIn(f, w.Say(r.Moment, now), now)
			require.Equal(t, r.Moment.At.Time().Truncate(time.Minute), again.Moment.At.Time(), "%q is said as %q", phrase, w.Say(r.Moment, now))
		}
		f.Way = Ahead
		if r := w.ReadIn(f, phrase, now); !r.Moment.IsZero() {
			require.Greater(t, r.Moment.At, now, phrase)
		}
	})
}

// However long a phrase is and whatever its words are, reading it ends: each step takes a
// word, and what is longer than a sentence is no time.
func TestAPhraseIsReadInAsManyStepsAsItHasWords(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	w.Languages = LanguagesIn([]string{"de", "fr", "es", "it", "nl", "da", "nb", "sv", "pt", "pl"})
	now := Of(time.Date(2026, 11, 24, 10, 42, 0, 0, w.Location()))
	words := []string{"since", "at", "on", "the", "fri", "fri", "next", "last", "ago", "of", "in", "every", "half", "halb", "before", "w51", "24", "12", "dec", "9", "noon", "3pm", "til", "à", "-", "("}
	rapid.Check(t, func(rt *rapid.T) {
		phrase := strings.Join(rapid.SliceOfN(rapid.SampledFrom(words), 1, 60).Draw(rt, "words"), " ")
		for _, f := range []Field{{}, {Way: Back}, {Way: Either}, {Rhythm: true}} {
			r := w.ReadIn(f, phrase, now)
			require.NotEmpty(rt, r.Sentence, phrase)
		}
		require.LessOrEqual(rt, len(w.InEnglish(phrase)), 1+len(w.Languages), "once for each language")
	})
	long := strings.Repeat("fri ", 200_000)
	for _, f := range []Field{{}, {Way: Back}, {Way: Either}, {Rhythm: true}} {
		require.Contains(t, w.ReadIn(f, long, now).Sentence, "too long for a time")
	}
}
