package desk

import (
	"archive/zip"
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/post"
	"ebbe/internal/post/archive"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/leaving"
)

const theirs = "quartzlantern"

// nobodys are the tables in which nothing of anybody's stands.
var nobodys = []string{"migrations", "meta", "backups"}

// raw opens the file of the database beside the program.
func (f *office) raw(t testing.TB) *sql.DB {
	db, err := sql.Open("sqlite3", filepath.Join(f.dir, "ebbe.db")+"?_busy_timeout=5000")
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

func names(t testing.TB, db *sql.DB, query string, args ...any) (out []string) {
	rows, err := db.Query(query, args...)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		out = append(out, name)
	}
	require.NoError(t, rows.Err())
	return out
}

// tablesOf are those of a database that are no part of an index of words.
func tablesOf(t testing.TB, db *sql.DB) []string {
	part := regexp.MustCompile(`^(sqlite_|(words|starts|document_words|document_starts|people_words)(_\w+)?$|spelled$|document_spelled$)`)
	return slices.DeleteFunc(names(t, db, "SELECT name FROM sqlite_master WHERE type = 'table'"), part.MatchString)
}

// everyRow gives each row of a table as text, with what was packed as what it is.
func everyRow(t testing.TB, db *sql.DB, table string) (out []string) {
	rows, err := db.Query("SELECT * FROM " + table)
	require.NoError(t, err)
	defer rows.Close()
	columns, err := rows.Columns()
	require.NoError(t, err)
	for rows.Next() {
		values, places := make([]any, len(columns)), make([]any, len(columns))
		for i := range values {
			places[i] = &values[i]
		}
		require.NoError(t, rows.Scan(places...))
		line := ""
		for i, v := range values {
			switch v := leaving.Plain(v).(type) {
			case json.RawMessage:
				line += columns[i] + "=" + string(v) + " "
			default:
				line += fmt.Sprint(columns[i], "=", v, " ")
			}
		}
		out = append(out, line)
	}
	require.NoError(t, rows.Err())
	return out
}

// comes lets somebody more come, with a box of their own.
func (f *office) comes(t testing.TB, name string) identity.Who {
	t.Helper()
	address := strings.ToLower(name) + "@m.example"
	require.NoError(t, f.AddPerson(ctx, identity.Signup{Name: name, Address: address, Password: "tide lorry crate", Zone: zone}))
	who, err := f.People.Called(ctx, address)
	require.NoError(t, err)
	return who
}

// gets puts letters into somebody's inbox.
func (f *office) gets(t testing.TB, who identity.Who, raws ...string) {
	t.Helper()
	in := f.Intake.Begin(ctx, who.Box, intake.Options{Place: inbox.Inbox})
	for _, raw := range raws {
		require.NoError(t, in.Add(post.Item{Raw: []byte(raw)}))
	}
	_, err := in.Close()
	require.NoError(t, err)
}

// sends sends somebody away, by the first person.
func (f *office) sends(who identity.Who, days int) error {
	_, err := f.Leaving.Send(ctx, identity.Who{Person: 1, Admin: true}, who.Person, days)
	return err
}

