// Package archive reads and writes mail in files: mbox, .eml, Maildir.
package archive

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"ebbe/internal/post"
	"ebbe/internal/post/mime"
)

// Errors about sources. Their texts are sentences for the user.
var (
	ErrNoMail   = errors.New("holds no mail: Ebbe reads mbox files, .eml files and Maildir folders")
	ErrTooLarge = fmt.Errorf("holds a message of more than %d MB, which was left where it is", post.MaxMessage>>20)
)

// Walk hands every message of the file or folder at path to f, one at a time.
// A folder is read as a Maildir if it has cur and new, else file by file. A file
// named .eml is one message, byte for byte, whatever it holds. What
// cannot be read is reported to problem and skipped; f's error ends the walk.
func Walk(path string, f func(post.Item) error, problem func(path string, err error)) error {
	info, err := os.Stat(path)
	if err != nil {
		return fmt.Errorf("%s cannot be opened: %w", path, errors.Unwrap(err))
	}
	if !info.IsDir() {
		return walkFile(path, f)
	}
	found := false
	err = filepath.WalkDir(path, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			problem(p, err)
			return nil
		}
		if d.IsDir() {
			if d.Name() == "tmp" && isMaildir(filepath.Dir(p)) {
				return fs.SkipDir
			}
			return nil
		}
		if !d.Type().IsRegular() || strings.HasPrefix(d.Name(), ".") {
			return nil
		}
		var own errStop
		switch err := walkFile(p, stopping(f)); {
		case errors.As(err, &own):
			return err
		case errors.Is(err, ErrNoMail) && isMaildir(filepath.Dir(p)): // a server's own notes beside cur and new
		case err != nil:
			problem(p, err)
			found = found || !errors.Is(err, ErrNoMail)
		default:
			found = true
		}
		return nil
	})
	var own errStop
	if errors.As(err, &own) {
		return own.error
	}
	if err == nil && !found {
		return fmt.Errorf("%s %w", path, ErrNoMail)
	}
	return err
}

// errStop marks an error of the receiver, as opposed to one of the source.
type errStop struct{ error }

func stopping(f func(post.Item) error) func(post.Item) error {
	return func(i post.Item) error {
		if err := f(i); err != nil {
			return errStop{err}
		}
		return nil
	}
}

func isMaildir(dir string) bool {
	for _, sub := range []string{"cur", "new"} {
		if info, err := os.Stat(filepath.Join(dir, sub)); err != nil || !info.IsDir() {
			return false
		}
	}
	return true
}

func walkFile(path string, f func(post.Item) error) error {
	file, err := os.Open(path)
	if err != nil {
		return fmt.Errorf("%s cannot be opened: %w", path, errors.Unwrap(err))
	}
	defer file.Close()
	r := bufio.NewReaderSize(file, 1<<18)
	start, err := r.Peek(4096)
	if err != nil && err != io.EOF {
		return fmt.Errorf("%s cannot be read: %w", path, err)
	}
	maildir := isMaildir(filepath.Dir(filepath.Dir(path)))
	single := maildir || strings.EqualFold(filepath.Ext(path), ".eml") // one message, whatever it begins with
	if bytes.HasPrefix(start, []byte("From ")) && !single {
		if err := readMbox(r, f); err != nil {
			return wrap(path, err)
		}
		return nil
	}
	if !single && mime.HeaderOf(start) == nil {
		return fmt.Errorf("%s %w", path, ErrNoMail)
	}
	raw, err := io.ReadAll(io.LimitReader(r, post.MaxMessage+1))
	switch {
	case err != nil:
		return fmt.Errorf("%s cannot be read: %w", path, err)
	case len(raw) > post.MaxMessage:
		return fmt.Errorf("%s %w", path, ErrTooLarge)
	}
	item := post.Item{Raw: raw}
	if maildir {
		item.Flags = maildirFlags(path)
	}
	return f(item)
}

func wrap(path string, err error) error {
	if errors.Is(err, ErrTooLarge) {
		return fmt.Errorf("%s %w", path, err)
	}
	return err
}

// maildirFlags reads the info after ":2," in the name of a file in cur.
func maildirFlags(path string) post.Flags {
	fl := post.Flags{Known: true}
	if i := strings.LastIndex(path, ":2,"); i >= 0 {
		info := path[i+3:]
		fl.Seen, fl.Flagged, fl.Trashed = strings.Contains(info, "S"), strings.Contains(info, "F"), strings.Contains(info, "T")
	}
	return fl
}

