package backoff

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The waits of each grow to the bound, give or take a fifth, and begin anew once
// it has worked.
func TestWaitsGrow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := Waits[string]{First: 2 * time.Second, Last: time.Minute}
		now, want := time.Unix(0, 0), 2*time.Second
		for i := range 10 {
			require.True(t, w.Ready("a", now))
			next, first := w.Failed("a", now)
			require.Equal(t, i == 0, first)
			require.InDelta(t, float64(want), float64(next.Sub(now)), float64(want)/5+1)
			require.False(t, w.Ready("a", next.Add(-1)))
			require.True(t, w.Ready("b", now), "one that fails lets the others be")
			require.Equal(t, next, w.Next(now))
			now, want = next, min(2*want, time.Minute)
		}
		require.Equal(t, 1, w.Len())
		require.True(t, w.Worked("a"))
		require.False(t, w.Worked("a"))
		require.True(t, w.Next(now).IsZero())
		_, first := w.Failed("a", now)
		require.True(t, first)
	})
}

// What has failed and is not tried again, as it is no more, wakes nobody, and is
// forgotten after a while.
func TestWhatIsNoMore(t *testing.T) {
	w := Waits[string]{First: 2 * time.Second, Last: time.Minute}
	now := time.Unix(0, 0)
	next, _ := w.Failed("a", now)
	require.True(t, w.Next(next).IsZero())
	require.Equal(t, 1, w.Len())
	require.True(t, w.Next(next.Add(time.Minute+time.Second)).IsZero())
	require.Zero(t, w.Len())
}
