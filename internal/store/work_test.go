package store

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
)

// A database of before follow-ups had stages: they come along, with their one
// reminder, and what is on the agenda for them.
func TestFollowUpsOfAnOlderDatabase(t *testing.T) {
	dir, ctx := t.TempDir(), context.Background()
	s, err := Open(dir, Options{})
	require.NoError(t, err)
	for _, q := range []string{
		"DELETE FROM migrations WHERE id = '0006'", "DROP TRIGGER between_follow_up_new", "DROP TRIGGER between_follow_up_change", "DROP TRIGGER between_follow_up_gone", "DROP TRIGGER between_message_new", "DROP TRIGGER between_message_change",
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
		things, err := tx.Due(1, 1000, 10)
		require.Equal(t, inbox.Remind, things[0].Kind)
		require.EqualValues(t, 700, things[0].At)
		return err
	}))
}

// A database of before there were accounts: the answers that were begun come
// along as drafts, and what waited in the outbox is kept and not sent.
func TestDraftsAndOutboxOfAnOlderDatabase(t *testing.T) {
	dir, ctx := t.TempDir(), context.Background()
	s, err := Open(dir, Options{})
	require.NoError(t, err)
	for _, q := range []string{
		"DELETE FROM migrations WHERE id = '0005'",
		"DROP TABLE accounts", "DROP TABLE folders", "DROP TABLE copies", "DROP TABLE awaiteds", "DROP TABLE happenings", "DROP TABLE errands", "DROP TABLE unaskeds", "DROP TABLE draft_copies", "DROP TABLE templates", "DROP TABLE draft_files",
		"DROP TABLE drafts", "CREATE TABLE drafts (person_id integer, conversation_id integer, text text, begun integer, changed integer, PRIMARY KEY (person_id, conversation_id))",
		"INSERT INTO drafts VALUES (1, 7, 'Thursday is', 100, 200)",
		"DROP TABLE outgoings", "CREATE TABLE outgoings (id integer PRIMARY KEY AUTOINCREMENT, box_id integer, hold text, address text, name text, at integer, subject text, text text, original blob, entry_id integer, withdrawn numeric)",
		"CREATE UNIQUE INDEX outgoing_once ON outgoings(box_id, hold, address)", "CREATE INDEX outgoing_entry ON outgoings(entry_id) WHERE entry_id > 0",
		"CREATE TABLE on_its_ways (id integer PRIMARY KEY, box_id integer, at integer, original blob)",
		"INSERT INTO outgoings VALUES (1, 1, 'h1', 'a@x.example', 'A', 50, 'Held', 'Later', x'00', 0, 0), (2, 1, 'invitation/9', 'b@x.example', 'B', 60, 'Yes', 'I come', x'00', 9, 0), (3, 1, 'invitation/8', 'c@x.example', 'C', 60, 'No', '', x'00', 8, 1)",
	} {
		require.NoError(t, s.write.Exec(q).Error, q)
	}
	s.Close()
	s, err = Open(dir, Options{})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Read(ctx, func(tx Tx) error {
		d, err := tx.Draft(1, 7)
		require.NoError(t, err)
		require.NotZero(t, d.ID)
		require.Equal(t, writing.Reply, d.Mode)
		require.Equal(t, "Thursday is", d.Text)
		require.EqualValues(t, 200, d.Changed)
		next, err := tx.NextToSend(0)
		require.NoError(t, err)
		require.Zero(t, next, "nothing old is sent by itself")
		out, err := tx.Outbox(1, 0, 10)
		require.NoError(t, err)
		require.Len(t, out, 2)
		require.Equal(t, writing.Kept, out[0].State)
		heard, err := tx.Answers(1, 0, 10)
		require.Equal(t, "a@x.example", heard[0].Address)
		require.Len(t, heard, 1)
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
