package runner

import (
	"context"
	"errors"
	"slices"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

var ctx = context.Background()

// hand runs an agenda by a fake clock, and notes what happened.
type hand struct {
	*Runner
	t      *testing.T
	mu     sync.Mutex
	did    []string
	at     []time.Duration // after the beginning
	begin  time.Time
	breaks map[string]error // by what would happen
	rests  bool
	looks  int // at the agenda
}

func (h *hand) what(box int64, kind inbox.Kind) string {
	return string(kind) + " " + string('0'+rune(box))
}

func (h *hand) kind(name inbox.Kind, drop bool) {
	h.Register(name, Kind{Name: func(store.Tx, store.Thing) string { return "the " + string(name) }, Run: func(b *Box, things []store.Thing) error {
		h.mu.Lock()
		defer h.mu.Unlock()
		for _, th := range things {
			if err := h.breaks[h.what(b.ID, th.Kind)]; err != nil {
				return err
			}
			if drop {
				if err := store.Agenda(b.T).DropThing(th.ID); err != nil {
					return err
				}
			}
		}
		for _, th := range things { // a real one is only done if the transaction is
			h.did = append(h.did, h.what(b.ID, th.Kind))
			h.at = append(h.at, time.Since(h.begin))
		}
		b.Notices = append(b.Notices, journal.Notice{Text: "did " + string(things[0].Kind)})
		return nil
	}})
}

func (h *hand) put(box int64, kind inbox.Kind, after time.Duration) {
	h.t.Helper()
	require.NoError(h.t, h.store.Write(ctx, func(t store.Tx) error { return store.Agenda(t).SetTime(box, kind, when.Of(h.begin.Add(after))) }))
	h.Stir()
}

func (h *hand) done() []string {
	h.mu.Lock()
	defer h.mu.Unlock()
	return slices.Clone(h.did)
}

func (h *hand) set(f func()) {
	h.mu.Lock()
	defer h.mu.Unlock()
	f()
}

// running runs the agenda while f goes on; nothing is left of it at the end.
func running(t *testing.T, f func(h *hand, told func() []string)) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	synctest.Test(t, func(t *testing.T) {
		h := &hand{t: t, begin: time.Now(), breaks: map[string]error{}}
		h.Runner = New(s, journal.New(s, &journal.SystemClock{}), func() bool { h.mu.Lock(); defer h.mu.Unlock(); h.looks++; return h.rests })
		for _, kind := range []inbox.Kind{"a", "b", "c"} {
			h.kind(kind, true)
		}
		h.kind("stays", false)
		run, stop := context.WithCancel(ctx)
		events := h.journal.Subscribe(run, 1, 1)
		told := func() (out []string) {
			for {
				select {
				case e := <-events:
					if e.Text != "" {
						out = append(out, e.Text)
					}
				default:
					return out
				}
			}
		}
		over := make(chan struct{})
		go func() { h.Run(run); close(over) }()
		synctest.Wait() // it has looked once, and waits
		f(h, told)
		stop()
		<-over
	})
}

func pass(d time.Duration) {
	time.Sleep(d)
	synctest.Wait()
}

// Each thing happens once, at its time, and what is due at once in its order.
func TestEachThingHappensOnceAtItsTime(t *testing.T) {
	running(t, func(h *hand, _ func() []string) {
		t := h.t
		h.put(1, "b", 90*time.Second)
		h.put(1, "a", 100*time.Second)
		h.put(2, "c", 40*time.Second)
		pass(30 * time.Second)
		require.Empty(t, h.done())
		pass(time.Hour)
		require.Equal(t, []string{"c 2", "b 1", "a 1"}, h.done())
		require.Equal(t, []time.Duration{40 * time.Second, 90 * time.Second, 100 * time.Second}, h.at)
		h.set(func() { h.rests = true }) // as while the program was off
		h.put(1, "b", -2*time.Hour)
		h.put(1, "a", -3*time.Hour)
		h.set(func() { h.rests = false })
		pass(time.Minute)
		require.Equal(t, []string{"a 1", "b 1"}, h.done()[3:])
	})
}

// A thing that fails keeps neither the others of its box nor other boxes; its
// user is told once, by its name, and it is tried again with growing waits.
func TestAThingThatFailsStopsNothingElse(t *testing.T) {
	running(t, func(h *hand, told func() []string) {
		t := h.t
		h.set(func() { h.breaks["a 1"] = errors.New("unreadable") })
		h.put(1, "a", 0)
		h.put(1, "b", 0)
		h.put(1, "c", time.Minute)
		h.put(2, "a", time.Minute)
		pass(2 * time.Minute)
		require.ElementsMatch(t, []string{"b 1", "a 2", "c 1"}, h.done())
		pass(3 * time.Hour)
		notices := told()
		require.Equal(t, 1, count(notices, "Ebbe could not bring you the a: something is wrong inside. Nothing is lost; it is tried again by itself."))
		h.set(func() { delete(h.breaks, "a 1") })
		pass(13 * time.Minute)
		require.Equal(t, "a 1", h.done()[3])
		require.Zero(t, h.things.Len())
	})
}

func count(all []string, one string) (n int) {
	for _, s := range all {
		if s == one {
			n++
		}
	}
	return n
}

// What would happen again and again, as it does not leave the agenda, is held
// back like what fails, and changes nothing.
func TestAThingThatDoesNotLeaveTheAgenda(t *testing.T) {
	running(t, func(h *hand, _ func() []string) {
		t := h.t
		h.put(1, "stays", 0)
		h.put(1, "b", 0)
		pass(time.Hour)
		require.Less(t, count(h.done(), "stays 1"), 40)
		require.Equal(t, 1, h.things.Len())
		require.Contains(t, h.done(), "b 1")
	})
}

// While Ebbe rests nothing happens, and what a later version of Ebbe put on the
// agenda is taken off.
func TestNothingHappensWhileItRests(t *testing.T) {
	running(t, func(h *hand, _ func() []string) {
		t := h.t
		h.set(func() { h.rests = true })
		h.put(1, "a", 0)
		h.put(1, "unknown", 0)
		pass(time.Hour)
		require.Empty(t, h.done())
		h.set(func() { h.rests = false })
		pass(time.Minute)
		require.Equal(t, []string{"a 1"}, h.done())
		next, err := h.Next(ctx)
		require.NoError(t, err)
		require.Zero(t, next)
		require.NoError(t, h.CatchUp(ctx))
	})
}

// A thing that has failed and is then taken off the agenda leaves nothing behind:
// the agenda is looked at no more often than if it had never been.
func TestAThingThatFailedAndIsTakenOff(t *testing.T) {
	running(t, func(h *hand, _ func() []string) {
		t := h.t
		h.set(func() { h.breaks["a 1"] = errors.New("unreadable") })
		h.put(1, "a", 0)
		pass(time.Minute)
		require.NoError(t, h.store.Write(ctx, func(t store.Tx) error { return store.Agenda(t).SetTime(1, "a", 0) }))
		h.set(func() { h.looks = 0 })
		pass(time.Hour)
		h.mu.Lock()
		defer h.mu.Unlock()
		require.Less(t, h.looks, 150)
		require.Zero(t, h.things.Len())
	})
}
