package finding_test

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/finding"
	"ebbe/internal/store/words"
)

// many is a store with so many messages, a conversation each, all of which say "tide", and
// every seventh "crate", every 13th "skylight", every fifth one of 499 lagoons; their dates
// go by at.
func many(t *testing.T, n int, at string) *store.Store {
	t.Helper()
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	ids := fmt.Sprintf("WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d)", n)
	for _, q := range []string{
		"INSERT INTO conversations(id, box_id, place, reason, since, snoozed_at, return_at, return_local, return_zone, until, site, round, title, note, labels, subject, base, last_at, first_at, messages, files, kind, from_name, from_addr, own_last, merged_to, apart, account, reach, rank, size) " +
			ids + " SELECT i, 1, 'archived', 'arrived', " + at + ", 0, 0, '', '', '', 0, 0, '', '', '', 'tide ' || i, 'tide', " + at + ", " + at + ", 1, 0, 'person', 'Mirela', 'mirela@coast.example', 0, 0, 0, '', '', 0, 10 FROM n",
		"INSERT INTO messages(id, box_id, conversation_id, date, subject, from_name, from_addr, held, own, message_id, hash) " + ids + " SELECT i, 1, i, " + at + ", 'tide ' || i, 'Mirela', 'mirela@coast.example', '', 0, i, i FROM n",
		"INSERT INTO message_blocks(box_id, block, newest) SELECT box_id, id >> 12, MAX(date) FROM messages GROUP BY 1, 2",
	} {
		require.NoError(t, s.Write(context.Background(), func(tx store.Tx) error { return tx.DB().Exec(q).Error }), q)
	}
	var said []words.Row
	for i := range n {
		e := words.Entry{ID: int64(i + 1), Subject: fmt.Sprint("tide ", i+1), People: "Mirela mirela@coast.example", Body: "tide"}
		if (i+1)%7 == 0 {
			e.Body = "tidal crate"
		}
		if (i+1)%13 == 0 {
			e.Body += " skylight"
		}
		if (i+1)%5 == 0 {
			e.Body += fmt.Sprint(" lagoon", i%499) // more words that begin so than are asked for
		}
		said = append(said, e.Row())
	}
	require.NoError(t, s.Write(context.Background(), func(tx store.Tx) error { return words.Messages.Put(tx.DB(), said) }))
	return s
}

// What stands in more messages than can be weighed is given with the newest of all first,
// in whatever order it was stored.
func TestTheCommonestWords(t *testing.T) {
	const n = 40_000
	for name, order := range map[string]struct {
		at     string
		newest func(i int) int64 // the ID of the i-th newest
	}{
		"as it came":         {"i * 1000", func(i int) int64 { return int64(n - i) }},
		"the newest first":   {fmt.Sprintf("(%d - i) * 1000", n+1), func(i int) int64 { return int64(1 + i) }},
		"two folders in one": {fmt.Sprintf("((i * 2) %% %d + (i * 2) / %d) * 1000", n, n), nil},
	} {
		s := many(t, n, order.at)
		require.NoError(t, s.Read(context.Background(), func(tx store.Tx) error {
			for _, q := range []search.Query{{Words: "tide"}, {Words: "tid"}, {Words: "crate"}, {Words: "tide tidal"}, {Words: "“tidal crate”"}, {Words: "crates"}, {Words: "tid “crate”"}, {Words: "tide -crate"}, {Words: "skylight"}, {Words: "skyligh tid"}, {Words: "skylight -tid"}, {Words: "tide -skyli"}, {Words: "skylight -crat"}, {Words: "tid -lagoo"}, {Words: "lagoo"}, {Words: "lagoon tide skyl"}, {Words: "tide", Writer: "mirela@coast.example"}, {Words: "tide", Since: 5_000_000, Until: 30_000_000}} {
				var want []int64
				require.NoError(t, store.Search(tx).Matching(1, 1, q, false).Order("c.last_at DESC, c.id DESC").Limit(100).Pluck("c.id", &want).Error)
				r, err := finding.Finding(tx).Find(1, 1, q, true, when.Instant(n*1000))
				require.NoError(t, err)
				var got []int64
				for _, f := range r.Found[:min(len(r.Found), 100)] {
					got = append(got, f.Conversation)
				}
				require.True(t, slices.Equal(want, got), "%s: %+v", name, q)
				all, err := store.Search(tx).Count(1, 1, q, n)
				require.NoError(t, err)
				require.Equal(t, all > r.Count, r.More, "%s: %+v", name, q)
				if order.newest != nil && q == (search.Query{Words: "tide"}) {
					require.Equal(t, order.newest(0), got[0])
				}
				best, err := finding.Finding(tx).Find(1, 1, q, false, when.Instant(n*1000))
				require.NoError(t, err)
				require.Equal(t, r.Count, best.Count)
			}
			rare, err := finding.Finding(tx).Find(1, 1, search.Query{Words: "tide 7007"}, false, when.Instant(n*1000))
			require.NoError(t, err)
			require.Equal(t, 1, rare.Count)
			require.False(t, rare.More)
			require.EqualValues(t, 7007, rare.Found[0].Message)

			other, err := finding.Finding(tx).Find(2, 1, search.Query{Words: "tide"}, false, when.Instant(n*1000))
			require.NoError(t, err)
			require.Zero(t, other.Count, "nothing of another box")
			return nil
		}))
	}
}

// Of what is common and narrowed to few, all is found.
func TestTheCommonestWordsAmongFew(t *testing.T) {
	s := many(t, 20_000, "i * 1000")
	require.NoError(t, s.Write(context.Background(), func(tx store.Tx) error {
		return tx.DB().Exec("UPDATE conversations SET place = 'bin' WHERE id IN (5, 77, 15000)").Error
	}))
	require.NoError(t, s.Read(context.Background(), func(tx store.Tx) error {
		r, err := finding.Finding(tx).Find(1, 1, search.Query{Words: "tide", Place: "bin"}, false, 20_000_000)
		require.NoError(t, err)
		var ids []int64
		for _, f := range r.Found {
			ids = append(ids, f.Conversation)
		}
		slices.Sort(ids)
		require.Equal(t, []int64{5, 77, 15000}, ids)
		require.False(t, r.More)
		known, err := finding.Finding(tx).Knows([]string{"tidal", "tidel"}, 100)
		require.NoError(t, err)
		require.Equal(t, map[string]int{"tidal": 100}, known)
		return nil
	}))
}
