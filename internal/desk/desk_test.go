package desk

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/archive"
	"ebbe/internal/store"
	"ebbe/internal/store/plantest"
)

// hand is a clock that is set by hand.
type hand struct{ t time.Time }

func (h *hand) Now() time.Time { return h.t }

var ctx = context.Background()

const zone = "Europe/Oslo"

type office struct {
	*Desk
	dir   string
	clock *hand
	who   identity.Who
}

// begin is Tue 24 Nov 2026, 10:42 in Oslo.
var begin = time.Date(2026, 11, 24, 9, 42, 0, 0, time.UTC)

// newOffice is a new folder with one person set up, copied from one that was
// made once.
func newOffice(t testing.TB, o store.Options) *office {
	t.Helper()
	made.Do(func() {
		var err error
		made.dir, err = os.MkdirTemp("", "ebbe-desk-made")
		require.NoError(t, err)
		f := &office{dir: made.dir, clock: &hand{begin}}
		f.open(t, store.Options{})
		require.NoError(t, f.SetUp(ctx, identity.Signup{Name: "Solvei", Address: "solvei@m.example", Password: "long enough", Zone: zone}))
		f.store.Close()
	})
	dir, err := os.MkdirTemp("", "ebbe-desk")
	require.NoError(t, err)
	require.NoError(t, os.CopyFS(dir, os.DirFS(made.dir)))
	f := &office{dir: dir, clock: &hand{begin}, who: identity.Who{Person: 1, Box: 1, Week: when.Ordinary(zone)}}
	f.open(t, o)
	t.Cleanup(func() { f.store.Close(); os.RemoveAll(dir) })
	return f
}

var made struct {
	sync.Once
	dir string
}

func TestMain(m *testing.M) {
	flag.Parse()
	given := false
	flag.Visit(func(f *flag.Flag) { given = given || f.Name == "rapid.checks" })
	switch {
	case given:
	case testing.Short(): // make check: fewer of each random kind
		_ = flag.Set("rapid.checks", "10")
	default: // others each time; -rapid.checks=1000 for a night
		_ = flag.Set("rapid.checks", "50")
	}
	code := statements.Main(m)
	if made.dir != "" {
		os.RemoveAll(made.dir)
	}
	os.Exit(code)
}

// statements is what the tests of this package made the store run.
var statements plantest.Recorder

func (f *office) open(t testing.TB, o store.Options) {
	t.Helper()
	o.Statements = statements.Note
	s, err := store.Open(f.dir, o)
	require.NoError(t, err)
	f.Desk = New(s, f.clock, false)
}

func (f *office) reopen(t testing.TB) {
	t.Helper()
	f.store.Close()
	f.open(t, store.Options{})
	require.NoError(t, f.Start(ctx))
}

func (f *office) take(t testing.TB, raws ...string) intake.Tally {
	t.Helper()
	in := f.Intake.Begin(ctx, 1, intake.Options{})
	for _, r := range raws {
		require.NoError(t, in.Add(post.Item{Raw: []byte(r)}))
	}
	tally, err := in.Close()
	require.NoError(t, err)
	return tally
}

func letter(id, from, subject string, refs ...string) string {
	head := fmt.Sprintf("From: %s\nTo: solvei@m.example\nSubject: %s\nDate: Tue, 24 Nov 2026 09:%02d:00 +0100\nMessage-ID: <%s>\n", from, subject, len(id)%60, id)
	if len(refs) > 0 {
		head += "References: <" + strings.Join(refs, "> <") + ">\n"
	}
	return head + "\nbody of " + id + "\n"
}

func (f *office) queue(t testing.TB) []queue.Slip {
	t.Helper()
	q, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{})
	require.NoError(t, err)
	require.Equal(t, q.Left, len(q.Slips))
	return q.Slips
}

