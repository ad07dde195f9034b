package together

import (
	"cmp"
	"slices"

	"ebbe/internal/core/when"
)

// Turn is by what somebody of a team is chosen who is given something.
type Turn string

// The turns.
const (
	NextInTurn Turn = "turn"  // whoever was given something longest ago
	LeastToDo  Turn = "least" // whoever has the least to do
)

// Turns are all of them.
var Turns = []Turn{NextInTurn, LeastToDo}

// Hand is a member as turns look at them.
type Hand struct {
	Person  int64
	Away    bool
	Minutes int          // of what they have
	Given   when.Instant // when they were last given something; 0: never
}

// Choose is whose turn it is; 0 if everybody is away. Of two with as good a claim it is whoever was
// given something longest ago, and then whoever has been of the team longer.
func (k Turn) Choose(hands []Hand) int64 {
	here := slices.DeleteFunc(slices.Clone(hands), func(h Hand) bool { return h.Away })
	if len(here) == 0 {
		return 0
	}
	return slices.MinFunc(here, func(a, b Hand) int {
		least := 0
		if k == LeastToDo {
			least = cmp.Compare(a.Minutes, b.Minutes)
		}
		return cmp.Or(least, cmp.Compare(a.Given, b.Given))
	}).Person
}
