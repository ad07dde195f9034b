package mail

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestBegins(t *testing.T) {
	long := strings.Repeat("The tide comes in twice a day. ", 40)
	for text, want := range map[string]string{
		"":                                     "",
		" \n\t\n":                              "",
		"I need the outer dimensions.":         "I need the outer dimensions.",
		"Dear Solvei,\n\nI need\nthe sizes.\n": "I need the sizes.",
		"Hello!\nCan you come?":                "Can you come?",
		"Dear Solvei,":                         "Dear Solvei,",
		"Yes!":                                 "Yes!",
		"Dear all of you who have answered so far and also those who have not,\nthank you": "Dear all of you who have answered so far and also those who have not, thank you",
		"> I need it\n> soon\n\nThursday is fine.":                                         "Thursday is fine.",
		"On 3 May 2026, Jonas wrote:\n> x\n\nNo.":                                          "No.",
		"> only quoted\n":                         "",
		"Done.\n-- \nSolvei Arnkvist\nMuseum":     "Done.",
		"\u200c\u034f \u200c\u034f\u00ad News of": "News of",
		"a\u0000b\u202ec":                         "abc",
		"Καλημέρα Solvei,\n\nΠαρακαλώ επιβεβαιώστε": "Παρακαλώ επιβεβαιώστε",
		long: "The tide comes in twice a day. The tide comes in twice a day. The tide comes in twice a day. The tide comes in twice a day. The tide comes…",
	} {
		require.Equal(t, want, Begins(text), "%q", text)
	}
}

func TestBeginsIsALineOfItsText(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		text := rapid.String().Draw(r, "text")
		b := Begins(text)
		require.True(r, utf8.ValidString(b))
		require.LessOrEqual(r, len([]rune(b)), MaxBegins)
		require.NotContains(r, b, "\n")
		for _, w := range strings.Fields(strings.TrimSuffix(b, "…")) {
			require.Contains(r, strings.Map(shown, text), w)
		}
	})
}

func FuzzBegins(f *testing.F) {
	for _, s := range []string{"Dear Solvei,\n\nI need it.", "> x\ny", "-- \nz", "\xff\xfe", strings.Repeat("a", 9000)} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		if b := Begins(text); len([]rune(b)) > MaxBegins || strings.ContainsAny(b, "\r\n") {
			t.Fatalf("%q begins %q", text, b)
		}
	})
}
