package imap

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"
)

// What a mailbox server may send. Each limit is far beyond what a server in
// order does, and keeps one that is not from filling memory or from never ending.
const (
	maxReply   = 4 << 20  // bytes of a reply, messages and lists of UIDs aside
	maxLineIn  = 8 << 20  // bytes of a line: a million UIDs
	maxWord    = 64 << 10 // bytes of a line that lists no UIDs
	maxUIDs    = 2_000_000
	maxFolders = 2_000
	maxLists   = 1_000 // lines that list UIDs; a server in order sends one
	maxName    = 1_000 // bytes of the name of a folder
	slowest    = 2_000 // bytes a second, on the average of a whole reply
)

// guard stands between a line and the client that reads it, and looks at each
// line of the protocol (RFC 9051, section 2.2) before the client does: it holds
// the server to its limits, reads the lists of UIDs itself, and leaves out what
// the client could not read.
type guard struct {
	net.Conn
	pass    []byte // what may be read on
	line    []byte // of the line that is coming in
	literal int64  // bytes of a literal that are still to come
	keep    bool   // the literal belongs to the line that is coming in
	folders int

	mu      sync.Mutex // guards what follows, which the user of the line sets
	got     int64      // bytes since the reply began
	most    int64      // it may have
	largest int64      // bytes of a literal
	begun   time.Time
	within  time.Duration // what a reply may take beside its size
	uids    []uint32
	lists   int   // of UIDs
	unread  int   // folders left out as their names cannot be read
	err     error // what the server did wrong, in a sentence
}

// begin begins a reply: of so many bytes at most, with no literal larger than
// that.
func (g *guard) begin(most, largest int64, within time.Duration) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.got, g.most, g.largest, g.begun, g.within = 0, most, largest, time.Now(), within
	g.uids, g.unread, g.lists = nil, 0, 0
}

// wrong is what the server did wrong; nil if nothing.
func (g *guard) wrong() error {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.err
}

// found gives the UIDs that the reply listed.
func (g *guard) found() []uint32 {
	g.mu.Lock()
	defer g.mu.Unlock()
	out := slices.Clone(g.uids)
	slices.Sort(out)
	return slices.Compact(out)
}

// Excess says that a server does what no server may, in a sentence for the user.
type Excess struct{ Text string }

func (e *Excess) Error() string { return e.Text }

func (g *guard) fail(format string, args ...any) error {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.err == nil {
		g.err = &Excess{fmt.Sprintf(format, args...)}
	}
	_ = g.Conn.Close()
	return g.err
}

func (g *guard) Read(into []byte) (int, error) {
	buf := make([]byte, 16<<10)
	for len(g.pass) == 0 {
		n, err := g.Conn.Read(buf)
		if n > 0 {
			if e := g.look(buf[:n]); e != nil {
				return 0, e
			}
		}
		if err != nil {
			if len(g.pass) > 0 {
				break
			}
			return 0, err
		}
	}
	n := copy(into, g.pass)
	g.pass = g.pass[n:]
	return n, nil
}

// look takes in what has come.
func (g *guard) look(b []byte) error {
	g.mu.Lock()
	g.got += int64(len(b))
	got, most, began, within := g.got, g.most, g.begun, g.within
	g.mu.Unlock()
	switch took := time.Since(began); {
	case most > 0 && got > most:
		return g.fail("It sends more than was asked for, without end.")
	case within > 0 && took > within && float64(got) < slowest*(took-within).Seconds():
		return g.fail("It answers so slowly that nothing comes of it.")
	}
	for len(b) > 0 {
		if g.literal > 0 {
			n := int(min(g.literal, int64(len(b))))
			if g.keep {
				g.line = append(g.line, b[:n]...)
			} else {
				g.pass = append(g.pass, b[:n]...)
			}
			g.literal -= int64(n)
			b = b[n:]
			continue
		}
		n := bytes.IndexByte(b, '\n') + 1
		if n == 0 {
			n = len(b)
		}
		g.line = append(g.line, b[:n]...)
		whole := b[n-1] == '\n'
		b = b[n:]
		lists := bytes.HasPrefix(g.line, []byte("* SEARCH")) || bytes.HasPrefix(g.line, []byte("* ESEARCH"))
		if len(g.line) > maxLineIn || len(g.line) > maxWord && !lists {
			return g.fail("It sends a line that has no end.")
		}
		if whole {
			if err := g.complete(); err != nil {
				return err
			}
		}
	}
	return nil
}

// complete takes a whole line, or one up to a literal.
func (g *guard) complete() error {
	text := bytes.TrimRight(g.line, "\r\n")
	size, literal := literalAt(text)
	named := bytes.HasPrefix(text, []byte("* LIST")) || bytes.HasPrefix(text, []byte("* LSUB"))
	if literal {
		g.mu.Lock()
		largest := g.largest
		g.mu.Unlock()
		if size > max(largest, maxWord) || named && size > maxName {
			return g.fail("It announces a piece of %d MB where none of that size can be.", size>>20)
		}
		g.literal, g.keep = size, named
		if !named {
			g.on(g.line)
		}
		return nil
	}
	switch {
	case named:
		if g.folders++; g.folders > maxFolders {
			return g.fail("It lists more than %d folders.", maxFolders)
		}
		if !readable(text) {
			g.mu.Lock()
			g.unread++
			g.mu.Unlock()
			g.on([]byte("* OK left out\r\n"))
			return nil
		}
	case bytes.HasPrefix(text, []byte("* SEARCH")), bytes.HasPrefix(text, []byte("* ESEARCH")):
		return g.search(text)
	}
	g.on(g.line)
	return nil
}

