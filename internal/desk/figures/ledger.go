package figures

import (
	"context"
	"slices"
	"sync"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

// ledgers keeps the answers of boxes whose numbers are looked at, as they were at a revision: they are read
// once, and not with each screen.
type ledgers struct {
	mu    sync.Mutex
	of    map[int64]ledger
	known map[int64]known
}

// known is what has gone back and forth with some addresses at a revision.
type known struct {
	rev int64
	of  map[string]counting.Known // of whom nothing has: the zero value; changed under the lock alone
}

type ledger struct {
	rev  int64
	from when.Instant // since when they are known
	used time.Time
	rows []counting.Answered // in order; never changed
	whom []string            // the addresses of rows, each once
}

// forgotten is how long after it was looked at a ledger is kept up to date, and kept.
const forgotten = 10 * time.Minute

// ledger gives the answers of a box from an instant on, in order, and perhaps earlier ones.
func (d *Desk) ledger(t store.Tx, who identity.Who, from when.Instant) (l ledger, err error) {
	rev, err := counting.Answers(t).Rev(who.Box)
	if err != nil {
		return l, err
	}
	d.kept.mu.Lock()
	l, ok := d.kept.of[who.Box]
	d.kept.mu.Unlock()
	if !ok || l.rev != rev || l.from > from {
		if ok {
			from = min(from, l.from)
		}
		l = ledger{rev: rev, from: from}
		if l.rows, l.whom, err = counting.Answers(t).Since(who.Box, from); err != nil {
			return l, err
		}
	}
	l.used = time.Now()
	d.kept.mu.Lock()
	defer d.kept.mu.Unlock()
	if d.kept.of == nil {
		d.kept.of = map[int64]ledger{}
	}
	for box, other := range d.kept.of {
		if time.Since(other.used) > forgotten {
			delete(d.kept.of, box)
			delete(d.kept.known, box)
		}
	}
	d.kept.of[who.Box] = l
	return l, nil
}

// known says what has gone back and forth with addresses, each of which it reads once as long as it does
// not change.
func (d *Desk) known(t store.Tx, box int64, addresses []string) ([]counting.Known, error) {
	rev, err := counting.Answers(t).KnownRev(box)
	if err != nil {
		return nil, err
	}
	out := make([]counting.Known, len(addresses))
	var missing []string
	var at []int
	d.kept.mu.Lock()
	k := d.kept.known[box]
	for i, a := range addresses {
		one, ok := k.of[a]
		if out[i] = one; !ok || k.rev != rev {
			missing, at = append(missing, a), append(at, i)
		}
	}
	d.kept.mu.Unlock()
	if len(missing) == 0 {
		return out, nil
	}
	found, err := counting.Answers(t).Known(box, missing)
	if err != nil {
		return nil, err
	}
	d.kept.mu.Lock()
	defer d.kept.mu.Unlock()
	if d.kept.known == nil {
		d.kept.known = map[int64]known{}
	}
	if k = d.kept.known[box]; k.rev != rev || k.of == nil {
		k = known{rev, map[string]counting.Known{}}
		d.kept.known[box] = k
	}
	for i, a := range missing {
		out[at[i]] = found[i]
		k.of[a] = found[i]
	}
	return out, nil
}

// refresh reads anew what is looked at and has changed, before it is asked for.
func (d *Desk) refresh(ctx context.Context) error {
	d.kept.mu.Lock()
	looked := map[int64]ledger{}
	for box, l := range d.kept.of {
		if time.Since(l.used) < forgotten {
			looked[box] = l
		}
	}
	d.kept.mu.Unlock()
	for box, l := range looked {
		err := d.store.Read(ctx, func(t store.Tx) error {
			_, err := d.ledger(t, identity.Who{Box: box}, l.from)
			return err
		})
		if err != nil {
			return err
		}
		d.kept.mu.Lock()
		if is, ok := d.kept.of[box]; ok { // nobody has looked
			is.used = l.used
			d.kept.of[box] = is
		}
		d.kept.mu.Unlock()
	}
	return nil
}

// within are those of the answers that are in [from, to), in order.
func (l ledger) within(from, to when.Instant) []counting.Answered {
	at := func(t when.Instant) int {
		i, _ := slices.BinarySearchFunc(l.rows, t, func(a counting.Answered, t when.Instant) int { return int(a.At() - t) })
		return i
	}
	return l.rows[at(from):at(to)]
}
