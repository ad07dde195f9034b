// Package office is the stand-in post office that ships with Ebbe: a real IMAP
// and SMTP server on the loopback address, with TLS, for the demo and for
// tests. It keeps its mail in a file, or only in memory, and can be told to
// misbehave.
package office

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
)

// The folders each account begins with; all but the inbox by their special use
// (RFC 6154).
const (
	Inbox   = "INBOX"
	Archive = "Archive"
	Sent    = "Sent"
	Drafts  = "Drafts"
	Junk    = "Junk"
	Trash   = "Trash"
)

var uses = map[string]imap.MailboxAttr{Archive: imap.MailboxAttrArchive, Sent: imap.MailboxAttrSent, Drafts: imap.MailboxAttrDrafts, Junk: imap.MailboxAttrJunk, Trash: imap.MailboxAttrTrash}

// Accepted is a message the office took from somebody who signed in.
type Accepted struct {
	From string
	To   []string // all of the envelope, hidden recipients too
	Raw  []byte
}

// Office is a post office. Its methods may be used from several goroutines.
type Office struct {
	now   func() time.Time
	log   *os.File // nil: only in memory
	wire  *wire
	mu    sync.Mutex // guards all below, and the folders of all accounts
	users map[string]*user
	plans []plan // letters that somebody will send, in the order of their times
	taken []Accepted
	hears func(Accepted)
	left  []string // where lists were left
	fault Faults

	changed chan struct{} // closed with the next change
}

type user struct {
	name, password string
	folders        map[string]*folder
	valid          uint32 // the last UIDVALIDITY given
}

type folder struct {
	name    string
	valid   uint32
	next    imap.UID
	letters []*letter
	tracker *imapserver.MailboxTracker
}

type letter struct {
	uid   imap.UID
	raw   []byte
	at    time.Time
	flags map[imap.Flag]bool
}

type plan struct {
	At  time.Time
	To  string
	Raw []byte
}

// record is one line of the file the office keeps.
type record struct {
	Op     string      `json:"op"`
	User   string      `json:"user,omitempty"`
	Folder string      `json:"folder,omitempty"`
	UID    imap.UID    `json:"uid,omitempty"`
	Valid  uint32      `json:"valid,omitempty"`
	Flags  []imap.Flag `json:"flags,omitempty"`
	At     time.Time   `json:"at,omitzero"`
	Raw    []byte      `json:"raw,omitempty"`
	From   string      `json:"from,omitempty"`
	To     []string    `json:"to,omitempty"`
}

// Open opens the office that is kept in the folder dir, or one that is only in
// memory if dir is empty. now is its clock.
func Open(dir string, now func() time.Time) (*Office, error) {
	o := &Office{now: now, users: map[string]*user{}, changed: make(chan struct{})}
	if dir == "" {
		return o, nil
	}
	f, err := os.OpenFile(filepath.Join(dir, "office.jsonl"), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the post office cannot keep its mail: %w", err)
	}
	d := json.NewDecoder(f)
	end := int64(0)
	for {
		var r record
		if err := d.Decode(&r); err != nil { // the end, or a line cut off when the program was killed
			if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
				break
			}
			f.Close()
			return nil, fmt.Errorf("the post office cannot read its mail: %w", err)
		}
		o.apply(r)
		end = d.InputOffset()
	}
	if err := f.Truncate(end); err != nil {
		return nil, err
	}
	if _, err := f.Seek(end, io.SeekStart); err != nil {
		return nil, err
	}
	o.log = f
	return o, nil
}

// note writes a line and does what it says.
func (o *Office) note(r record) {
	if o.log != nil {
		line, _ := json.Marshal(r) // plain values always can be
		_, _ = o.log.Write(append(line, '\n'))
	}
	o.apply(r)
	close(o.changed)
	o.changed = make(chan struct{})
}

