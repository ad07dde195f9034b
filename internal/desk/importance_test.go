package desk

import (
	"context"
	"database/sql"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/queue"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

// model is what was learned of these senders.
func (f *office) model(t testing.TB, from ...string) (m sorting.Model) {
	t.Helper()
	require.NoError(t, f.Importance.Learn(ctx))
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) (err error) {
		m, err = weighing.Weights(tx).Model(1, from)
		return err
	}))
	return m
}

// exec changes the database as no program of today does.
func (f *office) exec(t testing.TB, statements string) {
	t.Helper()
	db, err := sql.Open("sqlite3", filepath.Join(f.dir, "ebbe.db"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(statements)
	require.NoError(t, err)
}

// by gives the slips of the inbox by their subjects.
func (f *office) by(t testing.TB, subject string) queue.Slip {
	t.Helper()
	for _, s := range f.queue(t) {
		if s.Subject == subject {
			return s
		}
	}
	t.Fatalf("no %q in the inbox", subject)
	return queue.Slip{}
}

// Whom the reader answers comes first, and the slip says why; a correction counts at
// once, says what else has moved, and is unlearned when it is taken back.
func TestImportanceIsLearnedFromWhatIsDone(t *testing.T) {
	f := newOffice(t, store.Options{})
	for i := range 6 {
		a, b := fmt.Sprintf("h%d@x", i), fmt.Sprintf("p%d@x", i)
		f.arrive(t, letter(a, "Halvard <halvard@l.example>", fmt.Sprintf("Loan %d", i)), letter(b, "Perry <perry@p.example>", fmt.Sprintf("Offer %d", i)))
		f.arrive(t, letter("s"+a, "solvei@m.example", fmt.Sprintf("Re: Loan %d", i), a))
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, fmt.Sprintf("Loan %d", i)).ID}})
		f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{f.by(t, fmt.Sprintf("Offer %d", i)).ID}})
		f.clock.t = f.clock.t.Add(time.Hour)
	}
	m := f.model(t, "halvard@l.example", "perry@p.example")
	require.Equal(t, 6, m["from:halvard@l.example"].Answered)
	require.Equal(t, 6, m["from:halvard@l.example"].Quick)
	require.Equal(t, 6, m["from:perry@p.example"].N)
	f.sound(t)

	f.arrive(t, letter("p9@x", "Perry <perry@p.example>", "Best offer"), letter("h9@x", "Halvard <halvard@l.example>", "Loan again"), letter("p8@x", "Perry <perry@p.example>", "Last offer"))
	_, ids := f.groups(t, queue.Arrangement{Order: inbox.MostImportant, Group: inbox.ByKind})
	require.Equal(t, f.by(t, "Loan again").ID, ids[0][0], "first what is answered")
	require.Contains(t, f.by(t, "Loan again").Because, "you answered Halvard each of 6 times, mostly within a day")
	require.Contains(t, f.by(t, "Best offer").Because, "you seldom act on what Perry sends")
	require.Greater(t, f.by(t, "Loan again").Level, f.by(t, "Best offer").Level)
	f.model(t) // the second weighing of the day

	before := f.model(t, "perry@p.example")
	best, last := f.by(t, "Best offer"), f.by(t, "Last offer")
	out := f.decide(t, inbox.Important, decide.Decision{Conversations: []int64{best.ID}})
	require.Equal(t, "Important. One other in the inbox moved by it.", out.Text)
	require.Equal(t, sorting.Full, f.by(t, "Best offer").Level)
	require.Equal(t, "you said so", f.by(t, "Best offer").Because)
	require.Greater(t, f.by(t, "Last offer").Level, last.Level, "its sender counts for more")
	learned, err := f.Importance.Learned(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, learned.Corrections, 1)
	require.True(t, learned.Corrections[0].Important)
	require.Equal(t, "Best offer", learned.Corrections[0].Subject)
	require.Equal(t, out.Entry, learned.Corrections[0].Entry)
	f.sound(t)

	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, best.Level, f.by(t, "Best offer").Level)
	require.Equal(t, last.Level, f.by(t, "Last offer").Level)
	require.True(t, f.model(t, "perry@p.example").Same(before), "it is unlearned")
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, sorting.Full, f.by(t, "Best offer").Level, "and learned again")
	f.sound(t)

	out = f.decide(t, inbox.Unimportant, decide.Decision{Conversations: []int64{f.by(t, "Loan again").ID}})
	require.Equal(t, "Not important. No other in the inbox moved by it.", out.Text)
	require.Zero(t, f.by(t, "Loan again").Level)
	learned, err = f.Importance.Learned(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, learned.Corrections, 2)
	require.Equal(t, "Halvard", learned.Senders[0].From.Name)
}