// groups gives the names of the queue's groups with their conversations.
func (f *office) groups(t testing.TB, a queue.Arrangement) (keys []string, ids [][]int64) {
	t.Helper()
	q, err := f.Queue.Arranged(ctx, f.who, a)
	require.NoError(t, err)
	for _, g := range q.Groups {
		var in []int64
		require.NoError(t, json.Unmarshal(g.IDs, &in))
		require.Len(t, in, g.Count)
		keys, ids = append(keys, g.Key), append(ids, in)
	}
	return keys, ids
}

// choose changes what a person has chosen as the patch says, or whole settings.
func (f *office) choose(patch any) error {
	raw, err := json.Marshal(patch)
	if err != nil {
		return err
	}
	_, err = f.Choices.Change(ctx, f.who, "", raw)
	return err
}

// relabel changes a label.
func (f *office) relabel(v labelling.LabelView) error {
	_, err := f.Labels.Put(ctx, f.who, "", v)
	return err
}

func (f *office) decide(t testing.TB, kind inbox.Kind, d decide.Decision) journal.Decided {
	t.Helper()
	d.Kind = kind
	out, err := f.Decisions.Decide(ctx, f.who, "", d)
	require.NoError(t, err)
	return out
}

func (f *office) sound(t testing.TB) {
	t.Helper()
	require.NoError(t, f.Figures.Settle(ctx))
	wrong, _, err := f.Check(ctx)
	require.NoError(t, err)
	require.Empty(t, wrong)
}

func (f *office) moment(t testing.TB, phrase string) when.Moment {
	t.Helper()
	r := f.who.Week.Read(phrase, f.Now())
	require.Empty(t, r.Doubt, r.Sentence)
	return r.Moment
}

func TestConversationsWhateverTheOrderOfTheirMessages(t *testing.T) {
	letters := []string{
		letter("a@x", "mirela@c.example", "Crates"), letter("b@x", "solvei@m.example", "Re: Crates", "a@x"), letter("c@x", "mirela@c.example", "Re: Crates", "a@x", "b@x"),
		letter("d@x", "tomasz@m.example", "Re: Crates", "b@x"), letter("e@x", "halvard@l.example", "Crates"), letter("f@x", "halvard@l.example", "Re: something else", "z@x"), letter("g@x", "jonas@m.example", "Hello", "z@x"),
	}
	rapid.Check(t, func(rt *rapid.T) {
		f := newOffice(t, store.Options{})
		f.clock.t = begin
		for _, l := range rapid.Permutation(letters).Draw(rt, "order") {
			f.take(t, l)
		}
		sizes := map[string]int{}
		list, err := f.Queue.Find(ctx, f.who, search.Query{}, "")
		require.NoError(t, err)
		for _, s := range list.Slips {
			v, err := f.Reading.Conversation(ctx, f.who, s.ID)
			require.NoError(t, err)
			for _, m := range v.Messages {
				sizes[m.From.Address+" "+m.Subject] = len(v.Messages)
			}
		}
		require.Equal(t, map[string]int{"mirela@c.example Crates": 4, "solvei@m.example Re: Crates": 4, "mirela@c.example Re: Crates": 4, "tomasz@m.example Re: Crates": 4,
			"halvard@l.example Crates": 1, "halvard@l.example Re: something else": 2, "jonas@m.example Hello": 2}, sizes)
		f.sound(t)
	})
}

func TestImportingTwiceAndDuplicateMessageIDs(t *testing.T) {
	f := newOffice(t, store.Options{})
	a := letter("same@x", "mirela@c.example", "First")
	require.Equal(t, intake.Tally{Read: 3, New: 2, Known: 1}, f.take(t, a, letter("same@x", "halvard@l.example", "Another with the same ID"), a))
	require.Equal(t, intake.Tally{Read: 2, New: 1, Known: 1, KeptRaw: 1}, f.take(t, a, "no header, but somebody's words"))
	f.sound(t)
	list, err := f.Queue.Find(ctx, f.who, search.Query{Words: "somebody's"}, "")
	require.NoError(t, err)
	require.Len(t, list.Slips, 1, "what was kept raw is found")
	v, err := f.Reading.Conversation(ctx, f.who, list.Slips[0].ID)
	require.NoError(t, err)
	require.True(t, v.Messages[0].Raw)
	require.Contains(t, v.Messages[0].Blocks[0].Text, "somebody's words")
}

