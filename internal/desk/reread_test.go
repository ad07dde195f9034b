package desk

import (
	"bytes"
	"database/sql"
	"errors"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/search"
	"ebbe/internal/intake"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// A message that takes for ever to read is kept raw and holds up nothing, and a
// later version reads it.
func TestWhatTakesTooLongIsKeptRawAndReadLater(t *testing.T) {
	f := newOffice(t, store.Options{})
	hard := "From: Jonas <jonas@x.example>\nSubject: tangled\nMessage-ID: <t@x>\nContent-Type: multipart/mixed; boundary=A\n\n--A\nContent-Type: text/plain; charset=utf-8\nContent-Transfer-Encoding: base64\n\nY3Jhbmtz\n--A\nContent-Type: application/pdf; name=a.pdf\n\npdf\n--A--\n"
	f.Intake.Reader = func(raw []byte) mime.Body {
		if bytes.Contains(raw, []byte("tangled")) {
			return mime.KeptRaw(raw) // as after its time was up
		}
		return mime.Read(raw)
	}
	tally := f.take(t, letter("1@x", "Mirela <m@x.example>", "before"), hard, letter("2@x", "Mirela <m@x.example>", "after"))
	require.Equal(t, intake.Tally{Read: 3, New: 3, KeptRaw: 1}, tally)
	find := func(word string) int {
		l, err := f.Queue.Find(ctx, f.who, search.Query{Words: word}, "")
		require.NoError(t, err)
		return len(l.Slips)
	}
	require.Equal(t, 1, find("tangled"), "it is found by what it is as text")
	require.Zero(t, find("cranks"))

	f.Intake.Reader = mime.Read
	require.NoError(t, f.Reread(ctx))
	require.Zero(t, find("cranks"), "this version has tried it")
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error {
		rows, err := store.Messages(tx).KeptRaw(mime.Reader+1, 10)
		require.Len(t, rows, 1)
		rows[0].Reader = mime.Reader - 1 // as if an earlier one had
		return errors.Join(err, store.Messages(tx).ReadAgain(rows[0], words.Entry{}))
	}))
	require.NoError(t, f.Reread(ctx))
	require.Equal(t, 1, find("cranks"))
	q := f.queue(t)
	for _, s := range q {
		if s.Subject == "tangled" {
			require.Equal(t, 1, s.Files)
		}
	}
	f.sound(t)
}

// The limit itself: what never ends is given up.
func TestReadingIsGivenUpAfterItsTime(t *testing.T) {
	f := newOffice(t, store.Options{})
	never := make(chan struct{})
	defer close(never)
	f.Intake.ReadWithin, f.Intake.Reader = time.Millisecond, func([]byte) mime.Body { <-never; return mime.Body{} }
	b := f.Intake.Parse(post.Item{Raw: []byte("Subject: x\n\ntext")}).Body
	require.True(t, b.Raw)
	require.Equal(t, "x", b.Subject)
}

// Slips show the beginning of the newest text that is not the reader's own, also those
// of before they did; parting messages finds it anew.
func TestSlipsHaveTheBeginningOfTheirText(t *testing.T) {
	f := newOffice(t, store.Options{})
	mail := func(id, from, subject, refs, text string, at time.Time) string {
		return "From: " + from + "\nTo: " + me + "\nSubject: " + subject + "\nMessage-ID: <" + id + ">\n" + refs + "Date: " + at.Format(time.RFC1123Z) + "\n\n" + text + "\n"
	}
	f.take(t,
		mail("1@x", "Mirela <m@x.example>", "Crate", "", "Dear Solvei,\n\nI need the outer dimensions.", f.clock.t.Add(-3*time.Hour)),
		mail("2@x", "Jonas <j@x.example>", "Re: Crate", "In-Reply-To: <1@x>\n", "They are on the drawing.\n\n> I need the outer dimensions.", f.clock.t.Add(-2*time.Hour)),
		mail("3@x", me, "Re: Crate", "In-Reply-To: <2@x>\n", "Thank you, Jonas.", f.clock.t.Add(-time.Hour)))
	begins := func() string {
		q := f.queue(t)
		require.Len(t, q, 1)
		return q[0].Begins
	}
	require.Equal(t, "They are on the drawing.", begins())

	db, err := sql.Open("sqlite3", filepath.Join(f.dir, "ebbe.db")+"?_busy_timeout=5000") // as it was before
	require.NoError(t, err)
	defer db.Close()
	for _, q := range []string{"UPDATE messages SET begins = ''", "UPDATE conversations SET begins = ''", "INSERT INTO unbegun SELECT id FROM conversations", "INSERT INTO unbegun VALUES (99)"} {
		_, err := db.Exec(q)
		require.NoError(t, err)
	}
	require.Empty(t, begins())
	require.NoError(t, f.Begin(ctx))
	require.Equal(t, "They are on the drawing.", begins())
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		left, err := store.Conversations(tx).Unbegun(10)
		require.Empty(t, left)
		return err
	}))
	f.sound(t)
}
