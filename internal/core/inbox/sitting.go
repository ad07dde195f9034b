package inbox

import (
	"slices"

	"ebbe/internal/core/when"
)

// MaxSitting is the longest length of a sitting, in minutes.
const MaxSitting = 240

// Taken is one step of a sitting: a decision about some conversations, or the
// leaving of one.
type Taken struct {
	Kind  Kind
	At    when.Instant
	Count int // conversations
}

// Sum is what came of a sitting.
type Sum struct {
	Decided int          `json:"decided"` // conversations
	Left    int          `json:"left"`    // how often one was left undecided
	ByKind  map[Kind]int `json:"byKind"`
	Median  int          `json:"median"` // seconds a decision took, half of them less; 0 if there was none
}

// decides says that a step of this kind is one of the ways to be done with a
// conversation.
func (k Kind) decides() bool {
	switch k {
	case ToBin, Archive, Snooze, MakeFollowUp, Combo, Rest, FreshStart, SendMail:
		return true
	}
	return false
}

// SumUp adds up the steps of a sitting that began at begun, in the order in
// which they were taken. How long a decision took is the time since the step
// before it, or since the beginning; starring, labelling and the like belong
// to the decision that follows. A decision about many counts once.
func SumUp(begun when.Instant, steps []Taken) Sum {
	s := Sum{ByKind: map[Kind]int{}}
	var took []when.Instant
	before := begun
	for _, t := range steps {
		switch {
		case t.Count == 0: // written, and left where it was
			continue
		case t.Kind == Leave:
			s.Left += t.Count
		case t.Kind.decides():
			s.Decided += t.Count
			s.ByKind[t.Kind] += t.Count
			took = append(took, max(0, t.At-before))
		default:
			continue
		}
		before = max(before, t.At)
	}
	if n := len(took); n > 0 {
		slices.Sort(took)
		s.Median = int((took[(n-1)/2] + took[n/2] + 1000) / 2000)
	}
	return s
}
