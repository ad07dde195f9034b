package store_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Two boxes may know the same UID, as two people may read the same file.
func TestTheSameUIDInTwoBoxes(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Write(context.Background(), func(tx store.Tx) error {
		for box := int64(1); box <= 2; box++ {
			f := followup.FollowUp{UID: "same", Title: "Ring", Status: followup.NeedsAction, Priority: followup.Normal, Due: when.Moment{At: when.Instant(box)}, Reminders: []followup.Reminder{{At: when.Moment{At: when.Instant(100 * box)}}}}
			if err := store.FollowUps(tx).PutFollowUps(box, []followup.FollowUp{f}); err != nil {
				return err
			}
		}
		for box := int64(1); box <= 2; box++ {
			f, err := store.FollowUps(tx).FollowUpByUID(box, "same")
			require.NoError(t, err)
			require.EqualValues(t, box, f.DueAt)
		}
		things, err := store.Agenda(tx).Things()
		require.NoError(t, err)
		require.Len(t, things, 2)
		if err := store.Conversations(tx).Apply(1, 1, []inbox.Change{{FollowUpBefore: &followup.FollowUp{UID: "same"}}}); err != nil {
			return err
		}
		_, err = store.FollowUps(tx).FollowUpByUID(2, "same")
		require.NoError(t, err)
		things, err = store.Agenda(tx).Things()
		require.Len(t, things, 1)
		return err
	}))
}
