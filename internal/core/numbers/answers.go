package numbers

import (
	"cmp"
	"slices"

	"ebbe/internal/core/when"
)

// Exchange is one message between the reader and one other person.
type Exchange struct {
	Conversation int64
	At           when.Instant
	Own          bool // the reader wrote it
	Machine      bool // nobody wrote it: it answers nothing, and is not answered
}

// Taken is how long an answer took.
type Taken struct {
	At   when.Instant `json:"at"`   // when it was written
	Took when.Instant `json:"took"` // milliseconds by the clock
}

// anAnswer is how long after what it may answer a message is an answer: what comes later
// begins something new.
const anAnswer = 60 * 24 * when.Instant(3_600_000)

// Answers says how long the reader took to answer the other person, and the other way
// round, the newest answers first. An answer is the first message of one of the two within
// a conversation after one or more of the other, and took as long as the first of those had
// waited. What a machine wrote counts for nothing, nor does what comes after sixty days.
func Answers(all []Exchange) (own, theirs []Taken) {
	all = slices.Clone(all)
	slices.SortStableFunc(all, func(a, b Exchange) int {
		return cmp.Or(cmp.Compare(a.Conversation, b.Conversation), cmp.Compare(a.At, b.At))
	})
	var since Exchange // the first of those that wait for an answer
	for _, m := range all {
		switch {
		case m.Machine:
		case since.Conversation != m.Conversation || since.At == 0:
			since = m
		case since.Own != m.Own:
			if took := m.At - since.At; took <= anAnswer {
				if m.Own {
					own = append(own, Taken{m.At, took})
				} else {
					theirs = append(theirs, Taken{m.At, took})
				}
			}
			since = m
		}
	}
	newest := func(a, b Taken) int { return cmp.Compare(b.At, a.At) }
	slices.SortStableFunc(own, newest)
	slices.SortStableFunc(theirs, newest)
	return own, theirs
}

// Usual is how long answers take in the middle of them: half took less; 0 of none.
func Usual(taken []Taken) when.Instant {
	if len(taken) == 0 {
		return 0
	}
	all := make([]when.Instant, len(taken))
	for i, t := range taken {
		all[i] = t.Took
	}
	slices.Sort(all)
	return all[len(all)/2]
}
