package search

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestBeginningsOfATextAndOfWhatIsAsked(t *testing.T) {
	require.Equal(t, "the cra crat not str stra ", Beginnings(Indexed("The crate is not on a Straße"), Indexed("at the crates")))
	require.Empty(t, Beginnings(Indexed("東京 ab 7")))
	for asked, want := range map[string]struct {
		begins []string
		whole  bool
	}{
		"cr":            {nil, false},
		"cra":           {[]string{"cra"}, true},
		"crat":          {[]string{"crat"}, true},
		"crate":         {[]string{"crat"}, false},
		"“cra”":         {[]string{"cra"}, false},
		"“the crate”":   {[]string{"the", "crat"}, false},
		"東京":            {nil, false},
		"mail@x.crates": {[]string{"mail", "crat"}, false},
	} {
		terms := TermsOf(asked)
		require.Len(t, terms, 1, asked)
		begins, whole := terms[0].Beginnings()
		require.Equal(t, want.begins, begins, asked)
		require.Equal(t, want.whole, whole, asked)
	}
}

// What says something has the beginnings of it; where these are the whole of it, what has
// them says it.
func TestBeginningsAgreeWithWhatATextSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.StringMatching(`[abà]{1,7}|東京都|한국어|ßab|ǆab|[ab]{2}1[ab]{0,3}`)
		text := strings.Join(rapid.SliceOfN(word, 0, 8).Draw(t, "text"), rapid.SampledFrom([]string{" ", "-", ", "}).Draw(t, "between"))
		asked := rapid.SampledFrom([]string{"", "“"}).Draw(t, "how") + word.Draw(t, "asked")
		kept := strings.Fields(Beginnings(Indexed(text)))
		require.Len(t, slices.Compact(slices.Sorted(slices.Values(kept))), len(kept), "each once")
		for _, term := range TermsOf(asked) {
			begins, whole := term.Beginnings()
			has := !slices.ContainsFunc(begins, func(b string) bool { return !slices.Contains(kept, b) })
			says := Saying("", "", text)([]Term{term}, false)
			if says {
				require.True(t, has, "%q says %q", text, asked)
			}
			if whole {
				require.Equal(t, says, has, "%q says %q", text, asked)
			}
		}
	})
}
