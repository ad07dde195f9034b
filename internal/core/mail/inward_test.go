package mail

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestAddressesIntoEbbe(t *testing.T) {
	for _, c := range []struct {
		local string
		want  Inward
	}{
		{"todo-abcdefgh", Inward{Key: "abcdefgh"}},
		{"Todo-ABCDEFGH+Opening-Day", Inward{Key: "abcdefgh", Project: "opening day"}},
		{"note-abcdefgh+fri-9", Inward{Key: "abcdefgh", Note: true, When: "fri 9"}},
		{"note-abcdefgh+in_3_days", Inward{Key: "abcdefgh", Note: true, When: "in 3 days"}},
		{"note-abcdefgh+2026-11-27-9:30", Inward{Key: "abcdefgh", Note: true, When: "2026-11-27 9:30"}},
		{"note-abcdefgh", Inward{Key: "abcdefgh", Note: true}},
	} {
		got, ok := ReadInward(c.local)
		require.True(t, ok, c.local)
		require.Equal(t, c.want, got, c.local)
	}
	for _, local := range []string{"", "todo", "todo-", "todo-short", "todo-abcdefgh+", "solvei", "todo-abc defgh", "memo-abcdefgh"} {
		_, ok := ReadInward(local)
		require.False(t, ok, local)
	}
}
