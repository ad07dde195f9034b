package numbers

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

func TestWhatIsAnAnswer(t *testing.T) {
	const h = when.Instant(3_600_000)
	them := func(c int64, at when.Instant) Exchange { return Exchange{Conversation: c, At: at} }
	me := func(c int64, at when.Instant) Exchange { return Exchange{Conversation: c, At: at, Own: true} }
	for _, c := range []struct {
		name        string
		all         []Exchange
		own, theirs []when.Instant
	}{
		{"nothing was written", nil, nil, nil},
		{"one message answers nothing", []Exchange{them(1, 1*h)}, nil, nil},
		{"an answer", []Exchange{them(1, 1*h), me(1, 3*h)}, []when.Instant{2 * h}, nil},
		{"an answer to that", []Exchange{them(1, 1*h), me(1, 3*h), them(1, 10*h)}, []when.Instant{2 * h}, []when.Instant{7 * h}},
		{"who writes twice waits from the first", []Exchange{them(1, 1*h), them(1, 2*h), me(1, 5*h), me(1, 6*h)}, []when.Instant{4 * h}, nil},
		{"another conversation is another matter", []Exchange{them(1, 1*h), me(2, 2*h)}, nil, nil},
		{"whatever the order they come in", []Exchange{me(1, 3*h), them(2, 9*h), them(1, 1*h)}, []when.Instant{2 * h}, nil},
		{"a machine neither answers nor waits", []Exchange{me(1, 1*h), {Conversation: 1, At: 2 * h, Machine: true}, them(1, 4*h)}, nil, []when.Instant{3 * h}},
		{"after two months something new begins", []Exchange{them(1, 1*h), me(1, 1500*h), them(1, 1501*h)}, nil, []when.Instant{1 * h}},
	} {
		own, theirs := Answers(c.all)
		took := func(all []Taken) (out []when.Instant) {
			for _, t := range all {
				out = append(out, t.Took)
			}
			return out
		}
		require.Equal(t, c.own, took(own), c.name)
		require.Equal(t, c.theirs, took(theirs), c.name)
	}
	require.Equal(t, 3*h, Usual([]Taken{{Took: 90 * h}, {Took: 1 * h}, {Took: 3 * h}}))
	require.Zero(t, Usual(nil))
}

// In one conversation the two take turns: of n turns there are n-1 answers, which together
// take as long as it is from the first turn to the last.
func TestAnswersAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var all []Exchange
		at, turns, first, last := when.Instant(1), 0, when.Instant(0), when.Instant(0)
		for i, own := range rapid.SliceOf(rapid.Bool()).Draw(t, "who") {
			at += when.Instant(rapid.IntRange(1, 1000).Draw(t, "pause"))
			if i == 0 || own != all[i-1].Own {
				if turns++; first == 0 {
					first = at
				}
				last = at
			}
			all = append(all, Exchange{Conversation: 1, At: at, Own: own})
		}
		own, theirs := Answers(rapid.Permutation(all).Draw(t, "order"))
		sum := when.Instant(0)
		for _, x := range append(own, theirs...) {
			sum += x.Took
		}
		if len(own)+len(theirs) != max(turns-1, 0) || sum != last-first {
			t.Fatalf("%d and %d of %d turns, %d of %d", len(own), len(theirs), turns, sum, last-first)
		}
	})
}
