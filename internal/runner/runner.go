// Package runner executes the agenda: whatever has a time happens when it comes,
// each thing exactly once, in its order within its box, also after the program
// was off. What a thing does, its kind's handler knows, which is registered.
//
// Each box is worked off by itself, and so is each thing that fails: it is
// logged, told to its user, and tried again with growing waits; the rest goes on.
package runner

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"ebbe/internal/backoff"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Kind is what the runner has to know of a kind of things.
type Kind struct {
	// Run lets things of the kind happen, which are due and given in their order,
	// in the transaction of b, and takes them off the agenda.
	Run func(b *Box, things []store.Thing) error
	// Name says in a sentence what the user does not get when a thing fails, as in
	// "the return of “Crates”".
	Name func(t store.Tx, th store.Thing) string
}

// Box is a box in which things happen, and what comes of it.
type Box struct {
	T      store.Tx
	ID     int64
	Person store.Person // whose box it is; the zero Person if nobody has set it up
	Now    when.Instant
	Late   when.Instant // the last instant given to what came back late

	Changes []inbox.Change   // made by what happened
	Notices []journal.Notice // that the user is to hear
	Topics  []string         // besides those of the changes
}

// Runner executes the agenda of all boxes.
type Runner struct {
	store   *store.Store
	journal *journal.Journal
	resting func() bool // nothing happens yet
	kinds   map[inbox.Kind]Kind
	wake    chan struct{}
	boxes   backoff.Waits[int64] // boxes that could not be worked off
	things  backoff.Waits[int64] // things that fail, by ID
}

// New is a runner that knows no kinds yet; resting says that nothing is to happen.
func New(s *store.Store, j *journal.Journal, resting func() bool) *Runner {
	const first, last = 2 * time.Second, 10 * time.Minute
	return &Runner{store: s, journal: j, resting: resting, kinds: map[inbox.Kind]Kind{}, wake: make(chan struct{}, 1),
		boxes: backoff.Waits[int64]{First: first, Last: last}, things: backoff.Waits[int64]{First: first, Last: last}}
}

// Register tells the runner of a kind.
func (r *Runner) Register(name inbox.Kind, k Kind) { r.kinds[name] = k }

// Stir has the agenda looked at: something may have been put on it.
func (r *Runner) Stir() {
	select {
	case r.wake <- struct{}{}:
	default:
	}
}

const (
	atOnce       = 500              // things in one transaction
	longestSleep = 30 * time.Second // so that a machine that slept is noticed
)

// Run executes the agenda until the context ends.
func (r *Runner) Run(ctx context.Context) {
	for ctx.Err() == nil {
		if err := r.CatchUp(ctx); err != nil && ctx.Err() == nil {
			slog.Error("the agenda could not be worked off whole, trying again", "error", err)
		}
		timer := time.NewTimer(r.sleep(ctx))
		select {
		case <-ctx.Done():
		case <-timer.C:
		case <-r.wake:
		}
		timer.Stop()
	}
}

// sleep is for how long there is nothing to do.
func (r *Runner) sleep(ctx context.Context) time.Duration {
	wait, now := longestSleep, r.journal.Time()
	if at, err := r.Next(ctx); err == nil && at != 0 {
		wait = min(wait, at.Time().Sub(now))
	}
	for _, next := range []time.Time{r.boxes.Next(time.Now()), r.things.Next(time.Now())} {
		if !next.IsZero() {
			wait = min(wait, time.Until(next))
		}
	}
	return max(wait, time.Millisecond)
}

// Next is when, after now, the next thing is to happen in any box; 0 if nothing is.
func (r *Runner) Next(ctx context.Context) (at when.Instant, err error) {
	err = r.store.Read(ctx, func(t store.Tx) error {
		at, err = store.Agenda(t).NextThing(r.journal.Now())
		return err
	})
	return at, err
}