func (o *Office) apply(r record) {
	u := o.users[r.User]
	switch r.Op {
	case "user":
		u = &user{name: r.User, password: r.From, folders: map[string]*folder{}}
		o.users[r.User] = u
		for _, name := range []string{Inbox, Archive, Sent, Drafts, Junk, Trash} {
			u.add(name)
		}
	case "folder":
		u.add(r.Folder)
	case "unfolder":
		delete(u.folders, r.Folder)
	case "refolder":
		u.folders[r.From] = u.folders[r.Folder]
		u.folders[r.From].name = r.From
		delete(u.folders, r.Folder)
	case "put":
		f := u.folders[r.Folder]
		l := &letter{uid: f.next, raw: r.Raw, at: r.At, flags: flagSet(r.Flags)}
		f.next++
		f.letters = append(f.letters, l)
		f.tracker.QueueNumMessages(uint32(len(f.letters)))
	case "flags":
		f := u.folders[r.Folder]
		if i := f.find(r.UID); i >= 0 {
			f.letters[i].flags = flagSet(r.Flags)
			f.tracker.QueueMessageFlags(uint32(i+1), r.UID, r.Flags, nil)
		}
	case "gone":
		f := u.folders[r.Folder]
		if i := f.find(r.UID); i >= 0 {
			f.letters = slices.Delete(f.letters, i, i+1)
			f.tracker.QueueExpunge(uint32(i + 1))
		}
	case "valid":
		for _, f := range u.folders {
			u.valid++
			f.valid, f.next = u.valid, 1
			for _, l := range f.letters {
				l.uid = f.next
				f.next++
			}
		}
	case "plan":
		p := plan{r.At, r.User, r.Raw}
		i, _ := slices.BinarySearchFunc(o.plans, p, func(a, b plan) int {
			if c := a.At.Compare(b.At); c != 0 {
				return c
			}
			return -1 // after those of the same time
		})
		o.plans = slices.Insert(o.plans, i, p)
	case "came":
		o.plans = o.plans[1:]
	case "took":
		o.taken = append(o.taken, Accepted{r.From, r.To, r.Raw})
	}
}

func (u *user) add(name string) {
	u.valid++
	u.folders[name] = &folder{name: name, valid: u.valid, next: 1, tracker: imapserver.NewMailboxTracker(0)}
}

func (f *folder) find(uid imap.UID) int {
	i, ok := slices.BinarySearchFunc(f.letters, uid, func(l *letter, uid imap.UID) int { return int(l.uid) - int(uid) })
	if !ok {
		return -1
	}
	return i
}

func flagSet(flags []imap.Flag) map[imap.Flag]bool {
	out := map[imap.Flag]bool{}
	for _, f := range flags {
		out[canonical(f)] = true
	}
	return out
}

var known = []imap.Flag{imap.FlagSeen, imap.FlagAnswered, imap.FlagFlagged, imap.FlagDeleted, imap.FlagDraft}

func canonical(flag imap.Flag) imap.Flag {
	for _, k := range known {
		if strings.EqualFold(string(k), string(flag)) {
			return k
		}
	}
	return imap.Flag(strings.ToLower(string(flag)))
}

func (l *letter) flagList() (out []imap.Flag) {
	for f := range l.flags {
		out = append(out, f)
	}
	slices.Sort(out)
	return out
}

// AddAccount opens an account, unless there is one of that name.
func (o *Office) AddAccount(address, password string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.users[address] == nil {
		o.note(record{Op: "user", User: address, From: password})
	}
}

// Put lays a message into a folder of an account, as if it had come at that
// time.
func (o *Office) Put(address, into string, at time.Time, raw []byte, flags ...imap.Flag) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.note(record{Op: "put", User: address, Folder: into, At: at, Raw: raw, Flags: flags})
}

// Plan lets a message arrive in the inbox of an account once the office's clock
// has reached that time.
func (o *Office) Plan(address string, at time.Time, raw []byte) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.note(record{Op: "plan", User: address, At: at, Raw: raw})
}

