package mailsync

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	goimap "github.com/emersion/go-imap/v2"

	"ebbe/internal/core/mail"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/mime"
)

// server is a mailbox server in memory, by the clock of whoever asks it.
type server struct {
	mu       sync.Mutex
	folders  map[string]*folder
	refuses  map[string]string // what it says instead of opening a folder
	down     bool              // it does not answer
	opens    int
	asked    int           // commands
	slow     time.Duration // what handing out a message takes
	states   bool          // it keeps the state of flags, and says with the list of folders how they stand
	state    uint64        // of the last change
	made     mail.Role     // what a folder that is made is for
	validity uint32        // UIDVALIDITY of its folders; 1 if zero
	breaks   string        // the Message-ID of a message at which the line is cut
	stale    *folder       // it is said to stand as if the last change had not been
	lines    map[*line]bool
}

type folder struct {
	role    mail.Role
	next    uint32
	state   uint64
	before  uint64 // the state before the last change
	letters []*letter
}

type letter struct {
	uid        uint32
	raw        string
	seen, star bool
	state      uint64
	size       int64 // as it is claimed to be; as it is if 0
}

func newServer() *server {
	s := &server{state: 1, folders: map[string]*folder{}, refuses: map[string]string{}, lines: map[*line]bool{}}
	for name, role := range map[string]mail.Role{"INBOX": mail.RoleInbox, "Archive": mail.RoleArchive, "Trash": mail.RoleBin, "Junk": mail.RoleJunk, "Sent": mail.RoleSent, "Drafts": mail.RoleDrafts, "Loans": mail.RoleOther} {
		s.folders[name] = &folder{role: role, next: 1, state: 1}
	}
	return s
}

// put lays a message into a folder, and tells those who wait.
func (s *server) put(into, id, subject string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.add(into, fmt.Sprintf("From: jonas@x.example\r\nTo: solvei@m.example\r\nSubject: %s\r\nMessage-ID: <%s>\r\n\r\nwords of %s\r\n", subject, id, id), false, false)
	for l := range s.lines {
		nudge(l.news)
	}
}

func (s *server) add(into, raw string, seen, star bool) uint32 {
	f := s.folders[into]
	f.letters = append(f.letters, &letter{uid: f.next, raw: raw, seen: seen, star: star, state: s.moves(f)})
	f.next++
	return f.next - 1
}

// moves is the state after another change in a folder.
func (s *server) moves(f *folder) uint64 {
	s.state++
	f.before, f.state = f.state, s.state
	return s.state
}

// in gives the subjects in a folder.
func (s *server) in(name string) (out []string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, l := range s.folders[name].letters {
		out = append(out, mime.Read([]byte(l.raw)).Subject)
	}
	return out
}

func (s *server) set(f func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	f()
}

func (s *server) count() (opens, asked int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.opens, s.asked
}

var errDown = errors.New("connection refused")

func (s *server) open() (Mailbox, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.opens++; s.down {
		return nil, errDown
	}
	l := &line{s: s, news: make(chan struct{}, 1), cut: make(chan struct{})}
	s.lines[l] = true
	return l, nil
}

// cutAll cuts all lines.
func (s *server) cutAll() {
	s.mu.Lock()
	defer s.mu.Unlock()
	for l := range s.lines {
		close(l.cut)
		delete(s.lines, l)
	}
}

// line is a line to it.
type line struct {
	s         *server
	at        *folder
	name      string
	news, cut chan struct{}
}

// begin begins a command.
func (l *line) begin() (func(), error) {
	l.s.mu.Lock()
	l.s.asked++
	if !l.s.lines[l] {
		return l.s.mu.Unlock, errDown
	}
	return l.s.mu.Unlock, nil
}

func (l *line) Close() {
	l.s.mu.Lock()
	defer l.s.mu.Unlock()
	delete(l.s.lines, l)
}

func (l *line) LeftOut() int { return 0 }

func (l *line) Folders() (out []imap.Folder, err error) {
	end, err := l.begin()
	defer end()
	for name, f := range l.s.folders {
		out = append(out, imap.Folder{Name: name, Role: f.role})
		if l.s.states {
			stands := &imap.Selected{Validity: max(l.s.validity, 1), Next: f.next, Count: uint32(len(f.letters)), ModSeq: f.state}
			if l.s.stale == f {
				stands.Next, stands.Count, stands.ModSeq = stands.Next-1, stands.Count-1, f.before
			}
			out[len(out)-1].Stands = stands
		}
	}
	slices.SortFunc(out, func(a, b imap.Folder) int { return strings.Compare(a.Name, b.Name) })
	return out, err
}

func (l *line) Make(name string) error {
	end, err := l.begin()
	defer end()
	l.s.folders[name] = &folder{role: cmp.Or(l.s.made, mail.RoleOther), next: 1, state: 1}
	return err
}

func (l *line) Path(name string) string { return name }

func (l *line) MakeAt(name string) error { return l.Make(name) }

func (l *line) DropEmpty(name string) (bool, error) {
	done, err := l.begin()
	if err != nil {
		return false, err
	}
	defer done()
	if len(l.s.folders[name].letters) > 0 {
		return false, nil
	}
	delete(l.s.folders, name)
	return true, nil
}

