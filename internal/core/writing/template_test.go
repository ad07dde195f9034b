package writing

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestTemplatesAreFilled(t *testing.T) {
	got := Template{Name: "visit", Subject: "About [Subject]", Text: "Dear [name],\n\n[free times] would suit us. See [page 3] and [in a week]. [name]"}.
		Filled(map[string]string{BlankName: "Mirela", BlankSubject: "Crate", BlankFree: "Thu 10:00 or Fri 14:00", "page 3": "never", BlankWeek: ""})
	require.Equal(t, Template{Name: "visit", Subject: "About Crate", Text: "Dear Mirela,\n\nThu 10:00 or Fri 14:00 would suit us. See [page 3] and [in a week]. Mirela"}, got)
	require.ErrorContains(t, Template{Text: "x"}.Valid(), "needs a name")
	require.ErrorContains(t, Template{Name: "x", Text: " "}.Valid(), "nothing in it")
	require.NoError(t, Template{Name: "x", Text: "y"}.Valid())
}

// Filling twice changes nothing more, unless a value looks like a blank itself.
func TestFillingIsDoneOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values := map[string]string{}
		for _, b := range Blanks {
			values[b] = rapid.StringMatching(`[a-z ]{0,12}`).Draw(t, b)
		}
		one := Template{Text: rapid.StringMatching(`(\[(name|today|subject|page)\]|[a-z\[\] ]){0,20}`).Draw(t, "text")}.Filled(values)
		require.Equal(t, one, one.Filled(values))
	})
}
