package followup

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
)

// Whatever is put on the shelf and taken off it, it stands as if it had been
// filled anew; what is counted, arranged and paged agrees with a plain walk.
func TestTheShelfAgainstAPlainWalk(t *testing.T) {
	bounds := BoundsAt(tuesday, week)
	live := map[int64]bool{1: true, 2: true}
	entry := rapid.Custom(func(t *rapid.T) Shelved {
		e := Shelved{UID: fmt.Sprint(rapid.IntRange(0, 25).Draw(t, "uid")), Stage: rapid.SampledFrom([]string{"todo", "others"}).Draw(t, "stage"), Project: rapid.SampledFrom([]string{"", "loans"}).Draw(t, "project"),
			Priority: rapid.SampledFrom(Priorities).Draw(t, "priority"), Minutes: rapid.IntRange(0, 90).Draw(t, "minutes"), Words: rapid.SampledFrom([]string{"ring the mover", "count chairs"}).Draw(t, "words")}
		if rapid.Bool().Draw(t, "dated") {
			e.Due = tuesday + when.Instant(rapid.Int64Range(-3*86_400_000, 20*86_400_000).Draw(t, "due"))
		}
		e.Labels = rapid.SampledFrom([][]int64{nil, {1}, {1, 2}, {3}}).Draw(t, "labels")
		return e
	})
	rapid.Check(t, func(t *rapid.T) {
		var s Shelf
		plain := map[string]Shelved{}
		for range rapid.IntRange(0, 60).Draw(t, "steps") {
			e := entry.Draw(t, "entry")
			if rapid.IntRange(0, 3).Draw(t, "drop") == 0 {
				s.Drop(e.UID)
				delete(plain, e.UID)
			} else {
				s.Put(e)
				plain[e.UID] = e
			}
		}
		var all []Shelved
		for _, e := range plain {
			all = append(all, e)
		}
		var fresh Shelf
		fresh.Fill(slices.Clone(all))
		require.Equal(t, fresh.List(search.Query{}, Span{}, 100), s.List(search.Query{}, Span{}, 100))
		n := rapid.SampledFrom([]search.Query{{}, {Words: "RING mov"}, {Project: "loans"}, {Stage: "others", Priority: int(Low)}, {Label: 1}}).Draw(t, "filter")
		for _, by := range Bys {
			total, seen := 0, map[string]bool{}
			for key, lot := range s.Arrange(by, n, Span{}, bounds, live, 3) {
				require.LessOrEqual(t, len(lot.UIDs), 3)
				var paged []string
				for after := (Shelved{}); ; {
					page := s.Page(by, key, n, Span{}, bounds, live, after, 4)
					paged = append(paged, page...)
					if len(page) < 4 {
						break
					}
					after = plain[page[3]]
				}
				if by != ByLabel || n.Label == 0 {
					require.Len(t, paged, lot.Count)
					require.Equal(t, lot.UIDs, paged[:len(lot.UIDs)])
				}
				total += lot.Count
				for _, uid := range paged {
					seen[uid] = true
				}
			}
			if by != ByLabel {
				require.Len(t, seen, total)
				require.Len(t, s.List(n, Span{}, 100), total)
			}
		}
		heaps, undated := s.Heaps(n, []when.Instant{tuesday, tuesday + 86_400_000})
		open, load := undated.Open, undated.Load
		for _, h := range heaps {
			open, load = open+h.Open, load+h.Load
		}
		sum := 0
		for _, uid := range s.List(n, Span{}, 100) {
			sum += plain[uid].Minutes
		}
		require.Equal(t, []int{len(s.List(n, Span{}, 100)), sum}, []int{open, load})
		require.Len(t, s.List(n, Span{0, 1}, 100), undated.Open)
	})
}
