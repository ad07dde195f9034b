package store_test

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/store"
	"ebbe/internal/store/holding"
)

// A database written by the first version is brought up to date with all that
// is in it, and what the queue is arranged by is computed for its mail.
func TestADatabaseOfTheFirstVersion(t *testing.T) {
	ctx, dir := context.Background(), t.TempDir()
	dump, err := os.ReadFile("testdata/0001.sql")
	require.NoError(t, err)
	raw, err := sql.Open("sqlite3", filepath.Join(dir, "ebbe.db"))
	require.NoError(t, err)
	_, err = raw.Exec(string(dump))
	require.NoError(t, err)
	require.NoError(t, raw.Close())

	for range 2 { // opening it again changes nothing more
		s, err := store.Open(dir, store.Options{})
		require.NoError(t, err)
		require.NoError(t, s.Read(ctx, func(tx store.Tx) error {
			wrong, err := tx.Check()
			require.NoError(t, err)
			require.Empty(t, wrong)
			rows, err := store.Conversations(tx).ConversationRows(1, []int64{1, 2})
			require.NoError(t, err)
			require.Equal(t, mail.Copied, rows[1].Reach, "the last message of somebody else was a copy")
			require.Equal(t, "solvei@m.example", rows[1].Account)
			require.Equal(t, inbox.Rank(mail.Person, mail.Copied), rows[1].Rank)
			require.Equal(t, mail.Alone, rows[2].Reach)
			require.Greater(t, rows[1].Size, rows[2].Size)
			c, err := store.Correspondents(tx).Correspondent(1, "mirela@coastlinecouriers.example")
			require.NoError(t, err)
			require.NotZero(t, c.AnsweredAt)
			past, err := store.Journal(tx).History(1, store.Past{Conversation: 2}, 10)
			require.NoError(t, err)
			require.Len(t, past, 1, "archiving it is found by the conversation")
			step, err := store.Journal(tx).LastStep(1, 1)
			require.NoError(t, err)
			require.Equal(t, inbox.Star, step.Kind)
			require.Equal(t, int64(1), step.Changes[0].After.ID)
			p, err := store.People(tx).PersonByID(1)
			require.NoError(t, err)
			require.Equal(t, delivery.Usual(), p.Delivery, "mail comes in as it is sent, and reminders notify")
			heaps, err := holding.Held(tx).Heaps(1)
			require.NoError(t, err)
			require.Empty(t, heaps)
			return nil
		}))
		s.Close()
	}
}

// A line of the journal about many conversations is kept small, and read back
// as it was.
func TestTheJournalKeepsManyConversations(t *testing.T) {
	ctx := context.Background()
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	var changes []inbox.Change
	for id := int64(1); id <= 5000; id++ {
		before := inbox.Conversation{ID: id, Position: inbox.Position{Place: inbox.Inbox, Reason: inbox.Arrived, Since: 1}, Labels: inbox.LabelsOf(id % 3)}
		after := before
		after.Place = inbox.Archived
		changes = append(changes, inbox.Change{Before: &before, After: &after})
	}
	e := &store.Entry{BoxID: 1, PersonID: 1, Kind: inbox.Archive, Step: true, Changes: changes}
	require.NoError(t, s.Write(ctx, func(tx store.Tx) error { return store.Journal(tx).Record(e) }))
	require.NoError(t, s.Read(ctx, func(tx store.Tx) error {
		got, err := store.Journal(tx).Entry(1, e.ID)
		require.NoError(t, err)
		require.Equal(t, changes, got.Changes)
		_, err = store.Journal(tx).Entry(2, e.ID)
		require.ErrorIs(t, err, store.ErrNotFound, "nobody reads another box's journal")
		return nil
	}))
}
