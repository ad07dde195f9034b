package tongue_test

import (
	"fmt"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
	"ebbe/internal/core/when/tongue"
)

// tuesday is Tue 24 Nov 2026, 10:42 in Oslo.
var tuesday = local("2026-11-24T10:42")

func local(text string) when.Instant {
	loc, err := when.LoadZone("Europe/Oslo")
	if err != nil {
		panic(err)
	}
	t, err := time.Parse("2006-01-02T15:04", text)
	if err != nil {
		panic(err)
	}
	return when.AtWall(t, loc).At
}

// phrasesIn are the phrases of each language with what they mean on tuesday, a line
// each; the tables stand in the tests of the languages.
var phrasesIn = map[when.Language]string{when.German: germanPhrases, when.French: frenchPhrases, when.Spanish: spanishPhrases, when.Italian: italianPhrases, when.Dutch: dutchPhrases,
	when.Danish: danishPhrases, when.Norwegian: norwegianPhrases, when.Swedish: swedishPhrases, when.Portuguese: portuguesePhrases, when.Polish: polishPhrases}

// reads checks a table of phrases: "heute = 24 13:30" is a day of November 2026, with
// "12-24" of December, "27-01-07" of 2027; "+2h" is a span, "?" is not understood and
// "past" has passed.
func reads(t *testing.T, l when.Language, table string) {
	t.Helper()
	w := when.Ordinary("Europe/Oslo")
	w.Languages = []when.Language{l}
	n := 0
	for _, line := range strings.Split(table, "\n") {
		phrase, want, ok := strings.Cut(strings.TrimSpace(line), " = ")
		if !ok {
			continue
		}
		n++
		r := w.Read(phrase, tuesday)
		switch {
		case want == "?":
			require.Equal(t, when.Unclear, r.Doubt, "%s %q: %s", l, phrase, r.Sentence)
			continue
		case want == "past":
			require.Equal(t, when.Past, r.Doubt, "%s %q: %s", l, phrase, r.Sentence)
			continue
		}
		require.NotEqual(t, when.Unclear, r.Doubt, "%s %q: %s", l, phrase, r.Sentence)
		if span, is := strings.CutPrefix(want, "+"); is {
			d, err := time.ParseDuration(span)
			require.NoError(t, err)
			require.Equal(t, tuesday.Time().Add(d), r.Moment.At.Time(), "%s %q: %s", l, phrase, r.Sentence)
			continue
		}
		day, clock, timed := strings.Cut(want, " ")
		if !timed {
			clock = "08:00"
		}
		day = "2026-11-24"[:10-len(day)] + day
		require.Equal(t, fmt.Sprintf("%sT%05s", day, clock), r.Moment.Local, "%s %q: %s %v", l, phrase, r.Sentence, w.InEnglish(phrase))
		require.Equal(t, timed, r.Timed || strings.HasPrefix(want, "24 "), "%s %q", l, phrase)
	}
	require.GreaterOrEqual(t, n, 40, l.Name())
}

func TestEachLanguageIsRead(t *testing.T) {
	for l, table := range phrasesIn {
		t.Run(l.Name(), func(t *testing.T) { reads(t, l, table) })
	}
	require.Len(t, phrasesIn, len(when.Languages))
}

// awkward are moments at which much goes wrong: the night of the clocks, the ends of
// months and years, a leap day, the last minute of a day, a weekend.
var awkward = []string{"2026-11-24T10:42", "2026-03-29T01:59", "2026-10-25T02:30", "2026-12-31T23:59", "2027-01-01T00:00", "2028-02-28T12:00", "2028-02-29T23:00", "2026-11-29T20:00", "2026-01-31T08:00", "2026-05-01T07:59"}

// Whatever a phrase means, at whatever moment: it lies ahead, it is said, and what is
// said, typed again, is the same moment.
func TestAllPhrasesAtAwkwardMoments(t *testing.T) {
	for l, table := range phrasesIn {
		w := when.Ordinary("Europe/Oslo")
		w.Languages = []when.Language{l}
		for _, line := range strings.Split(table, "\n") {
			phrase, _, ok := strings.Cut(strings.TrimSpace(line), " = ")
			for _, at := range awkward {
				now := local(at)
				r := w.Read(phrase, now)
				if !ok || r.Moment.IsZero() {
					continue
				}
				require.Greater(t, r.Moment.At, now, "%q at %s", phrase, at)
				require.NotEmpty(t, r.Sentence)
				if r.Doubt == "" && at != awkward[2] { // there an hour comes twice
					again := w.Read(w.Say(r.Moment, now), now)
					require.Equal(t, r.Moment.At.Time().Truncate(time.Minute), again.Moment.At.Time().Truncate(time.Minute), "%q at %s: %s", phrase, at, r.Sentence)
				}
			}
		}
	}
}

