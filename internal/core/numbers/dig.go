package numbers

import (
	"cmp"
	"slices"
)

// Heap is what lies in the inbox from one sender, of what is not old.
type Heap struct {
	Address string `json:"address"`
	Name    string `json:"name"`
	N       int    `json:"n"`
	People  int    `json:"people"` // of these by people, no list or machine
}

// Digging is one of the steps by which an inbox of thousands comes to zero.
type Digging struct {
	Kind          DigKind `json:"kind"`
	Conversations int     `json:"conversations"`
	Decisions     int     `json:"decisions"` // that it takes
	Seconds       int     `json:"seconds"`
	Who           []Heap  `json:"who"` // of those that are decided at once: the largest
}

// DigKind is what is done in a step.
type DigKind string

// The kinds of steps, in the order in which they are done.
const (
	DigOld     DigKind = "old"     // a fresh start: what is old is archived, all at once
	DigSenders DigKind = "senders" // all of one sender at once
	DigSingly  DigKind = "singly"  // the rest, one by one
)

// How long it takes.
const (
	TenMinutes   = 600 // seconds of a piece of digging
	freshSeconds = 60  // to choose the date of a fresh start
	heapSeconds  = 15  // to decide about all of one sender
	usualSeconds = 20  // to decide about one, until that is known
	heapOf       = 3   // from how many on a list or machine is decided about at once
	heapOfPeople = 10  // and somebody
	heapsShown   = 40
)

// DigOut plans how so many that are old and these heaps come to zero; pace is how many seconds a decision
// of the reader takes, 0 where that is not known.
func DigOut(old int, heaps []Heap, pace int) (steps []Digging) {
	steps = []Digging{}
	if old > 0 {
		steps = append(steps, Digging{Kind: DigOld, Conversations: old, Decisions: 1, Seconds: freshSeconds, Who: []Heap{}})
	}
	heaps = slices.Clone(heaps)
	slices.SortFunc(heaps, func(a, b Heap) int { return cmp.Or(cmp.Compare(b.N, a.N), cmp.Compare(a.Address, b.Address)) })
	at, one := Digging{Kind: DigSenders, Who: []Heap{}}, Digging{Kind: DigSingly, Who: []Heap{}}
	for _, h := range heaps {
		if h.N >= heapOfPeople || h.N >= heapOf && 2*h.People < h.N {
			at.Conversations, at.Decisions = at.Conversations+h.N, at.Decisions+1
			if len(at.Who) < heapsShown {
				at.Who = append(at.Who, h)
			}
		} else {
			one.Conversations, one.Decisions = one.Conversations+h.N, one.Decisions+h.N
		}
	}
	at.Seconds, one.Seconds = at.Decisions*heapSeconds, one.Decisions*cmp.Or(pace, usualSeconds)
	for _, s := range []Digging{at, one} {
		if s.Decisions > 0 {
			steps = append(steps, s)
		}
	}
	return steps
}

// Tens is how many pieces of ten minutes steps take.
func Tens(steps []Digging) int {
	seconds := 0
	for _, s := range steps {
		seconds += s.Seconds
	}
	return (seconds + TenMinutes - 1) / TenMinutes
}

// NextTen is what of the steps is done in the next ten minutes.
func NextTen(steps []Digging) (now []Digging) {
	now = []Digging{}
	for left, i := TenMinutes, 0; i < len(steps) && left > 0; i++ {
		s := steps[i]
		if s.Seconds > left {
			each := max(1, s.Seconds/s.Decisions)
			n := max(1, left/each)
			conversations := n // one each, but of senders as many as lie there
			if s.Kind == DigSenders {
				conversations = 0
				for _, h := range s.Who[:min(n, len(s.Who))] {
					conversations += h.N
				}
				s.Who = s.Who[:min(n, len(s.Who))]
			}
			s.Decisions, s.Conversations, s.Seconds = n, conversations, left
		}
		left -= s.Seconds
		now = append(now, s)
	}
	return now
}

// DigEnd is the day on which so many pieces of ten minutes are done, of so many each working day from a day
// on; false if that is never.
func DigEnd(tens, each int, from int64, off func(day int64) bool) (day int64, ok bool) {
	const most = 3660 // days
	if each <= 0 {
		return 0, false
	}
	for day = from; day < from+most; day++ {
		if off(day) {
			continue
		}
		if tens -= each; tens <= 0 {
			return day, true
		}
	}
	return 0, false
}
