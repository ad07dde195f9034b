package hatch_test

import (
	"context"
	"encoding/gob"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/hatch"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

const (
	patience = 20 * time.Second
	tick     = 5 * time.Millisecond
)

// house is a program that runs with a folder of data, whose hatch is open.
func house(t *testing.T) (dir string, s *store.Store, end func()) {
	dir = t.TempDir()
	s, err := store.Open(dir, store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Write(t.Context(), func(tx store.Tx) error { _, err := store.People(tx).MakeBox("x"); return err }))
	ctx, cancel := context.WithCancel(t.Context())
	served := make(chan error, 1)
	go func() {
		served <- hatch.Serve(ctx, dir, intake.New(s, journal.New(s, &journal.SystemClock{}), func() {}))
	}()
	require.Eventually(t, func() bool {
		info, err := os.Stat(filepath.Join(dir, hatch.Name))
		return err == nil && info.Mode().Perm() == 0o600
	}, patience, tick)
	return dir, s, func() { cancel(); require.NoError(t, <-served) }
}

func letter(n int) post.Item {
	return post.Item{Raw: fmt.Appendf(nil, "From: a@x.example\r\nSubject: Letter %d\r\nMessage-ID: <%d@x.example>\r\n\r\nText\r\n", n, n)}
}

func TestMailIsHandedIn(t *testing.T) {
	dir, s, end := house(t)
	var heard []intake.Tally
	h, err := hatch.Open(t.Context(), dir, hatch.Asked{Box: 1, Place: inbox.Archived}, func(x intake.Tally) { heard = append(heard, x) })
	require.NoError(t, err)
	for n := range 700 {
		require.NoError(t, h.Add(letter(n%650)))
	}
	tally, err := h.Close()
	require.NoError(t, err)
	require.Equal(t, intake.Tally{Read: 700, New: 650, Known: 50}, tally)
	require.NotEmpty(t, heard, "how far it is is told meanwhile")
	require.NoError(t, s.Read(t.Context(), func(tx store.Tx) error {
		n, err := store.Conversations(tx).CountPlace(1, inbox.Archived)
		require.Equal(t, 650, n)
		return err
	}))
	end()
	_, err = hatch.Open(t.Context(), dir, hatch.Asked{Box: 1}, nil)
	require.ErrorIs(t, err, hatch.ErrClosed)
}

// What was handed in when either side is cut off is stored, and whoever is left hears of it.
func TestHandingInIsCutOff(t *testing.T) {
	dir, s, end := house(t)
	ctx, leave := context.WithCancel(t.Context())
	h, err := hatch.Open(ctx, dir, hatch.Asked{Box: 1, Place: inbox.Archived}, nil)
	require.NoError(t, err)
	for n := range 20 {
		require.NoError(t, h.Add(letter(n)))
	}
	leave()
	_, err = h.Close()
	require.ErrorContains(t, err, "has ended")
	require.Eventually(t, func() bool {
		n := 0
		require.NoError(t, s.Read(t.Context(), func(tx store.Tx) (err error) {
			n, err = store.Conversations(tx).CountPlace(1, inbox.Archived)
			return err
		}))
		return n == 20
	}, patience, tick)

	h, err = hatch.Open(t.Context(), dir, hatch.Asked{Box: 1, Place: inbox.Archived}, nil)
	require.NoError(t, err)
	require.NoError(t, h.Add(letter(50)))
	end()
	_, err = h.Close()
	require.Error(t, err)
}

// What is no mail at all ends one line, and no other.
func TestNonsenseAtTheHatch(t *testing.T) {
	dir, _, end := house(t)
	defer end()
	for _, nonsense := range []string{"", "GET / HTTP/1.1\r\n\r\n", "\xff\xff\xff\xff\xff\xff\xff\xff"} {
		c, err := net.Dial("unix", filepath.Join(dir, hatch.Name))
		require.NoError(t, err)
		_, err = c.Write([]byte(nonsense))
		require.NoError(t, err)
		require.NoError(t, c.(*net.UnixConn).CloseWrite())
		var s any
		require.Error(t, gob.NewDecoder(c).Decode(&s))
		c.Close()
	}
	h, err := hatch.Open(t.Context(), dir, hatch.Asked{Box: 1, Place: inbox.Inbox}, nil)
	require.NoError(t, err)
	require.NoError(t, h.Add(letter(1)))
	tally, err := h.Close()
	require.NoError(t, err)
	require.Equal(t, 1, tally.New)
}
