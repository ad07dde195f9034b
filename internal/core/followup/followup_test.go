package followup

import (
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/when"
)

func TestGroupsByDate(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	at := func(day, hour int) when.Instant { return when.Of(time.Date(2026, 11, day, hour, 0, 0, 0, oslo)) }
	tuesday := BoundsAt(at(24, 10), when.Ordinary("Europe/Oslo"))
	group := func(b Bounds, due when.Instant) (found Group) {
		for _, g := range Groups {
			if from, to := b.Span(g); due >= from && due < to {
				require.Empty(t, found, "%s is in two groups", due.In(oslo))
				found = g
			}
		}
		return found
	}
	for _, c := range []struct {
		due  when.Instant
		want Group
	}{
		{0, NoDate}, {at(24, 9), Late}, {at(20, 9), Late}, {at(24, 11), Today}, {at(24, 23), Today},
		{at(25, 0), Tomorrow}, {at(26, 0), ThisWeek}, {at(29, 23), ThisWeek}, {at(30, 0), NextWeeks},
	} {
		require.Equal(t, c.want, group(tuesday, c.due), c.due.In(oslo))
	}
	// On a Sunday tomorrow is already the next week, and nothing is "this week".
	sunday := BoundsAt(at(29, 10), when.Ordinary("Europe/Oslo"))
	require.Equal(t, Tomorrow, group(sunday, at(30, 12)))
	require.Equal(t, NextWeeks, group(sunday, when.Of(time.Date(2026, 12, 1, 9, 0, 0, 0, oslo))))
}

func TestValidity(t *testing.T) {
	require.NoError(t, FollowUp{Title: "Ring the piano mover", Priority: Normal}.Valid())
	require.ErrorContains(t, FollowUp{Title: "  ", Priority: Normal}.Valid(), "needs a title")
	require.ErrorContains(t, FollowUp{Title: strings.Repeat("x", MaxTitle+1), Priority: Normal}.Valid(), "too long")
	require.ErrorContains(t, FollowUp{Title: "x", Priority: 2}.Valid(), "priority")
}
