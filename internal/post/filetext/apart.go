package filetext

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"runtime/debug"
	"sync"
	"syscall"
	"time"
)

// Limits of a process that reads files.
const (
	TimeOfFile = 20 * time.Second // for one file
	memory     = 512 << 20        // bytes that it should not need
	most       = 3 << 30          // bytes that it does not get, of addresses
	filesEach  = 500              // after which another process goes on
	seconds    = 1200             // of a processor, in all: it ends with its program, whatever it is at
)

// ErrTooLong says that a file was given up.
var ErrTooLong = errors.New("took too long to read, or too much memory")

// ErrNoReader says that there is no process that could read: it says nothing of the file.
var ErrNoReader = errors.New("files cannot be read now")

// Apart reads files in a process of its own, one after the other. One that takes too long,
// needs too much or breaks the process is given up; the next gets another process.
type Apart struct {
	program []string

	mu    sync.Mutex
	child *child
}

type child struct {
	cmd   *exec.Cmd
	in    io.WriteCloser
	out   *bufio.Reader
	files int
}

// NewApart reads files by that program with its arguments, which has to call Serve.
func NewApart(program ...string) *Apart { return &Apart{program: program} }

type question struct {
	Name, Kind string
	Size       int // bytes that follow the line
}

type answer struct {
	Text    string
	Problem string `json:",omitempty"`
}

// Read is Read of this package, apart. Besides its errors it returns ErrTooLong, ErrNoReader,
// and the error of ctx.
func (a *Apart) Read(ctx context.Context, name, kind string, content []byte) (string, error) {
	if len(content) > MaxFile {
		return "", ErrLarge
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.child != nil && a.child.files >= filesEach {
		a.end()
	}
	if a.child == nil {
		if err := a.begin(); err != nil {
			return "", fmt.Errorf("%w: %w", ErrNoReader, err)
		}
	}
	c := a.child
	c.files++
	ctx, stop := context.WithTimeout(ctx, TimeOfFile)
	defer stop()
	done := make(chan error, 1)
	var got answer
	go func() {
		line, _ := json.Marshal(question{name, kind, len(content)}) // strings and a number always can be
		_, err := c.in.Write(append(line, '\n'))
		if err == nil {
			_, err = c.in.Write(content)
		}
		if err == nil {
			err = json.NewDecoder(io.LimitReader(&oneLine{c.out}, 8*MaxText)).Decode(&got)
		}
		done <- err
	}()
	var err error
	select {
	case err = <-done:
	case <-ctx.Done():
		a.end()
		<-done
		if err := context.Cause(ctx); !errors.Is(err, context.DeadlineExceeded) {
			return "", err
		}
		return "", ErrTooLong
	}
	if err != nil { // it has ended in the middle
		a.end()
		return "", ErrTooLong
	}
	for _, e := range []error{ErrUnknown, ErrLarge, ErrLocked} {
		if got.Problem == e.Error() {
			return "", e
		}
	}
	if got.Problem != "" {
		return "", fmt.Errorf("%w (%s)", ErrBroken, got.Problem)
	}
	return got.Text, nil
}

// oneLine reads to the end of a line and no further.
type oneLine struct{ r *bufio.Reader }

func (l *oneLine) Read(p []byte) (int, error) {
	if len(p) == 0 {
		return 0, nil
	}
	b, err := l.r.ReadByte()
	if err != nil {
		return 0, err
	}
	p[0] = b
	n := 1
	for n < len(p) && b != '\n' && l.r.Buffered() > 0 {
		if b, err = l.r.ReadByte(); err != nil {
			return n, err
		}
		p[n] = b
		n++
	}
	return n, nil
}

func (a *Apart) begin() error {
	cmd := exec.Command(a.program[0], a.program[1:]...)
	cmd.Env = []string{} // it gets nothing that it could give away
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	a.child = &child{cmd: cmd, in: in, out: bufio.NewReaderSize(out, 1<<16)}
	return nil
}

func (a *Apart) end() {
	if a.child == nil {
		return
	}
	_ = a.child.cmd.Process.Kill()
	_ = a.child.in.Close()
	_ = a.child.cmd.Wait()
	a.child = nil
}

// Close ends the process, if there is one.
func (a *Apart) Close() {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.end()
}

// Serve reads the files that come in and writes their texts, until there are no more. It
// gives up most of what the process could do besides.
func Serve(in io.Reader, out io.Writer) error {
	debug.SetMemoryLimit(memory)
	_ = syscall.Setrlimit(syscall.RLIMIT_AS, &syscall.Rlimit{Cur: most, Max: most})
	_ = syscall.Setrlimit(syscall.RLIMIT_CPU, &syscall.Rlimit{Cur: seconds, Max: seconds})
	_ = syscall.Setrlimit(syscall.RLIMIT_NOFILE, &syscall.Rlimit{Cur: 16, Max: 16}) // it opens nothing
	_ = syscall.Setrlimit(syscall.RLIMIT_FSIZE, &syscall.Rlimit{})                  // and writes no file
	r := bufio.NewReaderSize(in, 1<<16)
	for {
		line, err := r.ReadBytes('\n')
		if errors.Is(err, io.EOF) {
			return nil
		}
		var q question
		if err == nil {
			err = json.Unmarshal(line, &q)
		}
		if err == nil && (q.Size < 0 || q.Size > MaxFile) {
			err = ErrLarge
		}
		if err != nil {
			return err
		}
		content := make([]byte, q.Size)
		if _, err := io.ReadFull(r, content); err != nil {
			return err
		}
		var a answer
		if a.Text, err = Read(q.Name, q.Kind, content); err != nil {
			a.Problem, a.Text = err.Error(), ""
		}
		raw, err := json.Marshal(a)
		if err != nil {
			return err
		}
		if _, err := out.Write(append(raw, '\n')); err != nil {
			return err
		}
	}
}
