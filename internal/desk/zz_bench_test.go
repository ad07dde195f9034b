package desk

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	"ebbe/internal/store"
)

func BenchmarkDecide(b *testing.B) {
	f := newOffice(b, store.Options{})
	var raws []string
	for i := range 5000 {
		raws = append(raws, letter(fmt.Sprintf("m%d@x", i), fmt.Sprintf("w%d@x.example", i%300), fmt.Sprintf("Matter %d", i)))
	}
	f.take(b, raws...)
	q, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{})
	require.NoError(b, err)
	b.Run("decide", func(b *testing.B) {
		for i := range b.N {
			kind := []inbox.Kind{inbox.Archive, inbox.ToInbox}[i%2]
			_, err := f.Decisions.Decide(ctx, f.who, fmt.Sprint(time.Now().UnixNano(), i), decide.Decision{Kind: kind, Conversations: []int64{q.Slips[0].ID}})
			require.NoError(b, err)
		}
	})
	b.Run("queue", func(b *testing.B) {
		for range b.N {
			_, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{})
			require.NoError(b, err)
		}
	})
	b.Run("open", func(b *testing.B) {
		for range b.N {
			_, err := f.Reading.Conversation(ctx, f.who, 1)
			require.NoError(b, err)
		}
	})
}
