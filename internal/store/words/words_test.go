package words_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/search"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// The words that begin so are those of the texts, each once and in their order, however
// often and in however many texts they stand.
func TestWordsThatBeginSo(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	all := map[string]bool{}
	next := int64(1)
	rapid.Check(t, func(t *rapid.T) {
		letters := rapid.StringMatching("[abcé]{1,4}")
		rows := make([]words.Row, rapid.IntRange(0, 4).Draw(t, "texts"))
		for i := range rows {
			text := strings.Join(rapid.SliceOfN(letters, 1, 12).Draw(t, "text"), " ")
			rows[i] = words.Entry{ID: next, Body: text}.Row()
			next++
			for w := range strings.FieldsSeq(search.Indexed(text)) {
				all[w] = true
			}
		}
		begin := search.Indexed(letters.Draw(t, "begin"))
		most := rapid.IntRange(1, 12).Draw(t, "most")
		var want []string
		for w := range all {
			if strings.HasPrefix(w, begin) && w != begin {
				want = append(want, w)
			}
		}
		slices.Sort(want)
		require.NoError(t, s.Write(context.Background(), func(tx store.Tx) error {
			require.NoError(t, words.Documents.Put(tx.DB(), rows))
			got, more, err := words.Documents.Longer(tx.DB(), begin, most)
			require.NoError(t, err)
			require.Equal(t, len(want) > most, more)
			if len(want) > most {
				want = want[:most+1]
			}
			require.Equal(t, want, got)
			return nil
		}))
	})
}
