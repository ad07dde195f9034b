package store

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// A database of before follow-ups had stages: they come along, with their one
// reminder, and what is on the agenda for them.
func TestFollowUpsOfAnOlderDatabase(t *testing.T) {
	dir, ctx := t.TempDir(), context.Background()
	s, err := Open(dir, Options{})
	require.NoError(t, err)
	for _, q := range []string{
		"DROP TABLE follow_ups", "DROP TABLE follow_up_labels", "DROP TABLE events", "DROP TABLE revisions", "DROP TABLE follow_ups_gone", "DELETE FROM migrations WHERE id = '0004'", "DROP INDEX person_feed",
		"ALTER TABLE people DROP COLUMN follow_up", "ALTER TABLE people DROP COLUMN feed",
		"CREATE TABLE follow_ups (uid text PRIMARY KEY, box_id integer, open numeric, due_at integer, conversation_id integer, finished integer, card numeric, data text)",
		"CREATE INDEX followup_due ON follow_ups(box_id, open, due_at)", "CREATE INDEX followup_cards ON follow_ups(box_id) WHERE card",
		`INSERT INTO follow_ups VALUES ('a', 1, 1, 900, 0, 0, 0, '{"uid":"a","title":"Ring","status":"needs-action","priority":5,"due":{"at":900},"remind":{"at":700},"card":false}')`,
	} {
		require.NoError(t, s.write.Exec(q).Error, q)
	}
	s.Close()
	s, err = Open(dir, Options{})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Read(ctx, func(tx Tx) error {
		f, err := tx.FollowUpByUID(1, "a")
		require.NoError(t, err)
		require.Equal(t, []followup.Reminder{{At: when.Moment{At: 700}}}, f.Data.Reminders)
		require.Equal(t, "todo", f.Stage)
		things, err := tx.Due(1000, 10)
		require.Equal(t, inbox.Remind, things[0].Kind)
		require.EqualValues(t, 700, things[0].At)
		return err
	}))
}

// Two boxes may know the same UID, as two people may read the same file.
func TestTheSameUIDInTwoBoxes(t *testing.T) {
	s, err := Open(t.TempDir(), Options{})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Write(context.Background(), func(tx Tx) error {
		for box := int64(1); box <= 2; box++ {
			f := followup.FollowUp{UID: "same", Title: "Ring", Status: followup.NeedsAction, Priority: followup.Normal, Due: when.Moment{At: when.Instant(box)}, Reminders: []followup.Reminder{{At: when.Moment{At: when.Instant(100 * box)}}}}
			if err := tx.PutFollowUps(box, []followup.FollowUp{f}); err != nil {
				return err
			}
		}
		for box := int64(1); box <= 2; box++ {
			f, err := tx.FollowUpByUID(box, "same")
			require.NoError(t, err)
			require.EqualValues(t, box, f.DueAt)
		}
		things, err := tx.Things()
		require.NoError(t, err)
		require.Len(t, things, 2)
		if err := tx.dropFollowUp(1, "same"); err != nil {
			return err
		}
		_, err = tx.FollowUpByUID(2, "same")
		require.NoError(t, err)
		things, err = tx.Things()
		require.Len(t, things, 1)
		return err
	}))
}
