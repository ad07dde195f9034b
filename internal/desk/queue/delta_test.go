package queue

import (
	"encoding/json"
	"hash/maphash"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Whoever has an order and is told only what has become otherwise comes to the order as it is now.
func TestWhatHasBecomeOtherwise(t *testing.T) {
	numbers := rapid.SliceOfN(rapid.Int64Range(-3, 130), 0, 12)
	rapid.Check(t, func(t *rapid.T) {
		was, is := numbers.Draw(t, "was"), numbers.Draw(t, "is")
		if rapid.Bool().Draw(t, "like it") {
			at := rapid.IntRange(0, len(was)).Draw(t, "at")
			is = slices.Concat(was[:at], numbers.Draw(t, "new"), was[min(len(was), at+rapid.IntRange(0, 2).Draw(t, "gone")):])
		}
		text := func(ids []int64) []byte {
			raw, err := json.Marshal(append([]int64{}, ids...))
			require.NoError(t, err)
			return raw
		}
		begin, end, between := difference(text(was), text(is))
		var middle []int64
		require.NoError(t, json.Unmarshal(between, &middle))
		require.Equal(t, append([]int64{}, is...), append([]int64{}, slices.Concat(was[:begin], middle, was[len(was)-end:])...))
		most := 0
		for most < min(len(was), len(is)) && was[most] == is[most] {
			most++
		}
		require.Equal(t, most, begin, "as much as is alike")
	})
}

func TestRecentOrders(t *testing.T) {
	r := &recent{seed: maphash.MakeSeed()}
	groups := func(key, ids string) []QueueGroup { return []QueueGroup{{Key: key, IDs: json.RawMessage(ids)}} }
	tag := r.put(1, 1, groups("new", "[1,2,3]"))
	require.Equal(t, tag, r.put(1, 1, groups("new", "[1,2,3]")))
	require.Len(t, r.all, 1)
	require.NotEqual(t, tag, r.put(1, 1, groups("new", "[1,2,4]")))
	require.NotEqual(t, tag, r.put(1, 1, groups("old", "[1,2,3]")))
	require.NotNil(t, r.of(1, 1, tag))
	require.Nil(t, r.of(1, 2, tag), "it was given to somebody else")
	require.Nil(t, r.of(2, 1, tag))
	got := since(r.of(1, 1, tag), []QueueGroup{{Key: "new", IDs: json.RawMessage("[1,3]")}, {Key: "mine", IDs: json.RawMessage("[2]")}})
	require.Equal(t, []QueueGroup{{Key: "new", Keep: &[2]int{1, 1}, IDs: json.RawMessage("[]")}, {Key: "mine", IDs: json.RawMessage("[2]")}}, got)
	for range mostOrders {
		r.put(1, 3, groups("new", "["+string(rune('0'+len(r.all)%10))+"]"))
	}
	big := json.RawMessage(slices.Repeat([]byte("7"), mostBytes))
	r.put(1, 4, []QueueGroup{{Key: "big", IDs: big}})
	require.LessOrEqual(t, len(r.all), 1, "what is kept has a limit")
	require.Nil(t, r.of(1, 1, tag))
}