// Nobody's corrections move another's box.
func TestImportanceIsOfOneBox(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t, letter("a@x", "perry@p.example", "Offer"))
	f.decide(t, inbox.Important, decide.Decision{Conversations: []int64{f.by(t, "Offer").ID}})
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		m, err := weighing.Weights(tx).Model(2, []string{"perry@p.example"})
		require.Empty(t, m)
		return err
	}))
}

// Mail of before Ebbe teaches whom its reader answers; what was put away by then and
// not answered says little.
func TestMailOfBeforeTeaches(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.clock.t = begin.AddDate(0, 0, 30)
	f.take(t, letter("a@x", "halvard@l.example", "Loan"), letter("b@x", "solvei@m.example", "Re: Loan", "a@x"), letter("c@x", "perry@p.example", "Offer"))
	require.Equal(t, sorting.Tally{}, f.model(t, "perry@p.example")["from:perry@p.example"], "it is still to be decided")
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, "Offer").ID}})
	require.Equal(t, 1, f.model(t, "halvard@l.example")["from:halvard@l.example"].Answered)
	f.sound(t)
}

// A conversation that cannot be learned from keeps nothing else from being learned.
func TestLearningGoesOn(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t, letter("a@x", "perry@p.example", "Offer"), letter("b@x", "halvard@l.example", "Loan"))
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{1, 2}})
	f.exec(t, "UPDATE weighed SET worth = 'much' WHERE from_addr = 'perry@p.example'")
	require.Equal(t, 1, f.model(t, "halvard@l.example")["from:halvard@l.example"].N)
	f.arrive(t, letter("c@x", "halvard@l.example", "Another"))
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{3}})
	require.Equal(t, 2, f.model(t, "halvard@l.example")["from:halvard@l.example"].N)
}

// What an earlier program has taken in is weighed and learned from by this one.
func TestOlderMessagesAreWeighed(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t, letter("a@x", "halvard@l.example", "Loan"), letter("b@x", "solvei@m.example", "Re: Loan", "a@x"), letter("c@x", "perry@p.example", "Could you sign?"))
	f.exec(t, "INSERT INTO unweighed SELECT id FROM messages WHERE NOT own; DELETE FROM weighed; DELETE FROM tallies; DELETE FROM unlearned; UPDATE messages SET importance = 0; UPDATE conversations SET importance = 0")
	require.Equal(t, -1, f.by(t, "Could you sign?").Level)
	_, err := f.Importance.CatchUp(ctx)
	require.NoError(t, err)
	require.Equal(t, 1, f.model(t, "halvard@l.example")["from:halvard@l.example"].Answered)
	require.Positive(t, f.by(t, "Could you sign?").Level)
	f.sound(t)

	// A list that an earlier program did not note is known afterwards.
	f.arrive(t, f.letter("l@x", "press@letters.example", "Weekly", "List-Id: Weekly <weekly.letters.example>"))
	f.exec(t, "INSERT INTO unweighed SELECT id FROM messages WHERE list <> ''; UPDATE messages SET list = ''")
	_, err = f.Importance.CatchUp(ctx)
	require.NoError(t, err)
	s, err := f.Rules.Like(ctx, f.who, f.by(t, "Weekly").ID)
	require.NoError(t, err)
	require.Contains(t, s.Words, "list weekly.letters.example")
}

