package store_test

import (
	"compress/gzip"
	"context"
	"database/sql"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
	"gorm.io/gorm/schema"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/sending"
	"ebbe/internal/store/sharing"
	"ebbe/internal/store/talk"
	"ebbe/internal/store/weighing"
	"ebbe/internal/store/whereabouts"
	"ebbe/internal/store/words"
)

// aVersion is a folder with the full database of a version, as the program of
// its time wrote it: mail, decisions of four kinds, and something in each table.
func aVersion(t *testing.T, n int) string {
	t.Helper()
	dir := t.TempDir()
	f, err := os.Open(fmt.Sprintf("testdata/v%d.db.gz", n))
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	out, err := os.Create(filepath.Join(dir, "ebbe.db"))
	require.NoError(t, err)
	_, err = io.Copy(out, z)
	require.NoError(t, err)
	require.NoError(t, out.Close())
	return dir
}

// shapeOf is what a database has: each table with its columns, each index and
// trigger as it was said.
func shapeOf(t *testing.T, s *store.Store) (shape []string) {
	t.Helper()
	var rows []struct{ Type, Name, SQL string }
	require.NoError(t, s.Raw().Raw("SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%'").Scan(&rows).Error)
	space := regexp.MustCompile("[\\s`\"]+")
	for _, r := range rows {
		if r.Type != "table" || strings.Contains(r.SQL, "VIRTUAL") || strings.Contains(r.Name, "words_") {
			shape = append(shape, r.Type+" "+r.Name+": "+space.ReplaceAllString(strings.ReplaceAll(r.SQL, "IF NOT EXISTS ", ""), ""))
			continue
		}
		var columns []string
		require.NoError(t, s.Raw().Raw("SELECT name FROM pragma_table_info(?)", r.Name).Scan(&columns).Error)
		for _, c := range columns {
			shape = append(shape, "column "+r.Name+"."+c)
		}
	}
	slices.Sort(shape)
	return shape
}

// without is what of a is not in b.
func without(a, b []string) (out []string) {
	for _, x := range a {
		if !slices.Contains(b, x) {
			out = append(out, x)
		}
	}
	return out
}

// A database of any version ends as a new one does, with all that was in it.
func TestEachVersionIsBroughtUpToDate(t *testing.T) {
	fresh, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(fresh.Close)
	want := shapeOf(t, fresh)
	for n := 1; n <= 22; n++ {
		t.Run(fmt.Sprint("version ", n), func(t *testing.T) {
			dir := aVersion(t, n)
			for range 2 { // opening it again changes nothing more
				s, err := store.Open(dir, store.Options{})
				require.NoError(t, err)
				got := shapeOf(t, s)
				require.Empty(t, without(want, got), "missing")
				require.Empty(t, without(got, want), "too much")
				require.NoError(t, s.Read(context.Background(), func(tx store.Tx) error { keptFrom(t, tx, n); return nil }))
				s.Close()
			}
		})
	}
}

// Before a database is brought up to date a copy is kept of it as it was, the last one
// alone; of a new one there is nothing to keep.
func TestACopyIsKeptBeforeAnUpdate(t *testing.T) {
	dir := aVersion(t, 14)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ebbe-before-update-from-0012.db"), []byte("older"), 0o600))
	for range 2 {
		s, err := store.Open(dir, store.Options{})
		require.NoError(t, err)
		s.Close()
	}
	kept, err := filepath.Glob(filepath.Join(dir, store.Before))
	require.NoError(t, err)
	require.Equal(t, []string{filepath.Join(dir, "ebbe-before-update-from-0014.db")}, kept)
	info, err := os.Stat(kept[0])
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	again := t.TempDir() // what was kept is a whole database of its version
	raw, err := os.ReadFile(kept[0])
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(again, "ebbe.db"), raw, 0o600))
	s, err := store.Open(again, store.Options{})
	require.NoError(t, err)
	require.NoError(t, s.Read(context.Background(), func(tx store.Tx) error { keptFrom(t, tx, 14); return nil }))
	s.Close()
	kept, err = filepath.Glob(filepath.Join(again, store.Before))
	require.NoError(t, err)
	require.Len(t, kept, 1)

	fresh := t.TempDir()
	for range 2 {
		s, err := store.Open(fresh, store.Options{})
		require.NoError(t, err)
		s.Close()
	}
	kept, err = filepath.Glob(filepath.Join(fresh, store.Before))
	require.NoError(t, err)
	require.Empty(t, kept)
}

