package mail

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWhatIsQuotedStandsElsewhere(t *testing.T) {
	var said Quotable
	said.Add("Hello Solvei,\n\nthe workshop cuts timber on Friday, so I need the outer dimensions of the brass tide predictor by Thursday noon.\n\nMirela\n")
	for quoted, has := range map[string]bool{
		"> the workshop cuts timber on Friday, so I need the outer dimensions of the brass tide predictor by Thursday noon.":                           true,
		"> > the workshop cuts timber on Friday, so I need\n> > the outer dimensions of the brass tide\n> > predictor by Thursday noon.":               true,
		"On Tuesday, Mirela wrote:\n> Hello Solvei,\n> the workshop cuts timber on Friday, so I need the outer dimensions":                             true,
		"> The crate that came back empty was never weighed, and nobody at the customs office had asked for its papers.":                               false,
		"> the workshop cuts timber on Friday\n> but the insurer has sent us quite another letter about it, and asks for the value of all of leg two.": false,
		"> Yes.": true, // hardly any words
	} {
		require.Equal(t, has, said.Has(quoted), quoted)
	}
	require.False(t, (&Quotable{}).Has("> nothing was said before this at all"))
}

// However a text is broken into lines and marked as quoted: it stands in itself.
func TestATextStandsInItself(t *testing.T) {
	word := rapid.StringMatching(`[a-zåß]{1,8}`)
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(word, 0, 60).Draw(t, "words")
		var said Quotable
		said.Add(strings.Join(words, " "))
		var quoted strings.Builder
		for _, w := range words {
			quoted.WriteString(rapid.SampledFrom([]string{" ", "\n> ", "\r\n>> "}).Draw(t, "between") + w)
		}
		if !said.Has(quoted.String()) {
			t.Fatalf("%q is not in itself", quoted.String())
		}
	})
}