// Whatever is decided and taken back, in any order, what was learned is what a model
// learns that sees how everything stands at the end.
func TestLearningFollowsTheJournal(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		f := newOffice(t, store.Options{})
		n := rapid.IntRange(2, 6).Draw(r, "letters")
		for i := range n {
			f.arrive(t, letter(fmt.Sprintf("l%d@x", i), fmt.Sprintf("w%d@p.example", rapid.IntRange(0, 2).Draw(r, "from")), fmt.Sprintf("Letter %d", i)))
		}
		kinds := []inbox.Kind{inbox.Archive, inbox.ToBin, inbox.ToInbox, inbox.Star, inbox.Unstar, inbox.Important, inbox.Unimportant, inbox.ToJunk}
		for range rapid.IntRange(1, 15).Draw(r, "steps") {
			f.clock.t = f.clock.t.Add(time.Minute)
			switch id := int64(rapid.IntRange(1, n).Draw(r, "conversation")); rapid.IntRange(0, 5).Draw(r, "what") {
			case 0:
				_, _ = f.Journal.TakeBack(ctx, f.who, "")
			case 1:
				_, _ = f.Journal.Again(ctx, f.who, "")
			case 2:
				require.NoError(t, f.Importance.Learn(context.Background()))
			default:
				_, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: rapid.SampledFrom(kinds).Draw(r, "kind"), Conversations: []int64{id}})
				require.NoError(t, err)
			}
		}
		got := f.model(t, "w0@p.example", "w1@p.example", "w2@p.example")
		f.sound(t)
		f.exec(t, "UPDATE weighed SET worth = 0, weight = 0, answer = 0; DELETE FROM tallies; INSERT OR IGNORE INTO unlearned SELECT id FROM conversations")
		require.True(t, f.model(t, "w0@p.example", "w1@p.example", "w2@p.example").Same(got))
		f.store.Close()
	})
}

// What is very important comes through while mail is held, and is told of, where that
// is wanted; what is not waits.
func TestWhatIsImportantComesThrough(t *testing.T) {
	f := newOffice(t, store.Options{})
	for i := range 8 {
		a := fmt.Sprintf("h%d@x", i)
		f.arrive(t, letter(a, "Halvard <halvard@l.example>", fmt.Sprintf("Loan %d", i)))
		f.arrive(t, letter("s"+a, "solvei@m.example", fmt.Sprintf("Re: Loan %d", i), a))
		f.arrive(t, letter(fmt.Sprintf("o%d@x", i), "Perry <perry@p.example>", fmt.Sprintf("Offer %d", i)))
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, fmt.Sprintf("Loan %d", i)).ID}})
		f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{f.by(t, fmt.Sprintf("Offer %d", i)).ID}})
	}
	require.NoError(t, f.Importance.Learn(ctx))
	require.NoError(t, f.Delivery.LetPass(ctx, f.who, delivery.Exception{By: delivery.ByImportance}))
	require.NoError(t, f.Delivery.LetPass(ctx, f.who, delivery.Exception{By: delivery.ByImportance}))
	s := f.settled(t)
	require.Len(t, s.Through, 1, "once")
	s.Notify.Important = true
	require.NoError(t, f.Delivery.Choose(ctx, f.who, deliveries.DeliveryChoices{Counted: s.Counted, BackWaits: s.BackWaits, Notify: s.Notify}))
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.arrive(t, letter("o9@x", "Perry <perry@p.example>", "Offer"), letter("h9@x", "Halvard <halvard@l.example>", "Loan again"))
	require.Equal(t, map[string]string{"through": "Loan again"}, f.shows(t))
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	events := f.Journal.Subscribe(t.Context(), 1, 1)
	f.arrive(t, letter("o10@x", "Perry <perry@p.example>", "Offer again"), letter("h10@x", "Halvard <halvard@l.example>", "Loan once more"))
	told := ""
	for len(events) > 0 {
		e := <-events
		told += e.Notice.Text
	}
	require.Equal(t, "Halvard: Loan once more", told)
}