// What was deleted by a program that did not overwrite it is in the file no more once that
// was brought up to date.
func TestTheFileIsWrittenAnewOnce(t *testing.T) {
	dir := aVersion(t, 16)
	path := filepath.Join(dir, "ebbe.db")
	db, err := sql.Open("sqlite3", path)
	require.NoError(t, err)
	for _, q := range []string{"INSERT INTO templates(id, person_id, name, subject, text) VALUES (77, 1, '', '', 'quartzlantern')", "DELETE FROM templates WHERE id = 77"} {
		_, err := db.Exec(q)
		require.NoError(t, err)
	}
	require.NoError(t, db.Close())
	lies := func() bool {
		raw, err := os.ReadFile(path)
		require.NoError(t, err)
		return strings.Contains(string(raw), "quartzlantern")
	}
	require.True(t, lies())
	s, err := store.Open(dir, store.Options{})
	require.NoError(t, err)
	s.Close()
	require.False(t, lies())
}

// In a database of any version a message can be sent that has nobody hidden.
func TestSendingFromAnOlderDatabase(t *testing.T) {
	for n := 1; n <= 22; n++ {
		s, err := store.Open(aVersion(t, n), store.Options{})
		require.NoError(t, err)
		require.NoError(t, s.Write(context.Background(), func(tx store.Tx) error {
			fresh, err := sending.Outbox(tx).Send(&sending.Outgoing{BoxID: 1, Once: "message/new", Address: "a@x.example", State: writing.Waiting, Original: []byte("x")})
			require.True(t, fresh, "version %d", n)
			return err
		}))
		s.Close()
	}
}