// CatchUp lets all happen that has to have happened by now. The errors are those
// of what could not; everything else has.
func (r *Runner) CatchUp(ctx context.Context) error {
	if r.resting() {
		return nil
	}
	now := r.journal.Now()
	var due []int64
	err := r.store.Read(ctx, func(t store.Tx) (err error) { due, err = store.Agenda(t).BoxesDue(now); return err })
	for _, box := range due {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if !r.boxes.Ready(box, time.Now()) {
			continue
		}
		berr := r.box(ctx, box, now)
		if berr != nil && ctx.Err() == nil {
			next, _ := r.boxes.Failed(box, time.Now())
			slog.Error("the agenda of a box could not be worked off, trying again", "box", box, "next", next, "error", berr)
		} else {
			r.boxes.Worked(box)
		}
		err = errors.Join(err, berr)
	}
	return err
}

// box lets happen what is due in a box, many things in one transaction. If that
// fails, each is tried by itself.
func (r *Runner) box(ctx context.Context, box int64, now when.Instant) error {
	late := when.Instant(0)
	for {
		var things []store.Thing
		err := r.store.Read(ctx, func(t store.Tx) (err error) {
			things, err = store.Agenda(t).Due(box, now, atOnce+r.things.Len())
			return err
		})
		if err != nil {
			return err
		}
		things = slices.DeleteFunc(things, func(th store.Thing) bool { return !r.things.Ready(th.ID, time.Now()) })
		if len(things) == 0 {
			return nil
		}
		things = things[:min(len(things), atOnce)]
		if err = r.happen(ctx, box, now, things, &late); err == nil {
			for _, th := range things {
				r.things.Worked(th.ID)
			}
			continue
		}
		for _, th := range things {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			if err := r.happen(ctx, box, now, []store.Thing{th}, &late); err != nil {
				r.failed(ctx, th, err)
			} else {
				r.things.Worked(th.ID)
			}
		}
	}
}

// failed notes that a thing could not happen, and tells its user when that is new.
func (r *Runner) failed(ctx context.Context, th store.Thing, err error) {
	next, first := r.things.Failed(th.ID, time.Now())
	slog.Error("a thing of the agenda could not happen, trying again", "box", th.BoxID, "kind", th.Kind, "thing", th.ID, "next", next, "error", err)
	if !first {
		return
	}
	name := "something that was due"
	_ = r.store.Read(ctx, func(t store.Tx) error { // without its name it is told all the same
		if k := r.kinds[th.Kind]; k.Name != nil {
			name = k.Name(t, th)
		}
		return nil
	})
	r.journal.Announce(th.BoxID, journal.Event{Notice: journal.Notice{Text: fmt.Sprintf("Ebbe could not bring you %s: something is wrong inside. Nothing is lost; it is tried again by itself.", name)}})
}

// happen lets things of a box happen, all in one transaction, and tells of it.
func (r *Runner) happen(ctx context.Context, box int64, now when.Instant, things []store.Thing, late *when.Instant) error {
	var b *Box
	err := r.store.Write(ctx, func(t store.Tx) error {
		b = &Box{T: t, ID: box, Now: now, Late: *late}
		person, err := store.People(t).Keeper(box)
		if err != nil {
			return err
		}
		if person != 0 {
			if b.Person, err = store.People(t).PersonByID(person); err != nil {
				return err
			}
		}
		for rest := things; len(rest) > 0; {
			n := 1 // as many of a kind as come one after the other
			for n < len(rest) && rest[n].Kind == rest[0].Kind {
				n++
			}
			if err := r.run(b, rest[:n]); err != nil {
				return err
			}
			rest = rest[n:]
		}
		left, err := store.Agenda(t).LeftOf(things)
		if err == nil && left > 0 { // it would happen again and again
			err = fmt.Errorf("%d of %d things did not leave the agenda", left, len(things))
		}
		return err
	})
	if err != nil {
		return err
	}
	*late = b.Late
	if len(b.Changes) > 0 {
		r.journal.Tell(box, "", b.Changes)
	}
	if len(b.Topics) > 0 {
		r.journal.Announce(box, journal.Event{Topics: b.Topics})
	}
	r.journal.Notify(box, b.Notices)
	return nil
}

// run lets things of one kind happen.
func (r *Runner) run(b *Box, things []store.Thing) error {
	if k, ok := r.kinds[things[0].Kind]; ok {
		return k.Run(b, things)
	}
	for _, th := range things { // of a kind that this program does not know
		if err := store.Agenda(b.T).DropThing(th.ID); err != nil {
			return err
		}
	}
	return nil
}
