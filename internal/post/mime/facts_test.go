package mime

import (
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// What is said of made-up messages is right, and where it cannot be known nothing is said.
func TestFactsOfMadeUpMessages(t *testing.T) {
	text, err := os.ReadFile("testdata/facts.txt")
	require.NoError(t, err)
	w := when.Ordinary("Europe/Oslo")
	w.Languages = []when.Language{"de", "fr", "nb", "nl", "es", "pl"}
	now := when.Of(time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC))
	cases := strings.Split(string(text), "\n====\n")[1:]
	require.GreaterOrEqual(t, len(cases), 80)
	for _, c := range cases {
		head, rest, _ := strings.Cut(c, "\n")
		kind, from, _ := strings.Cut(head, ": ")
		subject, body, _ := strings.Cut(rest, "\n\n")
		body, want, _ := strings.Cut(body, "\n--> ")
		raw := "From: " + from + "\nTo: elin@solvei.example\nSubject: " + subject + "\nDate: Tue, 24 Nov 2026 10:00:00 +0100\nContent-Type: text/" + map[bool]string{true: "html", false: "plain"}[strings.HasPrefix(body, "<")] + "; charset=utf-8\n" +
			map[string]string{"machine": "Auto-Submitted: auto-generated\n", "list": "List-Id: <letter.example>\n"}[kind] + "\n" + body
		m := Read([]byte(raw))
		m.Text = m.Words()
		require.Equal(t, now, m.Date)
		var said []string
		for _, f := range m.Facts(m.Markup(), mail.LanguageOf(m.Text), w) {
			line := f.Say(w, now)
			if f.Doubt != "" {
				line += " (" + f.Doubt + ")"
			}
			said = append(said, line)
		}
		assert.Equal(t, strings.TrimSpace(want), strings.Join(said, "; "), "%s: %s", from, subject)
	}
}

// Whatever a text says, what is read of it is whole: a bill has an amount, a code is short.
func FuzzFacts(f *testing.F) {
	text, err := os.ReadFile("testdata/facts.txt")
	require.NoError(f, err)
	for c := range strings.SplitSeq(string(text), "\n====\n") {
		f.Add(c)
	}
	w := when.Ordinary("Europe/Oslo")
	now := when.Of(time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC))
	f.Fuzz(func(t *testing.T, text string) {
		for _, x := range facts.Of(facts.Message{Kind: "notice", Text: text, Written: now}, w) {
			require.NotEmpty(t, x.Say(w, now))
			require.True(t, x.Kind != facts.Bill || x.Amount != "" && (x.State == facts.Paid || !x.From.IsZero()))
			require.True(t, x.Kind != facts.Code || len(x.Code) >= 4 && len(x.Code) <= 8)
		}
	})
}
