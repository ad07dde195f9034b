package search

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestQueries(t *testing.T) {
	require.Equal(t, []string{"loan", "7", "día"}, Query{Words: ` "loan" (7) día!`}.Terms())
	require.Empty(t, Query{Words: "“ ” -"}.Terms())
	require.Len(t, Query{Words: strings.Repeat("word ", 50)}.Terms(), MaxWords)
	require.NoError(t, Query{Place: "inbox", Starred: true}.Valid())
	require.ErrorContains(t, Query{Place: "held"}.Valid(), "no such place")
	require.ErrorContains(t, Query{Starred: true, Unstarred: true}.Valid(), "at once")
	require.ErrorContains(t, Query{Words: strings.Repeat("x", 1001)}.Valid(), "too much")
	require.NoError(t, Named("To read", Query{Label: 3}))
	require.ErrorContains(t, Named(" ", Query{Label: 3}), "short name")
	require.ErrorContains(t, Named("All", Query{}), "no list")
}