// keptFrom looks whether what the database of version n had is there.
func keptFrom(t *testing.T, tx store.Tx, n int) {
	wrong, err := tx.Check()
	require.NoError(t, err)
	require.Empty(t, wrong)
	state, err := store.Conversations(tx).State(1, 1, []int64{1, 2, 3, 4}, nil)
	require.NoError(t, err)
	require.True(t, state.Conversations[1].Starred)
	for id, place := range map[int64]inbox.Place{1: inbox.Inbox, 2: inbox.Snoozed, 3: inbox.Archived, 4: inbox.Archived} {
		require.Equal(t, place, state.Conversations[id].Place, "conversation %d", id)
	}
	rows, err := store.Conversations(tx).ConversationRows(1, []int64{1, 2})
	require.NoError(t, err)
	require.Equal(t, mail.Alone, rows[1].Reach)
	require.Equal(t, "solvei@m.example", rows[1].Account)
	require.Equal(t, 2, rows[1].Messages)
	originals, err := store.Messages(tx).Bytes([]int64{1, 5})
	require.NoError(t, err)
	require.Contains(t, string(originals[1]), "sign for it")
	all, err := store.FollowUps(tx).AllFollowUps(1)
	require.NoError(t, err)
	require.Len(t, all, map[bool]int{false: 1, true: 2}[n >= 9])
	papers := all[slices.IndexFunc(all, func(f followup.FollowUp) bool { return f.Title == "Send the papers back" })]
	require.True(t, papers.Open())
	require.Len(t, papers.Reminders, 1)
	things, err := store.Agenda(tx).Things()
	require.NoError(t, err)
	kinds := map[inbox.Kind]int{}
	for _, th := range things {
		kinds[th.Kind]++
	}
	require.Equal(t, 1, kinds[inbox.Return])
	require.Equal(t, 1, kinds[inbox.Remind])
	require.Zero(t, kinds["posted"])
	found, err := store.FollowUps(tx).FollowUpsBetween(1, "mare@loan.example")
	require.NoError(t, err)
	require.Len(t, found, 1)
	people, err := store.Correspondents(tx).Complete(1, "jon", 0, 5)
	require.NoError(t, err)
	require.Equal(t, "jonas@port.example", people[0].Address)
	p, err := store.People(tx).PersonByID(1)
	require.NoError(t, err)
	require.Equal(t, followup.Usual().Stages, p.FollowUp.Stages)
	step, err := store.Journal(tx).LastStep(1, 1)
	require.NoError(t, err)
	require.Equal(t, inbox.MakeFollowUp, step.Kind)
	if n >= 2 {
		require.Equal(t, "Papers of the loan", state.Conversations[4].Title)
		require.Equal(t, []int64{1}, state.Conversations[4].Labels.IDs())
		lists, err := store.Lists(tx).SavedLists(1, 1)
		require.NoError(t, err)
		require.True(t, lists[0].Query.Unread)
		last, err := counting.Sittings(tx).Last(1, 1)
		require.NoError(t, err)
		require.Equal(t, []int64{1, 2}, last.Queue)
		d, err := drafting.Drafts(tx).Draft(1, 1)
		require.NoError(t, err)
		require.NotZero(t, d.ID)
		require.Equal(t, "Dear Jonas, the crate", d.Text)
		require.Equal(t, writing.Reply, d.Mode)
	}
	if n >= 3 {
		heard, err := sending.Outbox(tx).Answers(1, 0, 10)
		require.NoError(t, err)
		require.Len(t, heard, 1)
		raw, err := sending.Outbox(tx).BytesOfOutgoing(heard[0].ID)
		if n < 5 { // it has not gone
			require.NoError(t, err)
			require.Equal(t, "AB", string(raw))
		} else {
			require.ErrorIs(t, err, store.ErrNotFound)
		}
	}
	if n >= 4 {
		events, err := store.Calendar(tx).AllEvents(1)
		require.NoError(t, err)
		require.Equal(t, "Loading", events[0].Title)
		_, err = store.People(tx).PersonByFeed("a secret address")
		require.Equal(t, n < 6, err == nil, "the secret goes on working, kept as a hash")
	}
	if n == 5 {
		_, err = store.People(tx).PersonByInward("a secret key")
		require.NoError(t, err)
	}
	if n >= 5 {
		waiting, err := sending.Outbox(tx).Outbox(1, 0, 10)
		require.NoError(t, err)
		require.Equal(t, "Waiting", waiting[0].Subject)
		at, err := sending.Outbox(tx).NextToSend(1)
		require.NoError(t, err)
		out, err := sending.Outbox(tx).ToSend(1, at, 10)
		require.NoError(t, err)
		require.Equal(t, "DE", string(out[0].Original))
		files, err := drafting.Drafts(tx).DraftFilesWhole(9)
		require.NoError(t, err)
		require.Equal(t, "ABC", string(files[0].Content))
		folders, err := mailboxes.Folders(tx).Folders(1)
		require.NoError(t, err)
		require.Equal(t, mail.RoleInbox, folders[0].Role)
		if n >= 7 {
			read, err := weighing.Readings(tx).ReadingsOf(1, 1, 1)
			require.NoError(t, err)
			require.Equal(t, 42, read[0].Seconds)
		}
		if n >= 8 {
			d, err := drafting.Drafts(tx).Draft(1, 1)
			require.NoError(t, err)
			require.EqualValues(t, 3, d.Version)
			require.Equal(t, "Dear Solvei", rows[1].Begins)
		}
		if n >= 9 {
			entries, err := store.Journal(tx).History(1, store.Past{}, 10)
			require.NoError(t, err)
			i := slices.IndexFunc(entries, func(e store.Entry) bool { return e.Kind == inbox.Choose })
			var before, after map[string]string
			require.NoError(t, entries[i].Chosen.Read(&before, &after))
			require.Equal(t, "dark", after["theme"])
			waits, err := store.FollowUps(tx).WaitingFollowUps(1, store.After{}, 10)
			require.NoError(t, err)
			require.Equal(t, 45, waits[0].Data.Effort)
			require.Zero(t, waits[0].Minutes, "what waits is no work of the day")
			if n >= 10 {
				require.Equal(t, "solvei@x.example", waits[0].Data.Waits.Offers[0].From.Address)
			}
		}
		if n >= 18 {
			said, err := talk.Talk(tx).Of(50, 1)
			require.NoError(t, err)
			require.Equal(t, "It is on page three.", said[0].Text)
			names, err := membership.Membership(tx).Names(50)
			require.NoError(t, err)
			require.Equal(t, "Priya Venn", names[77])
			owned, err := store.FollowUps(tx).FollowUpsOwned(1, 1)
			require.NoError(t, err)
			require.Len(t, owned, 1)
		}
	} else if n >= 3 {
		at, err := sending.Outbox(tx).NextToSend(0)
		require.NoError(t, err)
		require.Zero(t, at, "nothing of before there were accounts goes by itself")
	}
}

