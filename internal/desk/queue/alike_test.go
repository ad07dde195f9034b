package queue

import (
	"errors"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/store"
)

// What many ask for is read once, and anew once more has been written; each may do with it as they like.
func TestOrdersThatAreAlike(t *testing.T) {
	var a alike
	var reads atomic.Int64
	of := asks{1, inbox.NewestFirst}
	read := func() ([]store.Group, error) {
		reads.Add(1)
		return []store.Group{{Key: "0", Name: "read"}}, nil
	}
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			groups, err := a.get(of, 7, read)
			if err == nil {
				groups[0].Name = "mine"
			}
		})
	}
	all.Wait()
	require.EqualValues(t, 1, reads.Load())
	groups, err := a.get(of, 7, read)
	require.NoError(t, err)
	require.Equal(t, "read", groups[0].Name)
	_, err = a.get(asks{2, inbox.NewestFirst}, 7, read)
	require.NoError(t, err)
	require.EqualValues(t, 2, reads.Load(), "of each box by itself")
	_, err = a.get(of, 8, func() ([]store.Group, error) { return nil, errors.New("no") })
	require.Error(t, err)
	_, err = a.get(of, 8, read)
	require.NoError(t, err)
	require.EqualValues(t, 3, reads.Load())
	a.forget()
	_, err = a.get(of, 8, read)
	require.NoError(t, err)
	require.EqualValues(t, 4, reads.Load())
}
