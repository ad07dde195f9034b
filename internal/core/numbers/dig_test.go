package numbers

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestDiggingOut(t *testing.T) {
	heaps := []Heap{{"news@shop.example", "Shop", 300, 0}, {"a@x", "Ada", 12, 12}, {"b@x", "Bo", 4, 4}, {"n@x", "Notices", 3, 0}}
	steps := DigOut(2000, heaps, 30)
	require.Equal(t, []Digging{
		{DigOld, 2000, 1, 60, []Heap{}},
		{DigSenders, 315, 3, 45, []Heap{heaps[0], heaps[1], heaps[3]}},
		{DigSingly, 4, 4, 120, []Heap{}},
	}, steps)
	require.Equal(t, 1, Tens(steps))
	require.Equal(t, steps, NextTen(steps))
	many := DigOut(0, []Heap{{"b@x", "Bo", 9, 9}, {"c@x", "Ciro", 9, 9}, {"d@x", "Dia", 9, 9}, {"e@x", "Eli", 9, 9}}, 0)
	require.Equal(t, []Digging{{DigSingly, 36, 36, 720, []Heap{}}}, many)
	require.Equal(t, []Digging{{DigSingly, 30, 30, 600, []Heap{}}}, NextTen(many))
	require.Equal(t, 2, Tens(many))
	require.Empty(t, DigOut(0, nil, 0))

	weekend := func(day int64) bool { return day%7 >= 5 }
	day, ok := DigEnd(11, 2, 0, weekend)
	require.True(t, ok)
	require.EqualValues(t, 7, day, "five days of two, and one on the Monday after")
	_, ok = DigEnd(1, 0, 0, weekend)
	require.False(t, ok)
	_, ok = DigEnd(1, 1, 0, func(int64) bool { return true })
	require.False(t, ok, "never at work")
}

// Whatever lies there: each conversation belongs to one step, and no ten minutes take longer.
func TestDiggingLeavesNothingOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		all, old := 0, rapid.IntRange(0, 3000).Draw(t, "old")
		var heaps []Heap
		for range rapid.IntRange(0, 60).Draw(t, "senders") {
			n := rapid.IntRange(1, 80).Draw(t, "n")
			all += n
			heaps = append(heaps, Heap{Address: rapid.StringN(1, 5, 9).Draw(t, "who"), N: n, People: rapid.IntRange(0, n).Draw(t, "people")})
		}
		steps := DigOut(old, heaps, rapid.IntRange(0, 60).Draw(t, "pace"))
		sum := 0
		for _, s := range steps {
			sum += s.Conversations
		}
		if sum != all+old {
			t.Fatalf("%d of %d", sum, all+old)
		}
		seconds := 0
		for i, s := range NextTen(steps) {
			seconds += s.Seconds
			if s.Decisions > steps[i].Decisions || s.Conversations > steps[i].Conversations || s.Decisions <= 0 {
				t.Fatalf("%v of %v", s, steps[i])
			}
		}
		if seconds > TenMinutes || (len(steps) > 0 && seconds == 0) {
			t.Fatalf("%d seconds", seconds)
		}
	})
}
