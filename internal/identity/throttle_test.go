package identity

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

var ctx = context.Background()

// lodge is a new database in which Solvei has signed up.
type lodge struct{ *Directory }

func newLodge(t *testing.T) lodge {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	d := New(s, func() when.Instant { return 0 }, false)
	d.checks.hash = func(password string) string { return "as it is: " + password } // what is slow is tested by itself
	d.checks.match = func(stored, password string) bool { return stored == d.checks.hash(password) }
	require.NoError(t, d.SetUp(ctx, Signup{Name: "Solvei", Address: "Solvei@m.example", Password: "long enough", Zone: "Europe/Oslo"}, nil,
		func(store.Tx, Who, store.Person) error { return nil }))
	return lodge{d}
}

func (l lodge) signIn(password, from, known string) (Session, error) {
	return l.SignIn(ctx, Entry{Address: "solvei@m.example", Password: password}, From{Address: from, Known: known})
}

func TestGuessingPasswordsIsSlowedDown(t *testing.T) {
	f := newLodge(t)
	f.checks.match = func(_, password string) bool { return password == "long enough" }
	mine, err := f.signIn("long enough", "10.0.0.1", "")
	require.NoError(t, err)
	require.NotEmpty(t, mine.Known)
	for range freeTries + 1 {
		_, err = f.signIn("wrong", "1.2.3.4", "")
		require.ErrorContains(t, err, "do not belong together")
	}
	_, err = f.signIn("long enough", "1.2.3.4", "")
	require.ErrorContains(t, err, "Too many wrong passwords", "the right one has to wait too")

	// The owner is not locked out by that: not from elsewhere, and in a browser
	// that has signed in before not from the same place, as behind a proxy.
	_, err = f.signIn("long enough", "10.0.0.1", "")
	require.NoError(t, err)
	again, err := f.signIn("long enough", "1.2.3.4", mine.Known)
	require.NoError(t, err)
	require.Empty(t, again.Known, "it is known already")
	_, err = f.signIn("long enough", "1.2.3.4", "made up")
	require.ErrorContains(t, err, "Too many wrong passwords")
	for range freeTries + 1 {
		_, _ = f.signIn("wrong", "1.2.3.4", mine.Known)
	}
	_, err = f.signIn("long enough", "1.2.3.4", mine.Known)
	require.ErrorContains(t, err, "Too many wrong passwords", "such a browser has a count of its own")
}

// Many at once: few passwords are checked at a time, some wait, the others are
// told to; and guesses side by side count like those one after the other.
func TestManySignInsAtOnce(t *testing.T) {
	f := newLodge(t)
	var now, most atomic.Int32
	gate := make(chan struct{})
	f.checks.match = func(_, password string) bool {
		n := now.Add(1)
		for m := most.Load(); n > m && !most.CompareAndSwap(m, n); m = most.Load() {
		}
		<-gate
		now.Add(-1)
		return password == "long enough"
	}
	var wg sync.WaitGroup
	var busy, held, wrong atomic.Int32
	answered := make(chan struct{}, 60)
	sign := func(from string) {
		wg.Go(func() {
			_, err := f.signIn("guess", from, "")
			var user *problem.Error
			switch {
			case errors.As(err, &user) && user.Type == "slow-down" && user.Text[:4] == "Very":
				busy.Add(1)
			case errors.As(err, &user) && user.Type == "slow-down":
				held.Add(1)
			default:
				wrong.Add(1)
			}
			answered <- struct{}{}
		})
	}
	for range 30 {
		sign("1.2.3.4")
	}
	for range 30 - freeTries - 1 { // the others wait for their check
		<-answered
	}
	require.EqualValues(t, 30-freeTries-1, held.Load(), "guesses in parallel are held")
	for i := range 30 { // each from another place
		sign(string(rune('a' + i)))
	}
	for range 30 - (checkedAtOnce + checksWaiting - freeTries - 1) { // these are told at once
		<-answered
	}
	close(gate)
	wg.Wait()
	require.EqualValues(t, checkedAtOnce, most.Load())
	require.EqualValues(t, checkedAtOnce+checksWaiting, wrong.Load())
	require.EqualValues(t, 60-wrong.Load()-held.Load(), busy.Load())
	_, err := f.signIn("long enough", "somewhere else", "")
	require.NoError(t, err)
}

// What is remembered of tries does not grow without end, and the longest ago is
// forgotten first.
func TestTriesAreForgotten(t *testing.T) {
	var g throttle
	at := time.Unix(0, 0)
	for i := range mostKeys + 50 {
		at = at.Add(time.Second)
		require.Zero(t, g.begin(at.String(), at), i)
	}
	require.Len(t, g.tries, mostKeys)
	require.NotNil(t, g.tries[at.String()])
}

// A session lasts until it is ended, and is nobody else's.
func TestSessions(t *testing.T) {
	f := newLodge(t)
	s, err := f.signIn("long enough", "10.0.0.1", "")
	require.NoError(t, err)
	p, csrf, err := f.Session(ctx, s.Token)
	require.NoError(t, err)
	require.Equal(t, "Solvei", p.Name)
	require.Equal(t, s.CSRF, csrf)
	who, csrf, err := f.SignedIn(ctx, s.Token)
	require.NoError(t, err)
	require.Equal(t, Who{Person: p.ID, Box: 1, Week: when.Ordinary("Europe/Oslo"), Admin: true}, who)
	require.Equal(t, s.CSRF, csrf)
	_, _, err = f.SignedIn(ctx, s.Token+"x")
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, f.SignOut(ctx, s.Token))
	_, _, err = f.SignedIn(ctx, s.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, _, err = f.Session(ctx, s.Token)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.SignInDemo(ctx, From{}, "")
	require.ErrorIs(t, err, store.ErrNotFound, "this is no demo")
	id, err := f.Instance(ctx)
	require.NoError(t, err)
	require.Len(t, id, 8)
}

// What is typed at the first start is refused in a sentence that names the field,
// and nobody is set up twice.
func TestSettingUp(t *testing.T) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	defer s.Close()
	d := New(s, func() when.Instant { return 0 }, false)
	then := func(store.Tx, Who, store.Person) error { return nil }
	for field, wrong := range map[string]Signup{"name": {Address: "a@b.example", Password: "long enough"}, "address": {Name: "A", Address: "nobody", Password: "long enough"}, "password": {Name: "A", Address: "a@b.example", Password: "short"}} {
		var user *problem.Error
		require.ErrorAs(t, d.SetUp(ctx, wrong, nil, then), &user)
		require.Equal(t, field, user.Field)
	}
	needs, err := d.NeedsSetup(ctx)
	require.NoError(t, err)
	require.True(t, needs)
	good := Signup{Name: "A", Address: "a@b.example", Password: "long enough", Zone: "nowhere"}
	require.NoError(t, d.SetUp(ctx, good, nil, then))
	require.ErrorContains(t, d.SetUp(ctx, good, nil, then), "already set up")
}