// readMbox splits an mbox (RFC 4155) into its messages. A message begins at a
// line "From " that follows an empty line or the start of the file; one ">" is
// taken off lines that were quoted so as not to begin one. A message cut off
// by the end of the file is handed on as far as it goes. A message beyond
// MaxMessage is passed over, the rest is read, and ErrTooLarge returned.
func readMbox(r *bufio.Reader, f func(post.Item) error) error {
	var message bytes.Buffer
	blank, inside, tooLarge, skipping := true, false, false, false
	flush := func() error {
		defer func() { message.Reset(); skipping = false }()
		if !inside || skipping {
			return nil
		}
		raw := bytes.Clone(message.Bytes())
		return f(post.Item{Raw: raw, Flags: mboxFlags(raw)})
	}
	start := true // the next piece begins a line
	for {
		piece, err := r.ReadSlice('\n')
		if err != nil && err != io.EOF && err != bufio.ErrBufferFull {
			return fmt.Errorf("the file cannot be read further: %w", err)
		}
		switch {
		case start && blank && bytes.HasPrefix(piece, []byte("From ")):
			// The empty line before it belongs to the mbox, not to the message.
			if n := message.Len(); n > 0 {
				message.Truncate(n - lineEnd(message.Bytes()))
			}
			if err := flush(); err != nil {
				return err
			}
			inside = true
			blank = false
			for err == bufio.ErrBufferFull { // the rest of an overlong From line
				_, err = r.ReadSlice('\n')
			}
		default:
			line := piece
			if start && quotedFrom(line) {
				line = line[1:]
			}
			if message.Len()+len(line) > post.MaxMessage {
				skipping, tooLarge = true, true
				message.Reset()
			}
			if !skipping {
				message.Write(line)
			}
			blank = start && len(bytes.TrimRight(piece, "\r\n")) == 0
		}
		start = err != bufio.ErrBufferFull
		if err == io.EOF {
			if blank && message.Len() > 0 {
				message.Truncate(message.Len() - lineEnd(message.Bytes()))
			}
			if err := flush(); err != nil {
				return err
			}
			if tooLarge {
				return ErrTooLarge
			}
			return nil
		}
	}
}

// lineEnd is the length of the line end at the end of b.
func lineEnd(b []byte) int {
	switch {
	case bytes.HasSuffix(b, []byte("\r\n")):
		return 2
	case bytes.HasSuffix(b, []byte("\n")):
		return 1
	}
	return 0
}

func quotedFrom(line []byte) bool {
	rest := bytes.TrimLeft(line, ">")
	return len(rest) < len(line) && bytes.HasPrefix(rest, []byte("From "))
}

var statusField = regexp.MustCompile(`(?im)^(X-)?Status:[ \t]*([A-Z]*)`)

func mboxFlags(raw []byte) (fl post.Flags) {
	for _, m := range statusField.FindAllSubmatch(mime.HeaderOf(raw), -1) {
		fl.Known = true
		fl.Seen = fl.Seen || len(m[1]) == 0 && bytes.ContainsRune(m[2], 'R')
		fl.Flagged = fl.Flagged || len(m[1]) > 0 && bytes.ContainsRune(m[2], 'F')
		fl.Trashed = fl.Trashed || len(m[1]) > 0 && bytes.ContainsRune(m[2], 'D')
	}
	return fl
}

// WriteMbox appends one message to an mbox, so that reading it back gives the
// same bytes: the separator, the message with quoted From lines, an empty line.
func WriteMbox(w io.Writer, from string, at time.Time, raw []byte) error {
	if from == "" {
		from = "MAILER-DAEMON"
	}
	out := bufio.NewWriter(w)
	fmt.Fprintf(out, "From %s %s\n", strings.ReplaceAll(from, " ", ""), at.UTC().Format("Mon Jan _2 15:04:05 2006"))
	for rest := raw; len(rest) > 0; {
		n := bytes.IndexByte(rest, '\n') + 1
		if n == 0 {
			n = len(rest)
		}
		if line := rest[:n]; bytes.HasPrefix(line, []byte("From ")) || quotedFrom(line) {
			out.WriteByte('>')
		}
		out.Write(rest[:n])
		rest = rest[n:]
	}
	if !bytes.HasSuffix(raw, []byte("\n")) {
		out.WriteByte('\n')
	}
	out.WriteByte('\n')
	return out.Flush()
}