func TestExportGivesBackWhatCameIn(t *testing.T) {
	f := newOffice(t, store.Options{})
	raws := []string{letter("a@x", "m@c.example", "A"), "From: x@y.example\r\nSubject: =?x?\r\n\r\nFrom here\r\n>From there\xff\x00\r\n", "not even a header\n"}
	f.take(t, raws...)
	out := filepath.Join(t.TempDir(), "out")
	n, err := f.Export(ctx, 1, "eml", out)
	require.NoError(t, err)
	require.Equal(t, 3, n)
	files, err := filepath.Glob(filepath.Join(out, "*.eml"))
	require.NoError(t, err)
	got := map[string]bool{}
	for _, file := range files {
		b, err := os.ReadFile(file)
		require.NoError(t, err)
		got[string(b)] = true
	}
	box := filepath.Join(t.TempDir(), "all.mbox")
	_, err = f.Export(ctx, 1, "mbox", box)
	require.NoError(t, err)
	_, err = f.Export(ctx, 1, "mbox", box)
	require.Error(t, err, "an export overwrites nothing")
	again := newOffice(t, store.Options{})
	tally, err := again.Intake.Import(ctx, 1, []string{box}, intake.Options{})
	require.NoError(t, err)
	require.Equal(t, 3, tally.New)
	require.NoError(t, archive.Walk(box, func(i post.Item) error { require.True(t, got[string(i.Raw)]); return nil }, nil))
	for _, r := range raws {
		require.True(t, got[r], "%q came back unchanged", r)
	}
}

func TestTakingBackDeepAndAcrossARestart(t *testing.T) {
	f := newOffice(t, store.Options{})
	var raws []string
	for i := range 5 {
		raws = append(raws, letter(fmt.Sprintf("m%d@x", i), "mirela@c.example", fmt.Sprintf("Matter %d", i)))
	}
	f.take(t, raws...)
	before := f.queue(t)
	states := [][]queue.Slip{before}
	kinds := []inbox.Kind{inbox.Archive, inbox.Star, inbox.ToBin, inbox.Snooze, inbox.MakeFollowUp, inbox.ToInbox, inbox.Unstar, inbox.MarkUnread}
	steps := 0
	for i := range 420 {
		f.clock.t = f.clock.t.Add(time.Second)
		d := decide.Decision{Conversations: []int64{before[i%5].ID}, Return: f.moment(t, "tomorrow"), FollowUp: &followups.NewFollowUp{Title: "Do it"}}
		if f.decide(t, kinds[i%len(kinds)], d).Entry != 0 {
			steps++
			states = append(states, f.everything(t))
		}
	}
	require.Greater(t, steps, 200)
	f.reopen(t)
	for i := steps - 1; i >= 0; i-- {
		_, err := f.Journal.TakeBack(ctx, f.who, "")
		require.NoError(t, err)
		if i > 0 {
			require.Equal(t, states[i], f.everything(t), "step %d", i)
		}
	}
	require.Equal(t, before, f.queue(t))
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.ErrorContains(t, err, "nothing left to take back")
	f.reopen(t)
	for range steps {
		_, err := f.Journal.Again(ctx, f.who, "")
		require.NoError(t, err)
	}
	require.Equal(t, states[steps], f.everything(t))
	f.sound(t)
}

// everything is all conversations as slips, wherever they are.
func (f *office) everything(t testing.TB) []queue.Slip {
	t.Helper()
	l, err := f.Queue.Find(ctx, f.who, search.Query{}, "")
	require.NoError(t, err)
	return l.Slips
}