// on lets the client read a line.
func (g *guard) on(line []byte) {
	g.pass = append(g.pass, line...)
	g.line = g.line[:0]
}

// literalAt says whether a line ends with the beginning of a literal (RFC 9051,
// section 4.3), and of which size.
func literalAt(line []byte) (size int64, ok bool) {
	open := bytes.LastIndexByte(line, '{')
	if open < 0 || !bytes.HasSuffix(line, []byte("}")) {
		return 0, false
	}
	digits := strings.TrimSuffix(string(line[open+1:len(line)-1]), "+")
	if digits == "" || strings.Trim(digits, "0123456789") != "" {
		return 0, false
	}
	size, err := strconv.ParseInt(digits, 10, 64)
	if err != nil {
		return 1 << 62, true
	}
	return size, true
}

// search reads a list of UIDs, as single numbers or as ranges (RFC 4731), and
// lets the client go on with an empty one. Each UID is noted once, and a list of
// more than any folder has is an error before it is spread out.
func (g *guard) search(text []byte) error {
	var uids []uint32
	words := strings.Fields(string(text))[2:]
	if bytes.HasPrefix(text, []byte("* ESEARCH")) {
		at := slices.IndexFunc(words, func(w string) bool { return strings.EqualFold(w, "ALL") })
		if at < 0 || at+1 >= len(words) {
			words = nil
		} else {
			words = strings.Split(words[at+1], ",")
		}
	}
	for _, w := range words {
		if strings.HasPrefix(w, "(") { // (MODSEQ n)
			break
		}
		from, to, ranged := strings.Cut(w, ":")
		a, err := strconv.ParseUint(from, 10, 32)
		b := a
		if err == nil && ranged {
			b, err = strconv.ParseUint(to, 10, 32)
		}
		if err != nil {
			return g.fail("It lists messages by something that is no number.")
		}
		if a > b {
			a, b = b, a
		}
		if b-a+1+uint64(len(uids)) > maxUIDs {
			return g.fail("It lists more messages than a folder can hold here (%d).", maxUIDs)
		}
		for ; a <= b; a++ {
			uids = append(uids, uint32(a))
		}
	}
	g.mu.Lock()
	g.uids = append(g.uids, uids...)
	g.lists++
	many := len(g.uids) > 2*maxUIDs || g.lists > maxLists
	g.mu.Unlock()
	if many {
		return g.fail("It lists messages without end.")
	}
	empty := "* SEARCH\r\n"
	if bytes.HasPrefix(text, []byte("* ESEARCH")) {
		empty = "* OK listed\r\n"
	}
	g.on([]byte(empty))
	return nil
}

var base64UTF7 = base64.NewEncoding("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+,").WithPadding(base64.NoPadding)

// readable says that the name of a folder, the last word of its line, is one the
// client can read: modified UTF-7 (RFC 3501, section 5.1.3) or UTF-8.
func readable(line []byte) bool {
	if len(line) > maxName+200 || !utf8.Valid(line) {
		return false
	}
	name := line[bytes.LastIndexByte(line, ' ')+1:]
	if bytes.HasSuffix(line, []byte(`"`)) {
		if open := bytes.LastIndexByte(line[:len(line)-1], '"'); open >= 0 {
			name = line[open+1 : len(line)-1]
		}
	}
	for i := 0; i < len(name); i++ {
		c := name[i]
		switch {
		case c < ' ' && c != '\r' && c != '\n', c == 0x7F:
			return false
		case c == '&':
			end := bytes.IndexByte(name[i:], '-')
			if end < 0 || !utf7Word(name[i+1:i+end]) {
				return false
			}
			i += end
		}
	}
	return true
}

// utf7Word says that b is nothing, which stands for &, or the modified base64 of
// whole characters in UTF-16.
func utf7Word(b []byte) bool {
	if len(b) == 0 {
		return true
	}
	bits := 0
	for _, c := range b {
		if !(c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c == '+' || c == ',') {
			return false
		}
		bits += 6
	}
	raw, err := base64UTF7.DecodeString(string(b))
	if err != nil || len(raw)%2 != 0 || bits-8*len(raw) >= 6 {
		return false
	}
	for i := 0; i < len(raw); i += 2 {
		u := uint16(raw[i])<<8 | uint16(raw[i+1])
		switch {
		case u >= 0x20 && u <= 0x7E: // a plain letter is not to be written so
			return false
		case u >= 0xDC00 && u <= 0xDFFF:
			return false
		case u >= 0xD800 && u <= 0xDBFF:
			if i+3 >= len(raw) || raw[i+2]&0xFC != 0xDC {
				return false
			}
			i += 2
		}
	}
	return true
}