// everywhere puts a row of somebody's, with the marker in each text, into each table that has
// none of theirs yet.
func everywhere(t testing.TB, db *sql.DB, who identity.Who) {
	t.Helper()
	one := func(query string) (n int64) {
		require.NoError(t, db.QueryRow(query, who.Box).Scan(&n), query)
		return n
	}
	require.NotZero(t, one("SELECT COUNT(*) FROM messages WHERE box_id = ?"))
	known := map[string]any{"box_id": who.Box, "person_id": who.Person, "made_by": who.Person,
		"conversation_id": one("SELECT MAX(id) FROM conversations WHERE box_id = ?"), "message_id": one("SELECT MAX(id) FROM messages WHERE box_id = ?")}
	tables := leaving.Tables()
	first := []string{"accounts", "folders", "rules", "drafts", "outgoings", "labels", "entries"} // which others name
	slices.SortStableFunc(tables, func(a, b string) int {
		at := func(s string) int { return (slices.Index(first, s) + len(first) + 1) % (len(first) + 1) }
		return at(a) - at(b)
	})
	for _, table := range tables {
		rows, err := db.Query("SELECT name, type FROM pragma_table_info(?)", table)
		require.NoError(t, err)
		var columns, places []string
		var values []any
		for rows.Next() {
			var name, kind string
			require.NoError(t, rows.Scan(&name, &kind))
			kind = strings.ToUpper(kind)
			var value any = 1
			v, ok := known[name]
			switch {
			case name == "id" && kind == "INTEGER":
				continue
			case ok:
				value = v
			case kind == "TEXT" && (name == "data" || name == "at" || strings.HasSuffix(name, "s") && table != "things"):
				value = `"` + theirs + `"`
			case kind == "TEXT":
				value = theirs + table
			case kind == "BLOB":
				value = []byte(theirs)
			}
			columns, places, values = append(columns, `"`+name+`"`), append(places, "?"), append(values, value)
		}
		require.NoError(t, rows.Err())
		rows.Close()
		if slices.Contains([]string{"people", "boxes", "members", "balances", "revisions", "messages", "conversations", "originals", "follow_ups", "events", "stale_documents"}, table) {
			continue
		}
		made, err := db.Exec("INSERT OR IGNORE INTO "+table+"("+strings.Join(columns, ", ")+") VALUES ("+strings.Join(places, ", ")+")", values...)
		require.NoError(t, err, table)
		id, err := made.LastInsertId()
		require.NoError(t, err)
		if i := slices.Index(first, table); i >= 0 {
			known[strings.TrimSuffix(table, "s")+"_id"] = id
		}
	}
}

// Whoever leaves is nowhere afterwards: not in a table, not in an index of words, not in the
// files; what others have is as it was.
func TestNothingIsLeftOfWhoeverLeaves(t *testing.T) {
	f := newOffice(t, store.Options{})
	who := f.comes(t, "Mirela")
	shared := letter("both@x", "jonas@x.example", "The crate for both")
	f.take(t, shared, letter("a@x", "jonas@x.example", "Papers of the crate"))
	raws := []string{shared}
	for i := range 450 { // more than one step
		raws = append(raws, letter(fmt.Sprintf("%s-%d@x", theirs, i), fmt.Sprintf("ana%d@%s.example", i%30, theirs), fmt.Sprintf("The %s %d", theirs, i)))
	}
	f.gets(t, who, raws...)
	d, err := f.Writing.Begin(ctx, who, "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	for i := range 30 { // written anew again and again
		d, err = f.Writing.Change(ctx, who, "", d.ID, composing.DraftChange{Subject: theirs, Text: strings.Repeat(theirs+" ", 50-i), Version: d.Version})
		require.NoError(t, err)
	}
	made, err := f.Writing.PutTemplate(ctx, who, "", composing.TemplateView{Template: writing.Template{Name: "x", Text: strings.Repeat(theirs+" ", 600)}})
	require.NoError(t, err)
	require.NoError(t, f.Writing.DropTemplate(ctx, who, made.ID)) // what was there once lies in the file as well
	_, err = f.FollowUps.WriteDown(ctx, who, "", followups.NewFollowUp{Title: "Ask for the " + theirs})
	require.NoError(t, err)
	db := f.raw(t)
	everywhere(t, db, who)
	require.Subset(t, append(leaving.Tables(), nobodys...), tablesOf(t, db), "a table is nobody's, and nobody said so: who leaves would stay in it")
	all := 0
	for _, table := range leaving.Tables() {
		if strings.Contains(strings.Join(everyRow(t, db, table), "\n"), theirs) {
			all++
		}
	}
	require.Greater(t, all, 40)
	require.NotEmpty(t, names(t, db, "SELECT term FROM spelled WHERE term = ?", theirs))
	require.NoError(t, db.Close())

	require.NoError(t, f.sends(who, 0))
	next, err := f.Leaving.Remove(ctx)
	require.NoError(t, err)
	require.Zero(t, next)

	db = f.raw(t)
	for _, table := range tablesOf(t, db) {
		require.NotContains(t, strings.Join(everyRow(t, db, table), "\n"), theirs, table)
	}
	for _, list := range []string{"spelled", "document_spelled"} {
		require.Empty(t, names(t, db, "SELECT term FROM "+list+" WHERE term LIKE ?", "%"+theirs[:6]+"%"))
	}
	require.NoError(t, db.Close())
	for _, file := range []string{"ebbe.db", "ebbe.db-wal"} {
		raw, err := os.ReadFile(filepath.Join(f.dir, file))
		require.NoError(t, err)
		for _, text := range []string{theirs, theirs[1:], "Mirela", "mirela"} {
			require.False(t, bytes.Contains(raw, []byte(text)), "%s in %s", text, file)
		}
	}
	require.NoFileExists(t, filepath.Join(f.dir, "ebbe.clearing"))
	f.sound(t)
	subjects, _, _ := f.found(t, "crate")
	require.ElementsMatch(t, []string{"The crate for both", "Papers of the crate"}, subjects)
	n, err := f.Export(ctx, 1, "mbox", filepath.Join(t.TempDir(), "out"))
	require.NoError(t, err)
	require.Equal(t, 2, n)

	again := f.comes(t, "Mirela") // who comes again begins anew
	require.NotEqual(t, who.Person, again.Person)
	require.NotEqual(t, who.Box, again.Box)
}

