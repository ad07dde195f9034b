// Package leaving gives a person all that is theirs, and removes it when they leave.
package leaving

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/leaving"
	"ebbe/internal/store/membership"
)

// Desk is where people leave.
type Desk struct {
	Calendar *calendars.Desk
	Closed   func() // is told when accounts are used no more
	Left     func() // is told when all of somebody has gone

	people identity.Departure
	store  *store.Store
	wake   chan struct{}
}

// New makes a desk over a store.
func New(s *store.Store, c *calendars.Desk, people *identity.Directory) *Desk {
	return &Desk{Calendar: c, store: s, people: identity.Departure{Directory: people}, wake: make(chan struct{}, 1)}
}

// Leave has a person who shows their password leave in some days (0: now).
func (d *Desk) Leave(ctx context.Context, who identity.Who, password string, days int) error {
	defer d.Stir()
	return d.people.Leave(ctx, who, password, days)
}

// Stay has a person not leave after all.
func (d *Desk) Stay(ctx context.Context, who identity.Who) error { return d.people.Stay(ctx, who) }

// Send has whoever looks after the people send somebody away in some days (0: now), and says
// which copies of everything still hold them.
func (d *Desk) Send(ctx context.Context, who identity.Who, person int64, days int) (said string, err error) {
	defer d.Stir()
	p, err := d.people.Send(ctx, who, person, days)
	if err != nil {
		return "", err
	}
	said = p.Name + " leaves now, and all that was theirs is removed."
	if days > 0 {
		said = fmt.Sprintf("%s leaves on %s, and can take what is theirs until then.", p.Name, p.Leaves.In(who.Week.Location()).Format("2 January 2006, 15:04"))
	}
	copies, err := d.StillIn(ctx, p.Created)
	if err != nil || len(copies) == 0 {
		return said, err
	}
	return said + " Copies from before still hold it: " + strings.Join(copies, ", ") + ".", nil
}

// Keep has whoever looks after the people let somebody stay after all.
func (d *Desk) Keep(ctx context.Context, who identity.Who, person int64) error {
	return d.people.Keep(ctx, who, person)
}

// Stir has it looked who leaves.
func (d *Desk) Stir() {
	select {
	case d.wake <- struct{}{}:
	default:
	}
}

const (
	again   = time.Minute // after which is tried again what could not be done
	breath  = time.Millisecond
	longest = 24 * time.Hour // that is waited without looking
)

// Run removes, until the context ends, whoever leaves when the time has come. What was
// broken off is gone on with.
func (d *Desk) Run(ctx context.Context) {
	for {
		wait := longest
		next, err := d.Remove(ctx)
		switch {
		case ctx.Err() != nil:
			return
		case err != nil:
			slog.Error("somebody who left could not be removed; that is tried again", "error", err)
			wait = again
		case next > 0:
			wait = min(wait, time.Until(next.Time())+time.Millisecond)
		}
		select {
		case <-ctx.Done():
			return
		case <-d.wake:
		case <-time.After(wait):
		}
	}
}

// Remove removes all who have left by now, with all that is theirs: from the tables, the
// indexes of words, and the files of the database, from those of a large one when the
// program is started next. It is done in small steps, so that nobody else waits, and can be
// broken off after any of them. It gives when the next one leaves; 0: nobody.
func (d *Desk) Remove(ctx context.Context) (next when.Instant, err error) {
	var failed error    // one who cannot be removed keeps nobody else
	for failed == nil { // with the last of a team the team leaves
		var due []leaving.Owner
		err = d.store.Read(ctx, func(t store.Tx) (err error) {
			due, next, err = leaving.Leaving(t).Due(when.Of(time.Now()))
			return err
		})
		if err != nil || len(due) == 0 {
			break
		}
		for _, o := range due {
			if err := d.remove(ctx, o); err != nil {
				failed = errors.Join(failed, fmt.Errorf("person %d: %w", o.Person, err))
			}
		}
	}
	if err != nil {
		return next, err
	}
	if failed != nil || !d.Owed() {
		return next, failed
	}
	if err := d.merge(ctx); err != nil || d.store.Size() > soon {
		return next, err
	}
	return next, d.Clear(ctx)
}