func TestANewDecisionEndsDoingAgain(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "m@c.example", "A"), letter("b@x", "m@c.example", "B"))
	q := f.queue(t)
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{q[0].ID}})
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{q[1].ID}})
	_, err = f.Journal.Again(ctx, f.who, "")
	require.ErrorContains(t, err, "nothing that was taken back last")
}

func TestARepeatedRequestIsAnsweredOnce(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "m@c.example", "A"))
	d := decide.Decision{Kind: inbox.MakeFollowUp, Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Do it"}}
	first, err := f.Decisions.Decide(ctx, f.who, "key", d)
	require.NoError(t, err)
	second, err := f.Decisions.Decide(ctx, f.who, "key", d)
	require.NoError(t, err)
	require.Equal(t, first, second)
	l, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{})
	require.NoError(t, err)
	require.Equal(t, 1, l.Groups[5].Count)
}

func TestSnoozedComesBackOnceAlsoAfterTheProgramWasOff(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "m@c.example", "A"), letter("bb@x", "m@c.example", "B"), letter("ccc@x", "m@c.example", "C"))
	ids := map[string]int64{}
	for _, s := range f.queue(t) {
		ids[s.Subject] = s.ID
	}
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["A"]}, Return: f.moment(t, "thu 9:00")})
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["B"]}, Return: f.moment(t, "wed 9:00")})
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Len(t, f.queue(t), 1, "nothing is early")
	l, err := f.Queue.Later(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, []string{"B", "A"}, []string{l.Slips[0].Subject, l.Slips[1].Subject}, "in the order of return")

	f.clock.t = begin.AddDate(0, 0, 5) // off for five days
	f.reopen(t)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.NoError(t, f.Agenda.CatchUp(ctx))
	q := f.queue(t)
	require.Equal(t, []string{"A", "B", "C"}, []string{q[0].Subject, q[1].Subject, q[2].Subject})
	keys, _ := f.groups(t, queue.Arrangement{})
	require.Equal(t, string(inbox.BackToday), keys[0])
	require.True(t, q[0].Unread)
	require.Equal(t, when.Of(begin), q[0].Position.SnoozedAt, "it knows since when")
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	returns := 0
	for _, line := range h.Lines {
		if line.Kind == inbox.Return {
			returns++
			require.Equal(t, store.ByClock, line.Actor)
		}
	}
	require.Equal(t, 2, returns)
	f.sound(t)
}

func TestTakingBackASnoozeTakesItOffTheAgenda(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "m@c.example", "A"))
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{1}, Return: f.moment(t, "in 2 h")})
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	before := f.queue(t)
	f.clock.t = begin.Add(3 * time.Hour)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Equal(t, before, f.queue(t))
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Snooze, Conversations: []int64{1}, Return: when.Moment{At: when.Of(begin)}})
	require.ErrorContains(t, err, "has passed")
	for _, kind := range []inbox.Kind{"dance", inbox.DropLabel, inbox.Return} { // the last two are for others to do
		_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: kind, Conversations: []int64{1}})
		require.ErrorContains(t, err, "does not know that decision", kind)
	}
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Snooze, Conversations: []int64{1}, Until: "weather"})
	require.ErrorContains(t, err, "nothing a conversation can wait for")
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.WriteNote, Conversations: []int64{1}, Text: strings.Repeat("n", inbox.MaxNote+1)})
	require.ErrorContains(t, err, "too long")
	require.Equal(t, before, f.queue(t))
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{99}})
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.Decisions.Decide(ctx, identity.Who{Person: 1, Box: 2}, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{1}})
	require.ErrorIs(t, err, store.ErrNotFound, "another's box cannot be reached by guessing")
}

