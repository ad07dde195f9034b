package main

import (
	"archive/zip"
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// says runs a command and gives what it says, and its error.
func says(args ...string) (string, error) {
	c := command()
	var out bytes.Buffer
	c.SetOut(&out)
	c.SetErr(&out)
	c.SetArgs(args)
	err := c.ExecuteContext(context.Background())
	return out.String(), err
}

// folder is a data folder with two people, an account with a secret, and codes by the time
// for one of them.
func folder(t *testing.T) (data string, key secrets.Key) {
	t.Helper()
	data = t.TempDir()
	key, err := secrets.Load(data, "")
	require.NoError(t, err)
	s, err := store.Open(data, store.Options{})
	require.NoError(t, err)
	defer s.Close()
	d, ctx := desk.New(s, &journal.SystemClock{}, false), context.Background()
	require.NoError(t, d.SetUp(ctx, identity.Signup{Name: "Solvei", Address: "solvei@m.example", Password: "tide lorry crate", Zone: "UTC"}))
	require.NoError(t, d.AddPerson(ctx, identity.Signup{Name: "Mirela", Address: "mirela@m.example", Password: "tide lorry papers", Zone: "UTC"}))
	in := d.Intake.Begin(ctx, 2, intake.Options{})
	require.NoError(t, in.Add(post.Item{Raw: []byte("From: a@x.example\r\nMessage-ID: <a@x.example>\r\nSubject: The crate\r\n\r\nText\r\n")}))
	_, err = in.Close()
	require.NoError(t, err)
	require.NoError(t, s.Write(ctx, func(tx store.Tx) error {
		require.NoError(t, mailboxes.Accounts(tx).PutAccount(&mailboxes.Account{BoxID: 2, PersonID: 2, Address: "mirela@m.example", Secret: key.Seal("a password"), Paused: true}))
		return store.People(tx).ChangePerson(1, map[string]any{"codes": key.Seal("codes")})
	}))
	return data, key
}

// opened says how many secrets of a folder a key opens.
func opened(t *testing.T, data string, key secrets.Key) (open, shut int) {
	t.Helper()
	s, err := store.Open(data, store.Options{})
	require.NoError(t, err)
	defer s.Close()
	open, shut, err = desk.New(s, &journal.SystemClock{}, false).Sealed(context.Background(), key)
	require.NoError(t, err)
	return open, shut
}

// Changing the key seals everything anew; the old one opens nothing any more.
func TestChangingTheKey(t *testing.T) {
	data, old := folder(t)
	said, err := says("change-key", "--data", data)
	require.NoError(t, err)
	fresh, err := secrets.Find(data, "")
	require.NoError(t, err)
	require.NotEqual(t, old, fresh)
	require.Contains(t, said, "2 secrets are sealed with a new key, "+fresh.Print())
	require.Contains(t, said, "Backups from before need the old one, "+old.Print())
	open, shut := opened(t, data, fresh)
	require.Equal(t, [2]int{2, 0}, [2]int{open, shut})
	open, shut = opened(t, data, old)
	require.Equal(t, [2]int{0, 2}, [2]int{open, shut})

	elsewhere := filepath.Join(t.TempDir(), "key")
	said, err = says("change-key", "--data", data, "--to", elsewhere)
	require.NoError(t, err)
	require.Contains(t, said, elsewhere)
	_, err = says("change-key", "--data", data, "--to", elsewhere, "--key-file", elsewhere)
	require.ErrorContains(t, err, "nothing was changed", "it is there already")
	_, err = says("change-key", "--data", data, "--key-file", elsewhere)
	require.ErrorContains(t, err, "--to")
	key, err := secrets.Find(data, elsewhere)
	require.NoError(t, err)
	open, shut = opened(t, data, key)
	require.Equal(t, [2]int{2, 0}, [2]int{open, shut})
	said, err = says("change-key", "--data", data) // the key beside the data is not the right one any more
	require.NoError(t, err)
	require.Contains(t, said, "2 could not be opened with the old key either")

	release, err := alone(data)
	require.NoError(t, err)
	_, err = says("change-key", "--data", data)
	require.ErrorContains(t, err, "another Ebbe runs")
	release()
	t.Setenv("EBBE_KEY", "x")
	_, err = says("change-key", "--data", data)
	require.ErrorContains(t, err, "--to")
	require.NoError(t, os.Unsetenv("EBBE_KEY"))
	_, err = says("change-key", "--data", t.TempDir())
	require.ErrorIs(t, err, secrets.ErrNoKey)
}

// A change of the key that was broken off is finished where all was sealed with the new one,
// and undone where nothing was.
func TestAChangeOfTheKeyThatWasBrokenOff(t *testing.T) {
	for _, sealed := range []bool{false, true} {
		data, old := folder(t)
		fresh := secrets.New()
		require.NoError(t, secrets.Propose(data, fresh))
		s, err := store.Open(data, store.Options{})
		require.NoError(t, err)
		if sealed {
			_, _, err := desk.New(s, &journal.SystemClock{}, false).Reseal(context.Background(), old, fresh)
			require.NoError(t, err)
		}
		key, err := keyOf(context.Background(), s, data, "", secrets.Load)
		require.NoError(t, err)
		s.Close()
		require.Equal(t, sealed, key == fresh)
		open, _ := opened(t, data, key)
		require.Equal(t, 2, open)
		_, err = secrets.Proposed(data)
		require.ErrorIs(t, err, secrets.ErrNoKey)
	}
}

// A backup says whether it can be opened alone.
func TestABackupSaysWhetherItCanBeOpenedAlone(t *testing.T) {
	data, key := folder(t)
	dir := t.TempDir()
	said, err := says("backup", "--data", data, filepath.Join(dir, "a.db"))
	require.NoError(t, err)
	require.Contains(t, said, "It cannot be opened alone: the passwords of 1 accounts need the key "+key.Print()+", which is not in it. The key here is that one")
	said, err = says("backup", "--data", data, "--with-key", filepath.Join(dir, "b.db"))
	require.NoError(t, err)
	require.Contains(t, said, "It can be opened alone: the key of the accounts' passwords is in it")
	before, err := os.ReadFile(filepath.Join(dir, "a.db"))
	require.NoError(t, err)
	said, err = says("restore", "--data", t.TempDir(), "--look", filepath.Join(dir, "a.db"))
	require.NoError(t, err)
	require.Contains(t, said, "2 people, 1 messages")
	require.Contains(t, said, "is not the one here")
	after, err := os.ReadFile(filepath.Join(dir, "a.db"))
	require.NoError(t, err)
	require.Equal(t, before, after)
	_, err = says("restore", "--data", t.TempDir(), "--look", filepath.Join(data, "ebbe.key"))
	require.ErrorContains(t, err, "that is no backup of Ebbe")
	_, err = says("restore", "--data", t.TempDir(), "--look", filepath.Join(dir, "none"))
	require.ErrorContains(t, err, "cannot be read")
	again := filepath.Join(t.TempDir(), "again")
	_, err = says("restore", "--data", again, filepath.Join(dir, "b.db"))
	require.NoError(t, err)
	back, err := secrets.Find(again, "")
	require.NoError(t, err)
	require.Equal(t, key, back)

	none := t.TempDir() // no key is made where the system gives it otherwise
	s, err := store.Open(none, store.Options{})
	require.NoError(t, err)
	s.Close()
	for _, args := range [][]string{{"backup", "--data", none, filepath.Join(dir, "c.db")}, {"doctor", "--data", none}} {
		_, _ = says(args...)
		require.NoFileExists(t, filepath.Join(none, "ebbe.key"))
	}
	_, err = says("backup", "--with-key", "--data", none, filepath.Join(dir, "d.db"))
	require.ErrorIs(t, err, secrets.ErrNoKey)
}

// Whoever has the machine gives out all that is somebody's, and removes them; copies that
// still hold them are named.
func TestRemovingByTheMachine(t *testing.T) {
	data, _ := folder(t)
	dir := t.TempDir()
	_, err := says("backup", "--data", data, filepath.Join(dir, "a.db"))
	require.NoError(t, err)
	out := filepath.Join(dir, "mirela.zip")
	_, err = says("export", "--data", data, "--format", "archive", "--out", out)
	require.ErrorContains(t, err, "--for")
	_, err = says("export", "--data", data, "--format", "archive", "--out", out, "--for", "mirela@m.example")
	require.NoError(t, err)
	z, err := zip.OpenReader(out)
	require.NoError(t, err)
	require.NoError(t, z.Close())

	_, err = says("remove", "--data", data, "mirela@m.example")
	require.ErrorContains(t, err, "--yes")
	_, err = says("remove", "--data", data, "--yes", "nobody@m.example")
	require.ErrorContains(t, err, "nobody signs in")
	_, err = says("remove", "--data", data, "--yes", "solvei@m.example")
	require.ErrorContains(t, err, "Somebody has to look after")
	release, err := alone(data)
	require.NoError(t, err)
	_, err = says("remove", "--data", data, "--yes", "mirela@m.example")
	require.ErrorContains(t, err, "another Ebbe runs")
	_, err = says("serve", "--data", data)
	require.ErrorContains(t, err, "another Ebbe runs")
	_, err = says("demo", "--data", data)
	require.ErrorContains(t, err, "another Ebbe runs")
	release()
	said, err := says("remove", "--data", data, "--yes", "mirela@m.example")
	require.NoError(t, err)
	require.Contains(t, said, "Mirela is removed")
	require.Contains(t, said, filepath.Join(dir, "a.db"))
	raw, err := os.ReadFile(filepath.Join(data, "ebbe.db"))
	require.NoError(t, err)
	require.False(t, strings.Contains(string(raw), "mirela"))
	said, err = says("doctor", "--data", data)
	require.NoError(t, err, said)
}
