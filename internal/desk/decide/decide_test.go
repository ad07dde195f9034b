package decide

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Every kind of decision says what it did and is called something in the
// history; looking at a conversation is no news.
func TestEveryDecisionHasItsWords(t *testing.T) {
	for kind, is := range decisions {
		if kind == inbox.Look {
			continue
		}
		require.NotEmpty(t, is.verb, kind)
		for _, n := range []int{1, 3} {
			says := taken{req: Decision{Kind: kind, Text: "words"}, w: when.Ordinary("Europe/Oslo"), n: n, changes: make([]inbox.Change, n)}
			if n == 1 {
				says.changes[0].After = &inbox.Conversation{}
			}
			require.Regexp(t, `^[“0-9A-Z].*\.$`, says.sentence(), kind)
		}
	}
}