func TestFollowUpsAndTheirReminders(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "mirela@c.example", "A"))
	due := f.moment(t, "thu noon")
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: " Measure  the crate ", Due: due, Remind: f.moment(t, "in 2 h"), Priority: 1}})
	require.Empty(t, f.queue(t), "its mail left the inbox")
	l, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{})
	require.NoError(t, err)
	made := l.Groups[3].FollowUps[0]
	require.Equal(t, "Measure the crate", made.Title)
	require.Equal(t, "a@x", made.Message)
	conversation, err := f.Reading.ByMessageID(ctx, f.who, "a@x")
	require.NoError(t, err)
	require.Equal(t, made.Conversation, conversation)

	f.clock.t = begin.Add(2 * time.Hour)
	f.reopen(t)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, cards.Cards, 1)
	step := func(s followups.FollowUpStep) {
		t.Helper()
		_, err := f.FollowUps.Step(ctx, f.who, "", made.UID, s)
		require.NoError(t, err)
	}
	step(followups.FollowUpStep{Kind: inbox.SeenReminder, Remind: f.moment(t, "in 1 h")})
	cards, err = f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, cards.Cards)
	f.clock.t = begin.Add(4 * time.Hour)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err = f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, cards.Cards, 1, "reminded again")

	step(followups.FollowUpStep{Kind: inbox.ChangeFollow, Change: &followups.NewFollowUp{Title: "Measure it twice", Due: f.moment(t, "mon").Day(f.who.Week.Location()), Priority: 9}})
	_, err = f.FollowUps.Step(ctx, f.who, "", made.UID, followups.FollowUpStep{Kind: inbox.ChangeFollow, Change: &followups.NewFollowUp{Title: "  "}})
	require.ErrorContains(t, err, "needs a title")
	step(followups.FollowUpStep{Kind: inbox.FinishFollow})
	log, err := f.FollowUps.Log(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "Measure it twice", log.FollowUps[0].Title)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	log, err = f.FollowUps.Log(ctx, f.who, "")
	require.NoError(t, err)
	require.Empty(t, log.FollowUps)
	f.sound(t)
}

func TestAFullDiskLosesNothing(t *testing.T) {
	f := newOffice(t, store.Options{MaxPages: 420})
	big := strings.Repeat("a long line of text that fills the disk soon\n", 400)
	stored := 0
	for i := range 200 {
		in := f.Intake.Begin(ctx, 1, intake.Options{})
		require.NoError(t, in.Add(post.Item{Raw: []byte(letter(fmt.Sprint(i, "@x"), "m@c.example", "A") + big)}))
		tally, err := in.Close()
		if err != nil {
			require.ErrorIs(t, err, store.ErrFull)
			require.ErrorContains(t, err, "what was stored before is safe")
			break
		}
		stored += tally.New
	}
	require.Greater(t, stored, 10)
	require.Less(t, stored, 200)
	f.reopen(t)
	_, n, err := f.Check(ctx)
	require.NoError(t, err)
	require.Equal(t, stored, n)
	f.sound(t)
}

func TestALockedDatabaseIsSaid(t *testing.T) {
	f := newOffice(t, store.Options{BusyMillis: 20})
	f.take(t, letter("a@x", "m@c.example", "A"))
	other, err := sql.Open("sqlite3", "file:"+filepath.Join(f.dir, "ebbe.db")+"?_txlock=exclusive")
	require.NoError(t, err)
	defer other.Close()
	tx, err := other.Begin()
	require.NoError(t, err)
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{1}})
	require.ErrorIs(t, err, store.ErrLocked)
	require.NoError(t, tx.Rollback())
	require.Len(t, f.queue(t), 1)
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{1}})
}

func TestForeignAndNewerDatabasesAreRefused(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ebbe.db"), bytes.Repeat([]byte("not a database "), 100), 0o600))
	_, err := store.Open(dir, store.Options{})
	require.ErrorIs(t, err, store.ErrDamaged)

	f := newOffice(t, store.Options{})
	f.store.Close()
	db, err := sql.Open("sqlite3", filepath.Join(f.dir, "ebbe.db"))
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO migrations(id) VALUES ('9999')")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = store.Open(f.dir, store.Options{})
	require.ErrorIs(t, err, store.ErrNewer)
}