// Every field of every row that the program keeps has its column.
func TestTheSchemaHasAllThatIsKept(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	for _, row := range []any{store.Person{}, store.Label{}, store.ConversationLabel{}, whereabouts.Site{}, counting.Sitting{}, counting.Evening{}, talk.Letter{}, drafting.Draft{}, drafting.Template{}, drafting.DraftFile{}, drafting.DraftCopy{}, mailboxes.Account{}, mailboxes.Folder{}, mailboxes.Copy{}, mailboxes.Awaited{}, mailboxes.Happening{}, mailboxes.Vanishing{},
		drafting.Unasked{}, mailboxes.Errand{}, store.SavedList{}, store.OwnAddress{}, admission.Session{}, admission.Invitation{}, admission.RecoveryCode{}, admission.Passkey{}, admission.KnownBrowser{}, store.Box{}, store.Member{}, store.Conversation{}, store.Mark{}, store.Message{}, sending.Outgoing{}, sending.OutgoingBytes{}, store.Postponed{}, store.Original{}, store.Ref{},
		sharing.Row{}, sharing.Carried{}, store.Correspondent{}, store.FollowUp{}, store.FollowUpLabel{}, store.Event{}, store.Entry{}, store.Thing{}, store.Request{}, store.Meta{}} {
		is, err := schema.Parse(row, &sync.Map{}, s.Raw().NamingStrategy)
		require.NoError(t, err)
		for _, f := range is.Fields {
			if f.DBName != "" {
				require.True(t, s.Raw().Migrator().HasColumn(is.Table, f.DBName), "%s.%s of %s", is.Table, f.DBName, reflect.TypeOf(row))
			}
		}
	}
}

// A version that has been on anybody's machine is never changed.
func TestVersionsAreFrozen(t *testing.T) {
	frozen := map[string]string{
		"0001": "138abfe132fdc25f", "0002": "de3acc843c8d1810", "0003": "f78b8801497b4a42", "0004": "7c38d6d86826ae2b", "0005": "14f589575d17788c", "0006": "e831aaaee10db28a",
		"0007": "9293e02225d162b7", "0008": "120425ae50c1ae41", "0009": "eb24fc66fb15cc91", "0010": "9efb91238ce26ad9", "0011": "5eee52c6a504598d", "0012": "04dd1345de823d6f",
		"0013": "4e1787f2f67983d3", "0014": "0fc6d6d608d4cd4d", "0015": "7aa52ec003a4bea9", "0016": "23476b655fe80401", "0017": "abe7b2300bda5de3", "0018": "fab5bb4072aec0de",
		"0019": "cfc64f5db7f11b4f", "0020": "f31e68e29d27d889", "0021": "52ab8f0d7e0d5e64", "0022": "6b381d80ff176756", "0023": "c88504fe52f7be9e",
	}
	files, err := store.Versions.ReadDir("schema")
	require.NoError(t, err)
	require.Len(t, files, len(frozen), "a new version is frozen, too")
	for name, hash := range frozen {
		text, err := store.Versions.ReadFile("schema/" + name + ".sql")
		require.NoError(t, err)
		require.Equal(t, hash, store.HashOf(string(text))[:16], "version %s was changed: write a new one instead", name)
	}
}

