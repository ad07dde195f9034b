package search

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// A message that matches a query has all that whatever matches it has.
func TestWhatMatchesHasTheTraits(t *testing.T) {
	languages := []when.Language{"", when.English, when.German, when.French, when.Italian}
	names := []string{"Plan.PDF", "crates.tar.gz", "tide.csv", "sea.png", "note.odt", "day.ics", "no ending"}
	types := []string{"application/pdf", "image/png", "application/octet-stream", "text/calendar", "text/plain; charset=utf-8", "application/zip"}
	matched := 0
	rapid.Check(t, func(t *rapid.T) {
		m := Message{Language: rapid.SampledFrom(languages).Draw(t, "written in")}
		for range rapid.IntRange(0, 2).Draw(t, "files") {
			m.Files = append(m.Files, mail.File{Name: rapid.SampledFrom(names).Draw(t, "name"), Type: rapid.SampledFrom(types).Draw(t, "type")})
		}
		q := Query{Files: rapid.Bool().Draw(t, "with files"), FilesOf: rapid.SampledFrom(append(traitsOfFiles, "")).Draw(t, "of a kind"), Language: rapid.SampledFrom(languages).Draw(t, "asked in")}
		if q.Holds(m) {
			matched++
			require.Zero(t, q.Traits()&^TraitsOf(m.Files, false, m.Language))
		}
	})
	require.Positive(t, matched)
	require.Len(t, traitsOfFiles, len(FileKinds), "each kind has a bit")
	require.NotZero(t, Query{Answered: true}.Traits()&TraitsOf(nil, true, ""))
	require.Zero(t, Query{Answered: true}.Traits()&TraitsOf(nil, false, when.German))
}
