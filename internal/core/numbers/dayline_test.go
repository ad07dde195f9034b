package numbers

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

func TestCurveEndsAtThePresentNumber(t *testing.T) {
	require.Equal(t, []Point{{100, 5}, {200, 8}, {300, 7}, {400, 7}},
		Curve([]Step{{300, -1}, {200, 3}, {50, 9}, {900, 9}}, 100, 400, 7, 0), "steps of other times do not count")
	require.Equal(t, []Point{{100, 4}}, Curve(nil, 100, 100, 4, 0))
	require.Equal(t, []Point{{100, 2}, {400, 2}}, Curve([]Step{{110, 5}, {120, -5}}, 100, 400, 2, 100), "one slot, one point")
}

func TestCurveIsOrderedNeverNegativeAndAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var steps []Step
		for range rapid.IntRange(0, 40).Draw(t, "n") {
			steps = append(steps, Step{when.Instant(rapid.Int64Range(0, 1000).Draw(t, "at")), rapid.IntRange(-5, 20).Draw(t, "delta")})
		}
		left := rapid.IntRange(0, 300).Draw(t, "left")
		points := Curve(steps, 100, 900, left, when.Instant(rapid.Int64Range(0, 90).Draw(t, "width")))
		for i, p := range points {
			if p.Left < 0 || i > 0 && p.At <= points[i-1].At {
				t.Fatalf("%v", points)
			}
		}
		if last := points[len(points)-1]; last.Left != left || points[0].At != 100 {
			t.Fatalf("%v does not end at %d", points, left)
		}
	})
}
