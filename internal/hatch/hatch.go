// Package hatch is how another program of this machine, such as `ebbe import`, hands mail to the
// one that runs with a folder of data, rather than writing beside it: over a socket in that folder,
// which only whoever owns the folder can open.
package hatch

import (
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/intake"
	"ebbe/internal/post"
)

// Name is what the socket is called in the folder of data.
const Name = "ebbe.hatch"

// ErrClosed says that no program runs that could be handed anything.
var ErrClosed = errors.New("no program is there to be handed mail")

const (
	mostAtOnce = 4 // programs that hand something in
	unsaid     = 5 * time.Minute
)

// Asked is what is to be done with what is handed in.
type Asked struct {
	Box   int64
	Place inbox.Place
}

// handed is a message that is handed in, or that there are no more.
type handed struct {
	Item post.Item
	End  bool
}

// said is how far it has come, and in the end what came of it.
type said struct {
	Tally intake.Tally
	Done  bool
	Error string
}

// Serve takes in what other programs hand in at the hatch of a folder of data, until the context
// ends.
func Serve(ctx context.Context, dir string, in *intake.Intake) error {
	path := filepath.Join(dir, Name)
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) { // of a program that was cut off
		return fmt.Errorf("the hatch of the data folder cannot be opened: %w", err)
	}
	l, err := net.Listen("unix", path)
	if err == nil {
		err = os.Chmod(path, 0o600)
	}
	if err != nil {
		return fmt.Errorf("the hatch of the data folder cannot be opened: %w", err)
	}
	context.AfterFunc(ctx, func() { l.Close() })
	places := make(chan struct{}, mostAtOnce)
	for {
		c, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil {
				return nil
			}
			return err
		}
		go func() {
			defer c.Close()
			select {
			case places <- struct{}{}:
				defer func() { <-places }()
			default:
				_ = gob.NewEncoder(c).Encode(said{Done: true, Error: fmt.Sprintf("%d programs hand in mail already; wait for one of them to be through, and run it again", mostAtOnce)})
				return
			}
			if err := take(ctx, c, in); err != nil && ctx.Err() == nil {
				slog.Warn("mail that was handed in was not taken to its end; what had come is stored", "error", err)
			}
		}()
	}
}

// take takes in what one program hands in.
func take(ctx context.Context, c net.Conn, in *intake.Intake) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	context.AfterFunc(ctx, func() { c.Close() })
	hears, says := gob.NewDecoder(c), gob.NewEncoder(c)
	hear := func(into any) error {
		if err := c.SetReadDeadline(time.Now().Add(unsaid)); err != nil {
			return err
		}
		return hears.Decode(into)
	}
	var a Asked
	if err := hear(&a); err != nil {
		return err
	}
	run := in.Begin(ctx, a.Box, intake.Options{Place: a.Place, Others: intake.Behind, Progress: func(t intake.Tally) {
		_ = says.Encode(said{Tally: t}) // whoever hears nothing has gone, which is found when more is read
	}})
	for {
		var h handed
		err := hear(&h)
		if err == nil && len(h.Item.Raw) > post.MaxMessage {
			err = fmt.Errorf("a message is larger than %d MB; what came before it is stored", post.MaxMessage>>20)
		}
		if err == nil && !h.End {
			err = run.Add(h.Item)
			if err == nil {
				continue
			}
		}
		tally, stored := run.Close()
		out := said{Tally: tally, Done: true}
		if why := errors.Join(err, stored); why != nil {
			out.Error = why.Error()
			_ = says.Encode(out)
			return why
		}
		return says.Encode(out)
	}
}

// Hands hand mail in.
type Hands struct {
	c        net.Conn
	says     *gob.Encoder
	done     chan said
	progress func(intake.Tally)
}

// Open begins to hand mail to the program that runs with a folder of data; progress may be nil.
// ErrClosed: there is none, or one that knows no hatch.
func Open(ctx context.Context, dir string, a Asked, progress func(intake.Tally)) (*Hands, error) {
	var d net.Dialer
	c, err := d.DialContext(ctx, "unix", filepath.Join(dir, Name))
	if err != nil {
		return nil, ErrClosed
	}
	context.AfterFunc(ctx, func() { c.Close() })
	h := &Hands{c: c, says: gob.NewEncoder(c), done: make(chan said, 1), progress: progress}
	go h.hear()
	if err := h.says.Encode(a); err != nil {
		c.Close()
		return nil, ErrClosed
	}
	return h, nil
}

// hear hears how far the other program has come, until it is through.
func (h *Hands) hear() {
	hears := gob.NewDecoder(h.c)
	last := said{Error: "the program that takes it in has ended"}
	for {
		var s said
		if err := hears.Decode(&s); err != nil {
			h.done <- last
			return
		}
		if s.Done {
			h.done <- s
			return
		}
		if last.Tally = s.Tally; h.progress != nil {
			h.progress(s.Tally)
		}
	}
}

// Add hands in one message.
func (h *Hands) Add(m post.Item) error { return h.says.Encode(handed{Item: m}) }

// Close says that this was all, and what came of it.
func (h *Hands) Close() (intake.Tally, error) {
	_ = h.says.Encode(handed{End: true}) // if nobody hears it, that is said below
	s := <-h.done
	h.c.Close()
	if s.Error != "" {
		return s.Tally, errors.New(s.Error)
	}
	return s.Tally, nil
}