func (l *line) Select(name string) (imap.Selected, error) {
	end, err := l.begin()
	defer end()
	if says := l.s.refuses[name]; says != "" {
		return imap.Selected{}, &goimap.Error{Type: goimap.StatusResponseTypeNo, Text: says}
	}
	if l.at = l.s.folders[name]; l.at == nil {
		return imap.Selected{}, errors.Join(err, &goimap.Error{Type: goimap.StatusResponseTypeNo, Text: "no such folder"})
	}
	l.name = name
	s := imap.Selected{Validity: max(l.s.validity, 1), Next: l.at.next, Count: uint32(len(l.at.letters))}
	if l.s.states {
		s.ModSeq = l.at.state
	}
	return s, err
}

func (l *line) of(uids []uint32) (out []*letter) {
	for _, x := range l.at.letters {
		if uids == nil || slices.Contains(uids, x.uid) {
			out = append(out, x)
		}
	}
	return out
}

func (l *line) UIDs() (uids []uint32, err error) {
	end, err := l.begin()
	defer end()
	for _, x := range l.of(nil) {
		uids = append(uids, x.uid)
	}
	return uids, err
}

func (l *line) Sizes(uids []uint32) (map[uint32]int64, error) {
	end, err := l.begin()
	defer end()
	sizes := map[uint32]int64{}
	for _, x := range l.of(uids) {
		sizes[x.uid] = cmp.Or(x.size, int64(len(x.raw)))
	}
	return sizes, err
}

func (l *line) fetch(uids []uint32, f func(imap.Fetched) error) error {
	end, err := l.begin()
	var got []imap.Fetched
	for _, x := range l.of(uids) {
		got = append(got, imap.Fetched{UID: x.uid, Raw: []byte(x.raw), Size: cmp.Or(x.size, int64(len(x.raw))), Seen: x.seen, Star: x.star})
	}
	end()
	for _, x := range got {
		err = errors.Join(err, f(x))
	}
	return err
}

func (l *line) Fetch(uids []uint32, _, _ int64, f func(imap.Fetched) error) error {
	time.Sleep(l.s.slow * time.Duration(len(uids)))
	l.s.mu.Lock()
	broken := slices.ContainsFunc(l.of(append([]uint32{}, uids...)), func(x *letter) bool { return l.s.breaks != "" && strings.Contains(x.raw, l.s.breaks) })
	l.s.mu.Unlock()
	if broken {
		l.s.cutAll()
		return &imap.Excess{Text: "It sends a line that has no end."}
	}
	return l.fetch(append([]uint32{}, uids...), f)
}

func (l *line) FetchHeads(uids []uint32, f func(imap.Fetched) error) error {
	return l.fetch(append([]uint32{}, uids...), f)
}

func (l *line) Flags(uids []uint32, f func(imap.Fetched) error) error {
	return l.fetch(append([]uint32{}, uids...), f)
}

func (l *line) Changed(since uint64, f func(imap.Fetched) error) error {
	var changed []uint32
	l.s.set(func() {
		for _, x := range l.at.letters {
			if x.state > since {
				changed = append(changed, x.uid)
			}
		}
	})
	return l.fetch(append([]uint32{}, changed...), f)
}

func (l *line) Above(uid uint32) (uids []uint32, err error) {
	all, err := l.UIDs()
	for _, u := range all {
		if u > uid {
			uids = append(uids, u)
		}
	}
	return uids, err
}

func (l *line) Next(name string) (uint32, error) {
	end, err := l.begin()
	defer end()
	return l.s.folders[name].next, err
}

func (l *line) At() string { return l.name }

func (l *line) Find(id string) (uids []uint32, err error) {
	end, err := l.begin()
	defer end()
	for _, x := range l.of(nil) {
		if strings.Contains(x.raw, "<"+id+">") {
			uids = append(uids, x.uid)
		}
	}
	return uids, err
}

func (l *line) Move(uids []uint32, to string) (map[uint32]uint32, error) {
	end, err := l.begin()
	defer end()
	moved := map[uint32]uint32{}
	if err == nil {
		for _, x := range l.of(uids) {
			moved[x.uid] = l.s.add(to, x.raw, x.seen, x.star)
		}
		l.at.letters = slices.DeleteFunc(l.at.letters, func(x *letter) bool { return moved[x.uid] != 0 })
	}
	return moved, err
}

func (l *line) SetFlag(uids []uint32, star, on bool) error {
	end, err := l.begin()
	defer end()
	for _, x := range l.of(uids) {
		x.state = l.s.moves(l.at)
		if star {
			x.star = on
		} else {
			x.seen = on
		}
	}
	return err
}

func (l *line) Remove(uids []uint32) error {
	end, err := l.begin()
	defer end()
	l.at.letters = slices.DeleteFunc(l.at.letters, func(x *letter) bool { return slices.Contains(uids, x.uid) })
	return err
}

func (l *line) Lay(into string, raw []byte, _ time.Time, _ bool) error {
	end, err := l.begin()
	defer end()
	l.s.add(into, string(raw), true, false)
	return err
}

func (l *line) Await(ctx context.Context, d time.Duration, wake <-chan struct{}) (news, woken bool, err error) {
	timer := time.NewTimer(d)
	defer timer.Stop()
	select {
	case <-l.cut:
		return false, false, errDown
	case <-ctx.Done():
		return false, false, ctx.Err()
	case <-l.news:
		return true, false, nil
	case <-wake:
		return false, true, nil
	case <-timer.C:
	}
	return false, false, nil
}