// Next is when the next planned message arrives; zero if none is planned.
func (o *Office) Next() time.Time {
	o.mu.Lock()
	defer o.mu.Unlock()
	if len(o.plans) == 0 {
		return time.Time{}
	}
	return o.plans[0].At
}

// Advance lets everything arrive that is planned for up to now, and says
// whether anything did.
func (o *Office) Advance() (came bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	for now := o.now(); len(o.plans) > 0 && !o.plans[0].At.After(now); came = true {
		p := o.plans[0]
		o.note(record{Op: "put", User: p.To, Folder: Inbox, At: p.At, Raw: p.Raw})
		o.note(record{Op: "came"})
	}
	return came
}

// Stored is a message as it lies in a folder.
type Stored struct {
	UID   imap.UID
	Flags []imap.Flag
	Raw   []byte
}

// Folder gives what lies in a folder of an account.
func (o *Office) Folder(address, name string) (out []Stored) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if u := o.users[address]; u != nil && u.folders[name] != nil {
		for _, l := range u.folders[name].letters {
			out = append(out, Stored{l.uid, l.flagList(), bytes.Clone(l.raw)})
		}
	}
	return out
}

// Move does what another program of the account's owner might do: it takes a
// message into another folder, or deletes it if that is "".
func (o *Office) Move(address, from string, uid imap.UID, into string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	f := o.users[address].folders[from]
	i := f.find(uid)
	if i < 0 {
		return
	}
	l := f.letters[i]
	if into != "" {
		o.note(record{Op: "put", User: address, Folder: into, At: l.at, Raw: l.raw, Flags: l.flagList()})
	}
	o.note(record{Op: "gone", User: address, Folder: from, UID: uid})
}

// Folders gives the names of the folders of an account, in order.
func (o *Office) Folders(address string) []string {
	o.mu.Lock()
	defer o.mu.Unlock()
	return slices.Sorted(maps.Keys(o.users[address].folders))
}

// SetFlags sets the flags of a message, as another program might.
func (o *Office) SetFlags(address, in string, uid imap.UID, flags ...imap.Flag) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.note(record{Op: "flags", User: address, Folder: in, UID: uid, Flags: flags})
}

// Renumber gives all folders of an account a new UIDVALIDITY and all messages
// new UIDs, as a server does that was set up anew (RFC 9051, section 2.3.1.1).
func (o *Office) Renumber(address string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.note(record{Op: "valid", User: address})
}

// Taken gives all messages the office was handed for sending.
func (o *Office) Taken() []Accepted {
	o.mu.Lock()
	defer o.mu.Unlock()
	return slices.Clone(o.taken)
}

// Hear calls f for each message the office is handed from now on, after it has
// been taken.
func (o *Office) Hear(f func(Accepted)) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.hears = f
}

// take stores a message that was handed over, brings it to the accounts here,
// and tells whoever listens.
func (o *Office) take(a Accepted, twice bool) {
	o.mu.Lock()
	o.note(record{Op: "took", From: a.From, To: a.To, Raw: a.Raw})
	if u := o.users[strings.ToLower(a.From)]; u != nil && o.fault.Files {
		o.note(record{Op: "put", User: u.name, Folder: Sent, At: o.now(), Raw: append([]byte("Received: by post.skagvik.example\r\n"), a.Raw...), Flags: []imap.Flag{imap.FlagSeen}})
	}
	path := fmt.Appendf(nil, "Return-Path: <%s>\r\n", a.From)
	for _, to := range a.To {
		for range 1 + map[bool]int{true: 1}[twice] {
			if o.users[strings.ToLower(to)] != nil {
				o.note(record{Op: "put", User: strings.ToLower(to), Folder: Inbox, At: o.now(), Raw: append(path, a.Raw...)})
			}
		}
	}
	hears := o.hears
	o.mu.Unlock()
	if hears != nil {
		hears(a)
	}
}
