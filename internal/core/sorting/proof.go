package sorting

import (
	"cmp"
	"slices"

	"ebbe/internal/core/when"
)

// Past is a message of the past: how it was weighed when it came, before anything of
// what became of it was known, and what became of it.
type Past struct {
	Came       when.Instant
	Importance int          // as it was weighed then; Mille
	Fixed      int          // inbox.Rank, the lowest first
	Known      bool         // what became of it is known
	Acted      bool         // it was answered, or kept track of: Outcome.Acted
	Taken      when.Instant // when it was first decided about; 0: unknown
}

// Mille is importance from 0 to 1 in thousandths, as it is stored; at least 1, as 0
// stands for what has not been weighed.
func (w Weighed) Mille() int { return max(1, int(w.Importance*1000)) }

// Proof is how well importance has put first what the reader acted on: of the pairs of
// messages of one day of which they acted on only one, how many stood in the right
// order (the area under the curve of what is found against what is looked through in
// vain); and of the pairs of which they acted on both, but took the one that stood below
// the other, as the inbox shows what is newest first, whether it belonged above. What
// stands equal counts half.
type Proof struct {
	Pairs int     `json:"pairs"`
	Taken int     `json:"taken"` // of them: pairs of which one was taken against the order shown
	Right float64 `json:"right"` // the part of them that importance had right
	Fixed float64 `json:"fixed"` // that the fixed order would have had right
}

// Prove computes it from messages of the past; day says which belong together. Its
// cost is that of sorting them.
func Prove(past []Past, day func(when.Instant) int) (p Proof) {
	of := map[int][]Past{}
	for _, m := range past {
		if m.Known {
			of[day(m.Came)] = append(of[day(m.Came)], m)
		}
	}
	right, fixed := 0.0, 0.0
	for _, ms := range of {
		r, n := ordered(ms, func(m Past) int { return m.Importance })
		f, _ := ordered(ms, func(m Past) int { return -m.Fixed })
		right, fixed, p.Pairs = right+r, fixed+f, p.Pairs+n
		for _, a := range ms {
			for _, b := range ms {
				if a.against(b) {
					right, fixed, p.Pairs, p.Taken = right+above(a.Importance, b.Importance), fixed+above(b.Fixed, a.Fixed), p.Pairs+1, p.Taken+1
				}
			}
		}
	}
	if p.Pairs > 0 {
		p.Right, p.Fixed = right/float64(p.Pairs), fixed/float64(p.Pairs)
	}
	return p
}

// against says that m was taken while o, which had come after it and stood above it, was
// left for later, and acted on then.
func (m Past) against(o Past) bool {
	return m.Acted && o.Acted && m.Came < o.Came && o.Came < m.Taken && m.Taken < o.Taken
}

// above is 1 where a is above b, and a half where neither is.
func above(a, b int) float64 {
	switch {
	case a > b:
		return 1
	case a == b:
		return 0.5
	}
	return 0
}

// ordered says of how many pairs of a message that was acted on and another the first
// stands higher, and how many pairs there are.
func ordered(ms []Past, by func(Past) int) (right float64, pairs int) {
	ms = slices.SortedFunc(slices.Values(ms), func(a, b Past) int { return cmp.Compare(by(a), by(b)) })
	below := 0 // others that stand lower than all that is equal to this one
	acted := 0
	for i := 0; i < len(ms); {
		others, here := 0, 0
		j := i
		for ; j < len(ms) && by(ms[j]) == by(ms[i]); j++ {
			if ms[j].Acted {
				here++
			} else {
				others++
			}
		}
		right += float64(here) * (float64(below) + float64(others)/2)
		below, acted, i = below+others, acted+here, j
	}
	return right, acted * below
}
