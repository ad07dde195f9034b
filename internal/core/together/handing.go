package together

import (
	"slices"

	"ebbe/internal/core/when"
)

// Handing is that a draft went from one member of a team to another.
type Handing struct {
	By  int64        `json:"by"`
	To  int64        `json:"to"`
	At  when.Instant `json:"at"`
	Why string       `json:"why,omitempty"` // what they are asked to do with it
}

// Trail is through whose hands a draft has gone, the latest last.
type Trail []Handing

// LongestTrail is how much of a trail is kept.
const LongestTrail = 20

// And gives the trail with one more handing.
func (t Trail) And(h Handing) Trail {
	t = append(slices.Clone(t), h)
	return t[max(0, len(t)-LongestTrail):]
}

// Last is the latest handing; the zero value: there was none.
func (t Trail) Last() (h Handing) {
	if len(t) > 0 {
		h = t[len(t)-1]
	}
	return h
}

// Untouched says that a draft is as it was handed over: it was changed last before that.
func (t Trail) Untouched(changed when.Instant) bool { return len(t) > 0 && changed <= t.Last().At }