// A row that has been deleted meanwhile is not brought back by whoever still
// holds it, and no statement is written for it.
func TestNothingDeletedComesBack(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	ctx := context.Background()
	account, label, draft, list := mailboxes.Account{BoxID: 1, Name: "Museum"}, store.Label{BoxID: 1, Name: "loans"}, drafting.Draft{PersonID: 1, BoxID: 1, Text: "Dear"}, store.SavedList{PersonID: 1, BoxID: 1, Name: "Unread"}
	out := sending.Outgoing{BoxID: 1, Once: "message/1", Address: "a@x.example", State: writing.Waiting, Original: []byte("as it leaves")}
	require.NoError(t, s.Write(ctx, func(tx store.Tx) error {
		require.NoError(t, mailboxes.Accounts(tx).PutAccount(&account))
		require.NoError(t, store.Labels(tx).PutLabel(&label))
		require.NoError(t, drafting.Drafts(tx).PutDraft(&draft))
		require.NoError(t, store.Lists(tx).PutSavedList(&list))
		fresh, err := sending.Outbox(tx).Send(&out)
		require.NoError(t, err)
		require.True(t, fresh)
		return nil
	}))
	require.NoError(t, s.Write(ctx, func(tx store.Tx) error { // as long as they are there, they change
		account.Name, draft.Text, out.State = "Choir", "", writing.Hanging
		require.NoError(t, mailboxes.Accounts(tx).PutAccount(&account))
		require.NoError(t, drafting.Drafts(tx).PutDraft(&draft))
		require.NoError(t, sending.Outbox(tx).PutOutgoing(&out))
		a, err := mailboxes.Accounts(tx).Account(1, account.ID)
		require.Equal(t, "Choir", a.Name)
		o, err2 := sending.Outbox(tx).Outgoing(1, out.ID)
		require.NoError(t, err2)
		require.Equal(t, writing.Hanging, o.State)
		raw, err2 := sending.Outbox(tx).BytesOfOutgoing(out.ID)
		require.NoError(t, err2)
		require.Equal(t, "as it leaves", string(raw))
		return err
	}))
	require.NoError(t, s.Write(ctx, func(tx store.Tx) error {
		require.NoError(t, mailboxes.Accounts(tx).DropAccount(account.ID))
		require.NoError(t, drafting.Drafts(tx).DropDraft(draft.ID))
		require.NoError(t, store.Lists(tx).DropSavedList(1, 1, list.ID))
		require.NoError(t, tx.DB().Exec("DELETE FROM labels").Error)
		require.NoError(t, tx.DB().Exec("DELETE FROM outgoings").Error)
		return nil
	}))
	require.NoError(t, s.Write(ctx, func(tx store.Tx) error {
		require.ErrorIs(t, mailboxes.Accounts(tx).PutAccount(&account), store.ErrNotFound)
		require.ErrorIs(t, store.Labels(tx).PutLabel(&label), store.ErrNotFound)
		require.ErrorIs(t, drafting.Drafts(tx).PutDraft(&draft), store.ErrNotFound)
		require.ErrorIs(t, store.Lists(tx).PutSavedList(&list), store.ErrNotFound)
		require.ErrorIs(t, sending.Outbox(tx).PutOutgoing(&out), store.ErrNotFound)
		return nil
	}))
	for _, table := range []string{"accounts", "labels", "drafts", "saved_lists", "outgoings"} {
		var n int
		db, err := sql.Open("sqlite3", filepath.Join(filepath.Dir(s.Log()), "ebbe.db"))
		require.NoError(t, err)
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		db.Close()
		require.Zero(t, n, table)
	}
}

// A message that lies in two boxes is kept once, and in one of them for as long
// as it is there.
func TestAMessageInTwoBoxesIsKeptOnce(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	ctx := context.Background()
	raw := []byte("Subject: The crate\n\nFor both of us.\n")
	hash := []byte(store.HashOf(string(raw)))[:32]
	ids := map[int64]int64{}
	for box := int64(1); box <= 3; box++ {
		require.NoError(t, s.Write(ctx, func(tx store.Tx) error {
			c := store.Conversation{BoxID: box, Place: inbox.Junk, Reason: inbox.Arrived, Messages: 1}
			require.NoError(t, tx.DB().Create(&c).Error)
			m := &store.Message{BoxID: box, Hash: hash, ConversationID: c.ID, Size: len(raw), Date: when.Instant(box)}
			err := store.Messages(tx).AddBatch(box, 1, store.Batch{Messages: []*store.Message{m}, Originals: [][]byte{raw}, Words: make([]words.Row, 1)})
			ids[box] = m.ID
			return err
		}))
	}
	count := func() (n int) {
		require.NoError(t, s.Raw().Raw("SELECT COUNT(*) FROM originals").Scan(&n).Error)
		return n
	}
	read := func(box int64) {
		require.NoError(t, s.Read(ctx, func(tx store.Tx) error {
			got, err := store.Messages(tx).Original(ids[box])
			require.NoError(t, err)
			require.Equal(t, raw, got)
			some, err := store.Messages(tx).Bytes([]int64{ids[box]})
			require.Equal(t, raw, some[ids[box]])
			wrong, err2 := tx.Check()
			require.NoError(t, err2)
			require.Empty(t, wrong)
			return err
		}))
	}
	require.Equal(t, 1, count())
	for box := int64(1); box <= 3; box++ {
		read(box)
	}
	for box := int64(1); box <= 3; box++ { // the first goes first, with whose message the bytes are
		require.NoError(t, s.Write(ctx, func(tx store.Tx) error { _, err := mailboxes.Folders(tx).Remove(box, []int64{ids[box]}); return err }))
		for still := box + 1; still <= 3; still++ {
			read(still)
		}
	}
	require.Zero(t, count())
}
