package desk

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/backup"
)

// restored is an Ebbe made of a backup of p, at the same post office.
func (p *posted) restored(t *testing.T, file string) *posted {
	t.Helper()
	q := &posted{office: &office{dir: filepath.Join(t.TempDir(), "restored"), clock: p.clock, who: p.who}, post: p.post}
	_, withKey, err := accounts.Restore(ctx, file, q.dir)
	require.NoError(t, err)
	require.True(t, withKey)
	q.open(t, store.Options{})
	t.Cleanup(func() { q.store.Close() })
	key, err := secrets.Load(q.dir, "")
	require.NoError(t, err)
	q.link(func(l *accounts.Links) { l.Key = key })
	require.NoError(t, q.Start(ctx))
	return q
}

// In the middle of a busy day a backup is made while mail comes in, then the day
// goes on, and the disk is lost. What was made of the backup ends sound, sends
// nothing twice, and asks before it does what waited then.
func TestRestoredInTheMiddleOfABusyDay(t *testing.T) {
	p := newPosted(t, postoffice.Faults{})
	key, err := secrets.Load(p.dir, "")
	require.NoError(t, err)
	p.link(func(l *accounts.Links) { l.Key = key })
	p.connected(t)
	for i := range 30 {
		p.put(postoffice.Inbox, fmt.Sprintf("%02d@x", i), "Jonas <jonas@x.example>", fmt.Sprintf("Matter %d", i))
	}
	p.pass(t)
	send := func(subject, words string, at string) {
		s := composing.Sending{Then: inbox.Archive}
		if at != "" {
			s.At = p.at(t, at)
		}
		_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, subject, words).ID, s)
		require.NoError(t, err)
	}
	send("Matter 1", "One.", "")            // goes out after the backup, and is found in the sent mail
	send("Matter 2", "Two.", "today 12:00") // is past by the restore, and nobody can know
	send("Matter 3", "Three.", "fri 9:00")  // is still ahead
	p.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{p.where(t, "Matter 4").ID}})
	p.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{p.where(t, "Matter 5").ID}, Return: p.moment(t, "today 13:00")})
	const reminders = 102 // more than a page of anything
	for i := range reminders {
		_, err = p.FollowUps.WriteDown(ctx, p.who, "", followups.NewFollowUp{Title: fmt.Sprintf("Ring %d", i), Reminders: []followup.Reminder{{At: p.at(t, "today 12:30")}}})
		require.NoError(t, err)
	}

	file := filepath.Join(t.TempDir(), "ebbe.backup")
	writes := make(chan error)
	go func() { writes <- p.Accounts.Backup(ctx, file, key, true) }()
	for i := 30; i < 60; i++ { // meanwhile mail comes in and is decided
		p.take(t, letter(fmt.Sprintf("busy%d@x", i), "m@x.example", fmt.Sprintf("Busy %d", i)))
	}
	require.NoError(t, <-writes)
	require.ErrorIs(t, p.Accounts.Backup(ctx, file, key, true), backup.ErrThere)
	info, err := os.Stat(file)
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	p.pass(t) // “One.” lies in the sent mail now
	require.Len(t, p.post.Taken(), 1)
	p.later(4 * time.Hour)

	q := p.restored(t, file)
	q.sound(t)
	for range 2 { // before its accounts were looked at nothing happens
		require.NoError(t, q.Sending.Dispatch(ctx))
		require.NoError(t, q.Agenda.CatchUp(ctx))
	}
	require.Len(t, q.post.Taken(), 1)
	require.Equal(t, inbox.Snoozed, q.where(t, "Matter 5").Place)
	v, err := q.Accounts.Restored(ctx, q.who)
	require.NoError(t, err)
	require.True(t, v.Resting)
	_, err = q.Accounts.SettleRestored(ctx, q.who, "messages", true)
	require.ErrorContains(t, err, "have not been looked at")

	binned := len(q.in(postoffice.Trash))
	q.pass(t)
	q.pass(t)
	require.NoError(t, q.Sending.Dispatch(ctx))
	require.NoError(t, q.Agenda.CatchUp(ctx))
	require.Len(t, q.post.Taken(), 1, "nothing goes twice, and nothing by itself")
	require.Len(t, q.in(postoffice.Trash), binned)
	require.Equal(t, inbox.Inbox, q.where(t, "Matter 5").Place, "what comes back does so now")
	v, err = q.Accounts.Restored(ctx, q.who)
	require.NoError(t, err)
	require.False(t, v.Resting)
	require.Len(t, v.Messages, 1)
	require.Equal(t, "Re: Matter 2", v.Messages[0].Subject)
	require.Len(t, v.Reminders, reminders)
	require.Contains(t, v.Reminders[0], "Ring ")
	cards := func(want int) {
		t.Helper()
		c, err := q.FollowUps.Cards(ctx, q.who)
		require.NoError(t, err)
		require.Equal(t, want, c.Count)
	}
	cards(0)
	q.sound(t)

	_, err = q.Accounts.SettleRestored(ctx, q.who, "messages", true)
	require.NoError(t, err)
	require.NoError(t, q.Sending.Dispatch(ctx))
	require.Len(t, q.post.Taken(), 2)
	_, err = q.Accounts.SettleRestored(ctx, q.who, "decisions", true)
	require.NoError(t, err)
	_, err = q.Accounts.SettleRestored(ctx, q.who, "reminders", true)
	require.NoError(t, err)
	cards(reminders)
	q.pass(t)
	v, err = q.Accounts.Restored(ctx, q.who)
	require.NoError(t, err)
	require.Empty(t, v.Messages)
	require.Empty(t, v.Decisions)
	require.Empty(t, v.Reminders)
	q.later(3 * 24 * time.Hour)
	require.NoError(t, q.Sending.Dispatch(ctx))
	require.Len(t, q.post.Taken(), 3, "what was still ahead goes at its time")
	q.sound(t)

	r := p.restored(t, file) // the same backup, and another word
	r.pass(t)
	text, err := r.Accounts.SettleRestored(ctx, r.who, "reminders", false)
	require.NoError(t, err)
	require.Equal(t, fmt.Sprintf("%d reminders discarded. What they are about stays as it is.", reminders), text)
	require.NoError(t, r.Agenda.CatchUp(ctx))
	c, err := r.FollowUps.Cards(ctx, r.who)
	require.NoError(t, err)
	require.Empty(t, c.Cards)
	require.True(t, r.named(t, "Ring 1").Open())
	v, err = r.Accounts.Restored(ctx, r.who)
	require.NoError(t, err)
	require.Empty(t, v.Reminders)
	r.sound(t)
	_, err = r.Accounts.SettleRestored(ctx, r.who, "decisions", false)
	require.NoError(t, err)
	waiting := func(reminders int, decisions bool) {
		t.Helper()
		require.NoError(t, r.Agenda.CatchUp(ctx))
		r.pass(t)
		v, err = r.Accounts.Restored(ctx, r.who)
		require.NoError(t, err)
		require.Len(t, v.Reminders, reminders)
		require.Equal(t, decisions, len(v.Decisions) > 0)
		c, err := r.FollowUps.Cards(ctx, r.who)
		require.NoError(t, err)
		require.Empty(t, c.Cards)
		r.sound(t)
	}
	waiting(0, false)
	_, err = r.Journal.TakeBack(ctx, r.who, "") // that no server is told
	require.NoError(t, err)
	waiting(0, true)
	_, err = r.Journal.TakeBack(ctx, r.who, "") // that nobody is reminded
	require.NoError(t, err)
	waiting(reminders, true)
	for range 2 {
		_, err = r.Journal.Again(ctx, r.who, "")
		require.NoError(t, err)
	}
	waiting(0, false)
}

// What is no backup, or is damaged, changes nothing.
func TestWhatCannotBeRestored(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "m@x.example", "A"))
	dir := t.TempDir()
	file := filepath.Join(dir, "b")
	require.NoError(t, f.Accounts.Backup(ctx, file, secrets.Key{}, false))
	_, _, err := accounts.Restore(ctx, file, f.dir)
	require.ErrorIs(t, err, backup.ErrThere)
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	for name, content := range map[string][]byte{"cut": raw[:len(raw)/2], "text": []byte("hello"), "empty": nil} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), content, 0o600))
		to := filepath.Join(dir, "to-"+name)
		_, _, err := accounts.Restore(ctx, filepath.Join(dir, name), to)
		require.Error(t, err, name)
		_, err = os.Stat(filepath.Join(to, "ebbe.db"))
		require.ErrorIs(t, err, os.ErrNotExist, name)
	}
	copied, withKey, err := accounts.Restore(ctx, file, filepath.Join(dir, "good"))
	require.NoError(t, err)
	require.False(t, withKey)
	require.Equal(t, f.Now(), copied)
	_, err = os.Stat(filepath.Join(dir, "good", "ebbe.key"))
	require.ErrorIs(t, err, os.ErrNotExist)
}