// A reader of several languages is shown what a phrase means in each; English comes
// first.
func TestWhatIsAmbiguousBetweenLanguages(t *testing.T) {
	for _, c := range []struct {
		languages           []when.Language
		phrase, want, other string
	}{
		{[]when.Language{when.French}, "mar 15", "2027-03-15T08:00", "2026-11-24T15:00"},
		{[]when.Language{when.Dutch}, "half 3", "2026-11-24T15:30", "2026-11-24T14:30"},
		{[]when.Language{when.German}, "do", "", ""},
		{[]when.Language{when.German}, "do 14:30", "2026-11-26T14:30", ""},
		{[]when.Language{when.German}, "do 26.11.", "2026-11-26T08:00", ""},
		{[]when.Language{when.German}, "fr", "2026-11-27T08:00", ""},
		{[]when.Language{when.German, when.Italian}, "di", "", ""},
		{[]when.Language{when.German, when.Italian}, "di 9:30", "2026-12-01T09:30", ""},
		{[]when.Language{when.Danish}, "man", "", ""},
		{[]when.Language{when.Danish}, "man 9:15", "2026-11-30T09:15", ""},
		{[]when.Language{when.German}, "so", "", ""},
		{[]when.Language{when.Spanish}, "mar 9:30", "2027-03-01T09:30", "2026-12-01T09:30"},
		{[]when.Language{when.German, when.French}, "Freitag 14h30", "2026-11-27T14:30", ""},
		{[]when.Language{when.German}, "morgen at 9", "2026-11-25T09:00", ""},
		{nil, "morgen", "", ""},
	} {
		w := when.Ordinary("Europe/Oslo")
		w.Languages = c.languages
		r := w.Read(c.phrase, tuesday)
		require.Equal(t, c.want, r.Moment.Local, "%s: %s %v", c.phrase, r.Sentence, w.InEnglish(c.phrase))
		require.Equal(t, c.other, r.Other.Local, c.phrase)
	}
	w := when.Ordinary("Europe/Oslo")
	w.Languages = when.LanguagesIn([]string{"nb-NO", "en-GB", "de-CH", "de", "tlh"})
	require.Equal(t, []when.Language{when.Norwegian, when.German}, w.Languages)
	require.NoError(t, w.Valid())
	require.Equal(t, "English, Norwegian and German", w.SayLanguages())
	w.Languages = []when.Language{"xx"}
	require.ErrorContains(t, w.Valid(), "it reads English and German, French")
}

// What a language says of a time is what it reads.
func TestATimeIsReadAsItIsSaid(t *testing.T) {
	for _, l := range when.Languages {
		w := when.Ordinary("Europe/Oslo")
		w.Languages = []when.Language{l}
		for n := range 14 {
			at := time.Date(2026, 11, 26+23*n, 9, 30, 0, 0, w.Location())
			r := w.Read(l.Say(at), when.Of(at)-86_400_000)
			require.Equal(t, when.Of(at), r.Moment.At, "%s %q: %s", l, l.Say(at), r.Sentence)
		}
	}
	require.Equal(t, "Donnerstag, 26. November, 10:00", when.German.Say(time.Date(2026, 11, 26, 10, 0, 0, 0, time.UTC)))
	require.Equal(t, "sábado, 28 de novembro, às 10:00", when.Portuguese.Say(time.Date(2026, 11, 28, 10, 0, 0, 0, time.UTC)))
	require.Equal(t, "piątek, 27 listopada, godz. 10:00", when.Polish.Say(time.Date(2026, 11, 27, 10, 0, 0, 0, time.UTC)))
}

// Words of all languages in any order: no panic, nothing in the past, and a
// translation says for each of its parts what it stands for.
func TestWordsOfManyLanguages(t *testing.T) {
	var words []string
	for _, table := range phrasesIn {
		words = append(words, strings.Fields(table)...)
	}
	rapid.Check(t, func(t *rapid.T) {
		phrase := strings.Join(rapid.SliceOfN(rapid.SampledFrom(words), 0, 8).Draw(t, "words"), " ")
		w := when.Ordinary("Europe/Oslo")
		w.Languages = rapid.SliceOfN(rapid.SampledFrom(when.Languages), 0, 4).Draw(t, "languages")
		now := local(rapid.SampledFrom(awkward).Draw(t, "now"))
		r := w.Read(phrase, now)
		require.True(t, r.Moment.IsZero() || r.Moment.At > now)
		require.Equal(t, r.Other.IsZero(), r.Instead == "")
		for _, l := range when.Languages {
			s := tongue.Of(string(l)).English(phrase, true, nil)
			at := 0
			for _, p := range s.Pieces {
				require.Equal(t, at, p.WasFrom)
				at = p.WasTo
				from, to := s.Was(p.From, p.To)
				require.Equal(t, []int{p.WasFrom, p.WasTo}, []int{from, to})
			}
			require.Equal(t, len(phrase), at)
		}
	})
}
