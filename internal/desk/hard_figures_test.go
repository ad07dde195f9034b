package desk

import (
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/figures"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

// looks are all screens of numbers, one after the other.
func (f *office) looks(t testing.TB, from, to string) figures.FiguresView {
	t.Helper()
	v, err := f.Figures.Overview(ctx, f.who, from, to)
	require.NoError(t, err)
	for _, by := range counting.Sorts {
		_, err = f.Figures.Answers(ctx, f.who, from, to, by)
		require.NoError(t, err)
	}
	_, err = f.Figures.People(ctx, f.who)
	require.NoError(t, err)
	_, err = f.Figures.Ahead(ctx, f.who, nil)
	require.NoError(t, err)
	_, err = f.Figures.Dig(ctx, f.who, 2)
	require.NoError(t, err)
	_, err = f.Figures.Day(ctx, f.who, to)
	require.NoError(t, err)
	_, err = f.Figures.Notices(ctx, f.who, from, to, 0)
	require.NoError(t, err)
	_, err = f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	return v
}

// Of nothing at all, of a single day, and of a year in which nothing was done after one in which something
// was, numbers say what there is: nothing.
func TestNumbersOfAYearOfNothing(t *testing.T) {
	f := newOffice(t, store.Options{})
	v := f.looks(t, "2026-01-01", "2026-12-31")
	require.Equal(t, numbers.Over(nil), v.Is)
	require.Empty(t, v.First)
	require.False(t, v.Known)
	f.until(t, "2026-11-25 08:00")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"), f.letter("2@x", halvardFrom, "Loan"))
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, "Crates").ID}})
	v = f.looks(t, "2026-11-25", "2026-11-25") // one day of data
	require.Equal(t, []any{2, 1, "2026-11-25", false}, []any{v.Is.Came, v.Is.Decided, v.First, v.Known})
	a, err := f.Figures.Ahead(ctx, f.who, nil)
	require.NoError(t, err)
	require.Equal(t, numbers.Proofs{}, a.Proofs, "one day proves nothing")
	f.clock.t = f.clock.t.AddDate(1, 2, 0) // more than a year of nothing
	f.Figures.Forget()
	require.NoError(t, f.Agenda.CatchUp(ctx))
	v = f.looks(t, "2027-01-01", "2027-12-31")
	require.Zero(t, v.Is.Came+v.Is.Decided)
	require.Zero(t, v.Zeros.Days, "a day on which nothing was done did not end at zero: one is left")
	require.Equal(t, 365, len(v.Days))
	d, err := f.Figures.Dig(ctx, f.who, 1)
	require.NoError(t, err)
	require.Equal(t, 1, d.Left)
	f.sound(t)
}

// Whoever moves to another zone finds each day as they lived it: what was done before stays on its day.
func TestNumbersAfterTheZoneWasChanged(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.until(t, "2026-11-23 08:00")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"), f.letter("2@x", halvardFrom, "Loan"), f.letter("3@x", halvardFrom, "Cards"))
	f.until(t, "2026-11-23 23:30")
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, "Crates").ID}})
	move := func(zone string) {
		t.Helper()
		require.NoError(t, f.choose(map[string]any{"week": map[string]any{"zone": zone}}))
		require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
			p, err := store.People(tx).PersonByID(f.who.Person)
			f.who.Week = p.Week
			return err
		}))
	}
	move("Pacific/Auckland") // where it is noon of the 24th
	f.clock.t = f.clock.t.Add(10 * time.Minute)
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{f.by(t, "Loan").ID}})
	move("America/Los_Angeles") // where it is the 23rd again, in the afternoon
	f.clock.t = f.clock.t.Add(10 * time.Minute)
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, "Cards").ID}})
	for date, want := range map[string]int{"2026-11-22": 0, "2026-11-23": 2, "2026-11-24": 1} {
		v := f.looks(t, date, date)
		require.Equal(t, want, v.Is.Decided, date)
		require.Equal(t, want, f.opens(t, figures.Asked{Measure: numbers.Decided, From: date, To: date, Weekday: -1, Hour: -1}), date)
	}
	for hour, want := range map[int]int{23: 1, 14: 1, 11: 0} {
		require.Equal(t, want, f.opens(t, figures.Asked{Measure: numbers.Decided, From: "2026-11-23", To: "2026-11-23", Weekday: -1, Hour: hour}), hour)
	}
	f.sound(t)
	_, err := f.Journal.TakeBack(ctx, f.who, "") // on the day on which it was counted
	require.NoError(t, err)
	require.Equal(t, 1, f.looks(t, "2026-11-23", "2026-11-23").Is.Decided)
	f.sound(t)
}

// Numbers of what was made of a backup are those of its time, and go on from there.
func TestNumbersOfARestoredBackup(t *testing.T) {
	p := newPosted(t, postoffice.Faults{})
	key, err := secrets.Load(p.dir, "")
	require.NoError(t, err)
	p.link(func(l *accounts.Links) { l.Key = key })
	f := p.office
	f.until(t, "2026-11-24 08:00")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"), f.letter("2@x", halvardFrom, "Loan"))
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, "Crates").ID}})
	f.sound(t)
	was := f.looks(t, "2026-11-24", "2026-11-24")
	file := filepath.Join(t.TempDir(), "ebbe.backup")
	require.NoError(t, p.Accounts.Backup(ctx, file, key, true))
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{f.by(t, "Loan").ID}}) // is lost with the disk
	require.Equal(t, 2, f.looks(t, "2026-11-24", "2026-11-24").Is.Decided)
	q := p.restored(t, file)
	require.Equal(t, was, q.looks(t, "2026-11-24", "2026-11-24"))
	q.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{q.by(t, "Loan").ID}})
	v := q.looks(t, "2026-11-24", "2026-11-24")
	require.Equal(t, 2, v.Is.Decided)
	require.Equal(t, 1, v.Zeros.Days)
	q.sound(t)
}

// Conversations that are joined are answered as one, and as two again once they are parted.
func TestAnswersOfJoinedConversations(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.until(t, "2026-11-24 08:00")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"))
	f.clock.t = f.clock.t.Add(time.Hour)
	f.take(t, note("2@x", me, mirelaFrom, "The lids", f.clock.t))
	answered := func() (n int, took when.Instant) {
		t.Helper()
		f.sound(t)
		v, err := f.Figures.Answers(ctx, f.who, "2026-11-24", "2026-11-24", counting.ByPerson)
		require.NoError(t, err)
		return v.Own.Clock.N, when.Instant(v.Own.Clock.Median)
	}
	n, _ := answered()
	require.Zero(t, n, "they are of two conversations")
	_, err := f.Decisions.Join(ctx, f.who, "", []int64{1, 2})
	require.NoError(t, err)
	n, took := answered()
	require.Equal(t, []any{1, when.Instant(60)}, []any{n, took})
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	n, _ = answered()
	require.Zero(t, n)
}
