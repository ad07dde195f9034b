package together

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

func TestWhoseTurnItIs(t *testing.T) {
	hands := []Hand{{Person: 1, Minutes: 60, Given: 30}, {Person: 2, Minutes: 10, Given: 20}, {Person: 3, Minutes: 10, Given: 10, Away: true}, {Person: 4, Minutes: 90, Given: 20}}
	require.EqualValues(t, 2, NextInTurn.Choose(hands), "of two it is the elder of the team")
	require.EqualValues(t, 2, LeastToDo.Choose(hands))
	hands[1].Away = true
	require.EqualValues(t, 4, NextInTurn.Choose(hands))
	require.EqualValues(t, 1, LeastToDo.Choose(hands))
	hands[0].Away, hands[3].Away = true, true
	require.Zero(t, NextInTurn.Choose(hands), "everybody is away")
	require.Zero(t, LeastToDo.Choose(nil))
}

// Given in turn, nobody gets more than one more than another who is there; given to whoever has the
// least to do, nobody ends with more than one piece above another who began with as much.
func TestTurnsAreFair(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n, rounds := rapid.IntRange(1, 8).Draw(t, "members"), rapid.IntRange(0, 60).Draw(t, "pieces")
		hands, got := make([]Hand, n), map[int64]int{}
		for i := range hands {
			hands[i] = Hand{Person: int64(i + 1), Away: i > 0 && rapid.Bool().Draw(t, "away")}
		}
		turn := rapid.SampledFrom(Turns).Draw(t, "turn")
		for i := range rounds {
			to := turn.Choose(hands)
			got[to]++
			hands[to-1].Given, hands[to-1].Minutes = when.Instant(i+1), hands[to-1].Minutes+15
		}
		least, most := rounds, 0
		for _, h := range hands {
			if h.Away {
				if got[h.Person] > 0 {
					t.Fatal("somebody who is away was given something")
				}
				continue
			}
			least, most = min(least, got[h.Person]), max(most, got[h.Person])
		}
		if most-least > 1 {
			t.Fatalf("%v", got)
		}
	})
}