// A removal that is broken off anywhere is gone on with at the next start, to the same end.
func TestARemovalIsGoneOnWith(t *testing.T) {
	f := newOffice(t, store.Options{})
	who := f.comes(t, "Mirela")
	var raws []string
	for i := range 30 {
		raws = append(raws, letter(fmt.Sprintf("%s-%d@x", theirs, i), "ana@x.example", fmt.Sprintf("The %s %d", theirs, i)))
	}
	f.gets(t, who, raws...)
	require.NoError(t, f.sends(who, 0))
	rounds := 0
	for ; ; rounds++ {
		_, err := f.Leaving.Remove(newFuse(3 + 7*rounds)) // later each time
		if err == nil {
			break
		}
		require.ErrorIs(t, err, context.Canceled)
		f.reopen(t)
		require.Less(t, rounds, 200)
	}
	raw, err := os.ReadFile(filepath.Join(f.dir, "ebbe.db"))
	require.NoError(t, err)
	require.False(t, bytes.Contains(raw, []byte(theirs)))
	f.sound(t)
}

// A large file is written anew when the program is started next; until then the doctor says
// so.
func TestAFileIsWrittenAnewAtTheStart(t *testing.T) {
	f := newOffice(t, store.Options{})
	mark := filepath.Join(f.dir, "ebbe.clearing")
	require.NoError(t, os.WriteFile(mark, nil, 0o600)) // as who left from a large one leaves it
	said := func() (wrong string) {
		looks, err := f.Doctor(ctx, f.dir, secrets.Key{}, nil)
		require.NoError(t, err)
		for _, l := range looks {
			if !l.Fine {
				wrong += l.Text
			}
		}
		return wrong
	}
	require.Contains(t, said(), "may still lie in the file")
	f.exec(t, "INSERT INTO templates(id, person_id, name, subject, text) VALUES (77, 1, 'x', 'x', '"+theirs+"'); DELETE FROM templates WHERE id = 77")
	f.reopen(t)
	require.Empty(t, said())
	require.NoFileExists(t, mark)
	raw, err := os.ReadFile(filepath.Join(f.dir, "ebbe.db"))
	require.NoError(t, err)
	require.False(t, bytes.Contains(raw, []byte(theirs)))
}

// fuse is a context that ends after it was asked some times whether it has.
type fuse struct {
	context.Context
	left  atomic.Int64
	burnt chan struct{}
	once  sync.Once
}

func newFuse(n int) *fuse {
	f := &fuse{Context: ctx, burnt: make(chan struct{})}
	f.left.Store(int64(n))
	return f
}

func (f *fuse) Done() <-chan struct{} {
	if f.left.Add(-1) < 0 {
		f.once.Do(func() { close(f.burnt) })
	}
	return f.burnt
}

func (f *fuse) Err() error {
	select {
	case <-f.burnt:
		return context.Canceled
	default:
		return nil
	}
}