func TestMailImportedBeforeAnybodyWasSetUp(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(dir, store.Options{})
	require.NoError(t, err)
	defer s.Close()
	f := &office{Desk: New(s, &hand{begin}, false), who: identity.Who{Person: 1, Box: 1, Week: when.Ordinary(zone)}}
	f.take(t, letter("a@x", "mirela@c.example", "A"), letter("own@x", "solvei@m.example", "Mine"))
	require.NoError(t, f.SetUp(ctx, identity.Signup{Name: "Solvei", Address: "Solvei@M.example", Password: "long enough", Zone: zone}))
	q := f.queue(t)
	require.Len(t, q, 1, "what one wrote oneself is not to be decided")
	require.True(t, q[0].Unread)
	f.sound(t)
	require.Error(t, f.SetUp(ctx, identity.Signup{Name: "Other", Address: "o@m.example", Password: "long enough", Zone: zone}))
}

// Several people each have a box of their own, and what is taken in, given back
// and checked is one's own; where there are several, it has to be said whose.
func TestSeveralPeople(t *testing.T) {
	f := newOffice(t, store.Options{})
	who, err := f.WhoFor(ctx, "")
	require.NoError(t, err)
	require.EqualValues(t, 1, who.Box, "of the only person")
	require.NoError(t, f.AddPerson(ctx, identity.Signup{Name: "Jonas", Address: "Jonas@m.example", Password: "long enough", Zone: zone}))
	require.ErrorContains(t, f.AddPerson(ctx, identity.Signup{Name: "Jonas", Address: "jonas@m.example", Password: "long enough", Zone: zone}), "already")
	_, err = f.WhoFor(ctx, "")
	require.ErrorContains(t, err, "jonas@m.example")
	_, err = f.WhoFor(ctx, "nobody@m.example")
	require.ErrorContains(t, err, "nobody signs in")
	jonas, err := f.People.Called(ctx, "jonas@m.example")
	require.NoError(t, err)
	who, err = f.WhoFor(ctx, "JONAS@m.example")
	require.NoError(t, err)
	require.Equal(t, jonas.Box, who.Box)
	require.NotEqual(t, f.who.Box, who.Box)
	in := f.Intake.Begin(ctx, jonas.Box, intake.Options{})
	require.NoError(t, in.Add(post.Item{Raw: []byte(letter("his@x", "ann@x.example", "For Jonas"))}))
	_, err = in.Close()
	require.NoError(t, err)
	f.take(t, letter("hers@x", "ann@x.example", "For Solvei"))
	q, err := f.Queue.Arranged(ctx, jonas, queue.Arrangement{})
	require.NoError(t, err)
	require.Equal(t, "For Jonas", q.Slips[0].Subject)
	require.Len(t, q.Slips, 1)
	require.Len(t, f.queue(t), 1)
	_, err = f.Decisions.Decide(ctx, jonas, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{q.Slips[0].ID}})
	require.NoError(t, err)
	_, err = f.Decisions.Decide(ctx, jonas, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{f.queue(t)[0].ID}})
	require.ErrorIs(t, err, store.ErrNotFound, "another's is not to be had")
	wrong, n, err := f.Check(ctx)
	require.NoError(t, err)
	require.Empty(t, wrong)
	require.Equal(t, 2, n, "the originals of both")
	at := func(box int64) (at when.Instant) {
		require.NoError(t, f.store.Read(ctx, func(tx store.Tx) (err error) { at, err = store.Agenda(tx).TimeOf(box, inbox.CloseDay); return err }))
		return at
	}
	require.NotZero(t, at(jonas.Box), "his day is closed, too")
}
