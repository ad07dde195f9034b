// Package leaving gives a person all that is theirs, and removes it when they leave.
package leaving

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/leaving"
)

// Desk is where people leave.
type Desk struct {
	Journal  *journal.Journal
	Calendar *calendars.Desk
	Closed   func() // is told when accounts are used no more
	Left     func() // is told when all of somebody has gone

	store *store.Store
	wake  chan struct{}
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, c *calendars.Desk) *Desk {
	return &Desk{Journal: j, Calendar: c, store: s, wake: make(chan struct{}, 1)}
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
// indexes of words, and the files of the database. It is done in small steps, so that
// nobody else waits, and can be broken off after any of them. It gives when the next one
// leaves; 0: nobody.
func (d *Desk) Remove(ctx context.Context) (next when.Instant, err error) {
	var due []leaving.Owner
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		due, next, err = leaving.Leaving(t).Due(when.Of(time.Now()))
		return err
	})
	if err != nil {
		return next, err
	}
	owed := d.owed()
	for _, o := range due {
		if err := d.store.Write(ctx, func(t store.Tx) error { return leaving.Leaving(t).Begin(o) }); err != nil {
			return next, err
		}
		d.Closed()
		if err := d.owe(); err != nil { // before anything is gone: what lies in the file is remembered
			return next, err
		}
		owed = true
		if err := d.steps(ctx, func(t leaving.Leaving) (bool, error) { return t.Step(o) }); err != nil {
			return next, err
		}
		slog.Info("somebody left, and all that was theirs was removed", "person", o.Person, "box", o.Box)
		d.Left()
	}
	if !owed {
		return next, nil
	}
	return next, d.clear(ctx)
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

// clear has what was deleted be nowhere in the files either.
func (d *Desk) clear(ctx context.Context) error {
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
	if err := d.steps(ctx, leaving.Leaving.Blank); err != nil {
		return err
	}
	if err := d.store.EmptyLog(ctx); err != nil {
		return err
	}
	return os.Remove(d.mark())
}

// mark is a file that lies beside the database for as long as something of somebody who left
// may lie in it.
func (d *Desk) mark() string { return filepath.Join(d.store.Dir(), "ebbe.clearing") }

func (d *Desk) owe() error { return os.WriteFile(d.mark(), nil, 0o600) }

func (d *Desk) owed() bool {
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