// Who may leave, and who may be sent away: never the last who looks after the others.
func TestWhoLeaves(t *testing.T) {
	f := newOffice(t, store.Options{})
	care := identity.Care{Directory: f.People}
	f.who.Admin = true
	send := func(who identity.Who, person int64, days int) error {
		_, err := f.Leaving.Send(ctx, who, person, days)
		return err
	}
	require.ErrorContains(t, f.Leaving.Leave(ctx, f.who, "long enough", 0), "the only one here")
	who := f.comes(t, "Mirela")
	require.ErrorContains(t, send(who, 1, 0), "Only whoever looks after")
	require.ErrorContains(t, f.Leaving.Keep(ctx, who, 1), "Only whoever looks after")
	require.ErrorContains(t, f.Leaving.Leave(ctx, f.who, "long enough", 7), "Somebody has to look after")
	require.ErrorContains(t, f.Leaving.Leave(ctx, who, "wrong", 7), "not your password")
	require.ErrorContains(t, f.Leaving.Leave(ctx, who, "tide lorry crate", 91), "up to 90 days")
	require.ErrorIs(t, send(f.who, 99, 0), store.ErrNotFound)

	in, err := f.People.SignIn(ctx, identity.Entry{Address: "mirela@m.example", Password: "tide lorry crate"}, identity.From{})
	require.NoError(t, err)
	require.NoError(t, f.Leaving.Leave(ctx, who, "tide lorry crate", 7))
	next, err := f.Leaving.Remove(ctx)
	require.NoError(t, err)
	require.InDelta(t, 7*24*3600, time.Until(next.Time()).Seconds(), 3700) // a clock may have changed on the way
	seen, err := f.People.Security(ctx, who, in.Token, identity.Site{})
	require.NoError(t, err)
	require.Equal(t, next, seen.Leaves)
	require.NoError(t, f.Leaving.Stay(ctx, who))

	require.NoError(t, send(f.who, who.Person, 7)) // what she has open ends, so that she hears of it
	_, _, err = f.People.SignedIn(ctx, in.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	in, err = f.People.SignIn(ctx, identity.Entry{Address: "mirela@m.example", Password: "tide lorry crate"}, identity.From{})
	require.NoError(t, err)
	require.Contains(t, in.Tell, "all that is yours here is removed then")
	others, err := care.People(ctx, f.who)
	require.NoError(t, err)
	require.NotZero(t, others.People[1].Leaves)
	require.False(t, others.People[1].Gone)
	yes := true
	require.NoError(t, care.Stand(ctx, f.who, who.Person, identity.Standing{Admin: &yes}))
	require.ErrorContains(t, f.Leaving.Leave(ctx, f.who, "long enough", 7), "Somebody has to look after", "she leaves")
	require.NoError(t, f.Leaving.Keep(ctx, f.who, who.Person))
	require.NoError(t, f.Leaving.Leave(ctx, f.who, "long enough", 7))
	require.NoError(t, f.Leaving.Stay(ctx, f.who))

	require.NoError(t, send(f.who, who.Person, 0))
	_, _, err = f.People.SignedIn(ctx, in.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.People.SignIn(ctx, identity.Entry{Address: "mirela@m.example", Password: "tide lorry crate"}, identity.From{})
	require.ErrorContains(t, err, "do not belong together")
	no := false
	for _, err := range []error{f.Leaving.Keep(ctx, f.who, who.Person), send(f.who, who.Person, 7), care.Stand(ctx, f.who, who.Person, identity.Standing{Paused: &no})} {
		require.ErrorContains(t, err, "They have left already")
	}
}

// The line that removes waits until it is time, and is woken when somebody leaves sooner.
func TestLeavingByItself(t *testing.T) {
	f := newOffice(t, store.Options{})
	who := f.comes(t, "Mirela")
	left := make(chan bool, 1)
	f.Leaving.Left = func() { left <- true }
	over, end := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() { f.Leaving.Run(over); close(done) }()
	require.NoError(t, f.sends(who, 0))
	<-left
	end()
	<-done
	_, err := f.People.Called(ctx, "mirela@m.example")
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A person takes all that is theirs in one file: mail as it came in, a calendar, and all rows
// of theirs and of nobody else's, without what is secret.
func TestAllThatIsOnesOwn(t *testing.T) {
	f := newOffice(t, store.Options{})
	who := f.comes(t, "Mirela")
	f.take(t, letter("a@x", "jonas@x.example", "Papers of the crate"))
	raw := letter("b@x", "ana@x.example", "The "+theirs)
	f.gets(t, who, raw, letter("c@x", "ana@x.example", "The lorry"))
	_, err := f.FollowUps.WriteDown(ctx, who, "", followups.NewFollowUp{Title: "Ask for the " + theirs})
	require.NoError(t, err)
	_, err = f.Calendar.TakeIn(ctx, who, "", []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:e@x.example\r\nDTSTAMP:20261124T000000Z\r\nDTSTART:20261125T090000Z\r\nSUMMARY:Loading\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"))
	require.NoError(t, err)
	db := f.raw(t)
	everywhere(t, db, who)
	require.NoError(t, db.Close())
	p, err := f.Leaving.Pack(ctx, who)
	require.NoError(t, err)
	defer p.Close()
	require.Regexp(t, `^ebbe-mirela-m\.example-\d{4}-\d\d-\d\d\.zip$`, p.Name)
	beside, err := filepath.Glob(filepath.Join(f.dir, "ebbe-archive-*"))
	require.NoError(t, err)
	require.Empty(t, beside, "nothing is left beside the data")
	z, err := zip.NewReader(p, p.Size)
	require.NoError(t, err)
	files := map[string]string{}
	for _, file := range z.File {
		r, err := file.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		files[file.Name] = string(text)
	}
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "inbox.mbox"), []byte(files["mail/inbox.mbox"]), 0o600))
	var got []string
	require.NoError(t, archive.Walk(folder, func(i post.Item) error { got = append(got, string(i.Raw)); return nil }, func(_ string, err error) { require.NoError(t, err) }))
	require.Len(t, got, 2)
	require.Contains(t, got, raw)
	require.Contains(t, files["calendar.ics"], theirs)
	require.Contains(t, files["follow-ups.csv"], theirs)
	for name, text := range files {
		require.NotContains(t, text, "Papers of the crate", name)
		for _, secret := range []string{"$argon2id$", `"password"`, `"csrf"`, `"token_hash"`, `"secret"`} {
			require.NotContains(t, text, secret, name)
		}
		if table, ok := strings.CutPrefix(name, "rows/"); ok {
			require.NotEmpty(t, text, "nothing of hers is given out of %s", table)
			for line := range strings.Lines(text) {
				require.True(t, json.Valid([]byte(line)), name)
			}
		}
	}
	require.Contains(t, files["rows/messages.jsonl"], theirs)
	require.Contains(t, files["rows/people.jsonl"], "Mirela")
	require.Greater(t, len(files), 45)
}

// Copies of everything in which somebody still is are named, as far as they are known.
func TestCopiesThatStillHoldSomebody(t *testing.T) {
	f := newOffice(t, store.Options{})
	dir := t.TempDir()
	for _, name := range []string{"a.db", "b.db"} {
		require.NoError(t, f.Accounts.Backup(ctx, filepath.Join(dir, name), secrets.Key{}, false))
		require.NoError(t, f.Leaving.NoteBackup(ctx, filepath.Join(dir, name)))
	}
	require.NoError(t, os.Remove(filepath.Join(dir, "a.db")))
	require.NoError(t, f.Leaving.NoteBackup(ctx, "/a-disk-that-is-not-here/c.db"))
	kept := filepath.Join(f.dir, "ebbe-before-update-from-0016.db")
	require.NoError(t, os.WriteFile(kept, nil, 0o600))
	copies, err := f.Leaving.StillIn(ctx, 0)
	require.NoError(t, err)
	require.Len(t, copies, 3)
	all := strings.Join(copies, "\n")
	require.Contains(t, all, "b.db")
	require.Contains(t, all, "/a-disk-that-is-not-here/c.db")
	require.Contains(t, all, kept)
	copies, err = f.Leaving.StillIn(ctx, when.Of(time.Now().Add(time.Hour)))
	require.NoError(t, err)
	require.Equal(t, []string{kept}, copies)
}

// A pass over an account that was going on when it was taken away brings nothing more in.
func TestNothingComesInByAnAccountThatHasGone(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	a := p.account(t)
	require.NoError(t, p.Accounts.Drop(ctx, p.who, a.ID, true))
	p.put(postoffice.Inbox, "late@x", "Jonas <jonas@x.example>", "Late")
	require.Error(t, p.Mail.Pass(ctx, a, nil, false))
	require.Empty(t, p.queue(t))
	p.sound(t)
}
