package desk

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// Bin and junk are emptied only where the person wants it, only of what Ebbe has
// put there long enough ago, and the history says of how many.
func TestBinAndJunkAreEmptied(t *testing.T) {
	p := newPosted(t, postoffice.Faults{})
	p.put(postoffice.Trash, "old@x", "Jonas <jonas@x.example>", "Lay there before")
	for i, s := range []string{"Binned", "Junk", "Fetched back", "Binned elsewhere"} {
		p.put(postoffice.Inbox, string(rune('a'+i))+"@x", "Jonas <jonas@x.example>", s)
	}
	p.connected(t).pass(t)
	decide := func(k inbox.Kind, subject string) {
		p.decide(t, k, decide.Decision{Conversations: []int64{p.where(t, subject).ID}})
	}
	decide(inbox.ToBin, "Binned")
	decide(inbox.ToJunk, "Junk")
	decide(inbox.ToBin, "Fetched back")
	p.post.Move(museum, postoffice.Inbox, 4, postoffice.Trash)
	p.pass(t)
	p.later(40 * 24 * time.Hour)
	p.pass(t)
	require.Len(t, p.in(postoffice.Trash), 4, "nothing is removed unless the person agrees")
	decide(inbox.ToInbox, "Fetched back")

	v := account
	v.ID, v.EmptyDays = 1, 3
	_, err := p.Accounts.Put(ctx, p.who, "", v)
	require.ErrorContains(t, err, "after 7 days at the earliest")
	v.EmptyDays = 30
	_, err = p.Accounts.Put(ctx, p.who, "", v)
	require.NoError(t, err)
	p.pass(t)
	require.ElementsMatch(t, []string{"Lay there before", "Binned elsewhere"}, p.in(postoffice.Trash))
	require.Empty(t, p.in(postoffice.Junk))
	require.Equal(t, []string{"Fetched back"}, p.in(postoffice.Inbox))
	h, err := p.Reading.History(ctx, p.who, store.Past{Actor: store.ByClock})
	require.NoError(t, err)
	require.Equal(t, []inbox.Kind{inbox.Empty, inbox.Empty}, []inbox.Kind{h.Lines[0].Kind, h.Lines[1].Kind})
	require.Equal(t, 2, h.Lines[0].Count+h.Lines[1].Count)
	require.Len(t, p.everything(t), 3, "they are gone here too")
	p.sound(t)
	p.pass(t)
	p.sound(t)
}

// A walk over all mail keeps no log of what is written meanwhile.
func TestTheLogStaysBoundedWhileAllMailIsRead(t *testing.T) {
	f := newOffice(t, store.Options{})
	for range 3 {
		var raws []string
		for range 120 {
			raws = append(raws, letter(time.Now().Format("150405.000000000")+"@x", "m@x.example", "A"))
		}
		f.take(t, raws...)
	}
	wal := func() int64 {
		info, err := os.Stat(filepath.Join(f.dir, "ebbe.db-wal"))
		require.NoError(t, err)
		return info.Size()
	}
	n := 0
	require.NoError(t, f.store.EachMessage(ctx, 1, func(store.Message, []byte) error {
		n++
		return f.store.Write(ctx, func(tx store.Tx) error { return tx.SetMeta("filler", string(make([]byte, 100_000))) })
	}))
	require.Greater(t, n, 300)
	require.Less(t, wal(), int64(16<<20), "36 MB were written meanwhile")
}

// What is no longer needed is removed: sessions that have run out, answers to
// requests that nobody repeats any more.
func TestOldSessionsAndAnswersAreRemoved(t *testing.T) {
	f := newOffice(t, store.Options{})
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error {
		require.NoError(t, admission.Admission(tx).PutSession(admission.Session{TokenHash: "old", PersonID: 1, Expires: 1, Seen: 1}))
		require.NoError(t, store.Journal(tx).Answer(store.Request{PersonID: 1, Key: "old", At: 1}))
		require.NoError(t, wipe(tx))
		_, err := admission.Admission(tx).SignedIn("old", 0, 0)
		require.ErrorIs(t, err, store.ErrNotFound)
		_, err = store.Journal(tx).Answered(1, "old")
		require.ErrorIs(t, err, store.ErrNotFound)
		return nil
	}))
}