// remove removes one who has left.
func (d *Desk) remove(ctx context.Context, o leaving.Owner) error {
	if err := d.store.Write(ctx, func(t store.Tx) error {
		if err := membership.Membership(t).Depart(o.Person, when.Of(time.Now())); err != nil {
			return err
		}
		return leaving.Leaving(t).Begin(o)
	}); err != nil {
		return err
	}
	d.Closed()
	if err := d.owe(); err != nil { // before anything is gone: what lies in the file is remembered
		return err
	}
	if err := d.steps(ctx, func(t leaving.Leaving) (bool, error) { return t.Step(o) }); err != nil {
		return err
	}
	slog.Info("somebody left, and all that was theirs was removed", "person", o.Person, "box", o.Box)
	d.Left()
	return nil
}

// steps takes a step after the other, with a breath between them in which others write.
func (d *Desk) steps(ctx context.Context, step func(leaving.Leaving) (more bool, err error)) error {
	for more := true; more; {
		err := d.store.Write(ctx, func(t store.Tx) (err error) {
			more, err = step(leaving.Leaving(t))
			return err
		})
		if err != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(breath):
		}
	}
	return nil
}

// merge writes the indexes of words anew without what was deleted.
func (d *Desk) merge(ctx context.Context) error {
	for _, index := range leaving.Indexes {
		first := true
		err := d.steps(ctx, func(t leaving.Leaving) (more bool, err error) {
			more, err = t.Merge(index, first)
			first = false
			return more, err
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// soon is up to which size of the database, in bytes, it is written anew while people work;
// a larger one is when the program is started next.
const soon = 64 << 20

// Clear has nothing of those who left be in the files either. Nobody can work meanwhile; with
// nobody gone since it was done last it does nothing.
func (d *Desk) Clear(ctx context.Context) error {
	if !d.Owed() {
		return nil
	}
	var due []leaving.Owner
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		due, _, err = leaving.Leaving(t).Due(when.Of(time.Now()))
		return err
	})
	if err != nil || len(due) > 0 { // theirs is still in the tables
		return err
	}
	if err := d.merge(ctx); err != nil { // where that was broken off
		return err
	}
	if err := d.store.WriteAnew(ctx); err != nil {
		return err
	}
	return os.Remove(d.mark())
}

// mark is a file that lies beside the database for as long as something of somebody who left
// may lie in it.
func (d *Desk) mark() string { return filepath.Join(d.store.Dir(), "ebbe.clearing") }

func (d *Desk) owe() error { return os.WriteFile(d.mark(), nil, 0o600) }

// Owed says that something of somebody who left may still lie in the files.
func (d *Desk) Owed() bool {
	_, err := os.Stat(d.mark())
	return err == nil
}

// StillIn names the copies of everything in which somebody still is who has been here since:
// those that were written by the backup command, as far as they are known, and those from
// before an update.
func (d *Desk) StillIn(ctx context.Context, since when.Instant) (copies []string, err error) {
	var known []leaving.Backup
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		known, err = leaving.Leaving(t).Backups(since)
		return err
	})
	if err != nil {
		return nil, err
	}
	for _, b := range known {
		if _, err := os.Stat(b.Path); errors.Is(err, os.ErrNotExist) {
			if _, err := os.Stat(filepath.Dir(b.Path)); err == nil {
				continue // it was removed; where the folder is not to be seen either, it may lie elsewhere
			}
		}
		copies = append(copies, fmt.Sprintf("%s (%s)", b.Path, b.At.Time().Local().Format("2 January 2006")))
	}
	kept, _ := filepath.Glob(filepath.Join(d.store.Dir(), store.Before)) // the pattern is right
	return append(copies, kept...), nil
}

// NoteBackup notes that a copy of everything was written to a file.
func (d *Desk) NoteBackup(ctx context.Context, path string) error {
	path, err := filepath.Abs(path)
	if err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		return leaving.Leaving(t).NoteBackup(leaving.Backup{Path: path, At: when.Of(time.Now())})
	})
}
