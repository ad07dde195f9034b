package office

import (
	"bufio"
	"bytes"
	"cmp"
	"errors"
	"io"
	"slices"
	"strings"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
	"github.com/emersion/go-message/textproto"
	"github.com/emersion/go-sasl"
)

const delim = '/'

// session is one IMAP connection.
type session struct {
	o      *Office
	user   *user
	folder *folder
	view   *imapserver.SessionTracker
}

var _ imapserver.SessionIMAP4rev2 = (*session)(nil)
var _ imapserver.SessionSASL = (*session)(nil)

func no(code imap.ResponseCode, text string) error {
	return &imap.Error{Type: imap.StatusResponseTypeNo, Code: code, Text: text}
}

func (s *session) Close() error {
	if s.view != nil {
		s.view.Close()
	}
	return nil
}

// admit finds an account by its name and password, or token.
func (o *Office) admit(name, password string) (*user, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	u := o.users[strings.ToLower(name)]
	if u == nil || u.password != password {
		return nil, imapserver.ErrAuthFailed
	}
	return u, nil
}

func (s *session) Login(name, password string) (err error) {
	s.user, err = s.o.admit(name, password)
	return err
}

func (s *session) AuthenticateMechanisms() []string { return []string{"PLAIN", "XOAUTH2"} }

func (s *session) Authenticate(mech string) (sasl.Server, error) {
	switch mech {
	case "PLAIN":
		return sasl.NewPlainServer(func(_, name, password string) error { return s.Login(name, password) }), nil
	case "XOAUTH2":
		return tokenServer(s.Login), nil
	}
	return nil, no("", "That way of signing in is not known here")
}

// tokenServer is the server's side of XOAUTH2.
type tokenServer func(name, token string) error

func (f tokenServer) Next(response []byte) ([]byte, bool, error) {
	if response == nil {
		return []byte{}, false, nil
	}
	name, token := "", ""
	for part := range strings.SplitSeq(string(response), "\x01") {
		if v, ok := strings.CutPrefix(part, "user="); ok {
			name = v
		}
		if v, ok := strings.CutPrefix(part, "auth=Bearer "); ok {
			token = v
		}
	}
	return nil, true, f(name, token)
}

func (s *session) find(name string) (*folder, error) {
	if strings.EqualFold(name, Inbox) {
		name = Inbox
	}
	if f := s.user.folders[name]; f != nil {
		return f, nil
	}
	return nil, no(imap.ResponseCodeNonExistent, "There is no such folder")
}

func (s *session) Select(name string, _ *imap.SelectOptions) (*imap.SelectData, error) {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	f, err := s.find(name)
	if err != nil {
		return nil, err
	}
	if s.view != nil {
		s.view.Close()
	}
	s.folder, s.view = f, f.tracker.NewSession()
	return &imap.SelectData{Flags: known, PermanentFlags: append(slices.Clone(known), imap.FlagWildcard),
		NumMessages: uint32(len(f.letters)), UIDNext: f.next, UIDValidity: f.valid}, nil
}

func (s *session) Unselect() error {
	s.view.Close()
	s.folder, s.view = nil, nil
	return nil
}

func (s *session) Create(name string, _ *imap.CreateOptions) error {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	name = strings.TrimSuffix(name, string(delim))
	if s.user.folders[name] != nil {
		return no(imap.ResponseCodeAlreadyExists, "There is such a folder")
	}
	s.o.note(record{Op: "folder", User: s.user.name, Folder: name})
	return nil
}

var errNotHere = no(imap.ResponseCodeCannot, "The stand-in post office does not do that")

func (s *session) Delete(name string) error {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	f, err := s.find(name)
	if err != nil || f.name == Inbox {
		return cmp.Or(err, error(errNotHere))
	}
	s.o.note(record{Op: "unfolder", User: s.user.name, Folder: f.name})
	return nil
}

func (s *session) Rename(name, as string, _ *imap.RenameOptions) error {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	f, err := s.find(name)
	if err != nil || f.name == Inbox || s.user.folders[as] != nil {
		return cmp.Or(err, error(errNotHere))
	}
	s.o.note(record{Op: "refolder", User: s.user.name, Folder: f.name, From: as})
	return nil
}
func (s *session) Subscribe(string) error   { return nil }
func (s *session) Unsubscribe(string) error { return nil }
func (s *session) Namespace() (*imap.NamespaceData, error) {
	return &imap.NamespaceData{Personal: []imap.NamespaceDescriptor{{Delim: delim}}}, nil
}

func (s *session) List(w *imapserver.ListWriter, ref string, patterns []string, options *imap.ListOptions) error {
	s.o.mu.Lock()
	var names []string
	for name := range s.user.folders {
		if slices.ContainsFunc(patterns, func(p string) bool { return imapserver.MatchList(name, delim, ref, p) }) {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	var found []imap.ListData
	for _, name := range names {
		d := imap.ListData{Mailbox: name, Delim: delim}
		if use, ok := uses[name]; ok {
			d.Attrs = append(d.Attrs, use)
		}
		if options.ReturnStatus != nil {
			d.Status = s.user.folders[name].status(options.ReturnStatus)
		}
		found = append(found, d)
	}
	s.o.mu.Unlock()
	for _, d := range found {
		if err := w.WriteList(&d); err != nil {
			return err
		}
	}
	return nil
}

func (f *folder) status(o *imap.StatusOptions) *imap.StatusData {
	d := &imap.StatusData{Mailbox: f.name}
	if o.NumMessages {
		n := uint32(len(f.letters))
		d.NumMessages = &n
	}
	if o.NumUnseen {
		n := uint32(0)
		for _, l := range f.letters {
			if !l.flags[imap.FlagSeen] {
				n++
			}
		}
		d.NumUnseen = &n
	}
	if o.UIDNext {
		d.UIDNext = f.next
	}
	if o.UIDValidity {
		d.UIDValidity = f.valid
	}
	return d
}

func (s *session) Status(name string, o *imap.StatusOptions) (*imap.StatusData, error) {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	f, err := s.find(name)
	if err != nil {
		return nil, err
	}
	return f.status(o), nil
}

func (s *session) Append(name string, r imap.LiteralReader, o *imap.AppendOptions) (*imap.AppendData, error) {
	raw, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	f, err := s.find(name)
	if err != nil {
		return nil, no(imap.ResponseCodeTryCreate, "There is no such folder")
	}
	at := o.Time
	if at.IsZero() {
		at = s.o.now()
	}
	uid := f.next
	s.o.note(record{Op: "put", User: s.user.name, Folder: f.name, At: at, Raw: raw, Flags: o.Flags})
	return &imap.AppendData{UID: uid, UIDValidity: f.valid}, nil
}

func (s *session) Poll(w *imapserver.UpdateWriter, allowExpunge bool) error {
	if s.view == nil {
		return nil
	}
	return s.view.Poll(w, allowExpunge)
}

func (s *session) Idle(w *imapserver.UpdateWriter, stop <-chan struct{}) error {
	if s.view == nil {
		<-stop
		return nil
	}
	for {
		s.o.mu.Lock()
		changed := s.o.changed // before looking, so that nothing is missed
		s.o.mu.Unlock()
		if err := s.view.Poll(w, true); err != nil {
			return err
		}
		select {
		case <-changed:
		case <-stop:
			return nil
		}
	}
}

// each walks over the letters of a set, with the sequence number by which this
// connection knows each, or 0.
func (s *session) each(set imap.NumSet, f func(l *letter, seq uint32) error) error {
	last := map[bool]uint32{true: uint32(s.folder.next) - 1, false: uint32(len(s.folder.letters))}
	for i, l := range slices.Clone(s.folder.letters) {
		seq := s.view.EncodeSeqNum(uint32(i + 1))
		in := false
		switch set := set.(type) {
		case imap.UIDSet:
			in = contains(set, uint32(l.uid), last[true])
		case imap.SeqSet:
			for _, r := range set {
				a, b := orLast(r.Start, last[false]), orLast(r.Stop, last[false])
				in = in || seq != 0 && seq >= min(a, b) && seq <= max(a, b)
			}
		}
		if in {
			if err := f(l, seq); err != nil {
				return err
			}
		}
	}
	return nil
}

func contains(set imap.UIDSet, uid, last uint32) bool {
	return slices.ContainsFunc(set, func(r imap.UIDRange) bool {
		a, b := orLast(uint32(r.Start), last), orLast(uint32(r.Stop), last)
		return uid >= min(a, b) && uid <= max(a, b)
	})
}

func orLast(n, last uint32) uint32 {
	if n == 0 { // "*"
		return last
	}
	return n
}

func (s *session) Fetch(w *imapserver.FetchWriter, set imap.NumSet, o *imap.FetchOptions) error {
	type item struct {
		seq uint32
		letter
		flags []imap.Flag
	}
	var items []item
	s.o.mu.Lock()
	seen := slices.ContainsFunc(o.BodySection, func(b *imap.FetchItemBodySection) bool { return !b.Peek })
	_ = s.each(set, func(l *letter, seq uint32) error {
		if seen && !l.flags[imap.FlagSeen] {
			s.o.note(record{Op: "flags", User: s.user.name, Folder: s.folder.name, UID: l.uid, Flags: append(l.flagList(), imap.FlagSeen)})
		}
		items = append(items, item{seq, *l, l.flagList()})
		return nil
	})
	lie := s.o.fault.Sizes
	s.o.mu.Unlock()
	for _, l := range items {
		if l.seq == 0 {
			continue
		}
		r := w.CreateMessage(l.seq)
		r.WriteUID(l.uid)
		if o.Flags {
			r.WriteFlags(l.flags)
		}
		if o.InternalDate {
			r.WriteInternalDate(l.at)
		}
		if o.RFC822Size {
			r.WriteRFC822Size(max(0, int64(len(l.raw))+lie))
		}
		if o.Envelope {
			if h, err := textproto.ReadHeader(bufio.NewReader(bytes.NewReader(l.raw))); err == nil {
				r.WriteEnvelope(imapserver.ExtractEnvelope(h))
			}
		}
		for _, section := range o.BodySection {
			buf := l.raw // the whole of it, byte for byte
			if section.Specifier != imap.PartSpecifierNone || section.Partial != nil || len(section.Part) > 0 {
				buf = imapserver.ExtractBodySection(bytes.NewReader(l.raw), section)
			}
			body := r.WriteBodySection(section, int64(len(buf)))
			_, err := body.Write(buf)
			if err := errors.Join(err, body.Close()); err != nil {
				return err
			}
		}
		if err := r.Close(); err != nil {
			return err
		}
	}
	return nil
}

func (s *session) Search(kind imapserver.NumKind, c *imap.SearchCriteria, _ *imap.SearchOptions) (*imap.SearchData, error) {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	var d imap.SearchData
	var uids imap.UIDSet
	var seqs imap.SeqSet
	_ = s.each(imap.SeqSet{{Start: 1, Stop: 0}}, func(l *letter, seq uint32) error {
		if !l.matches(c, uint32(s.folder.next)-1) {
			return nil
		}
		uids.AddNum(l.uid)
		seqs.AddNum(seq)
		d.Count++
		return nil
	})
	if d.All = uids; kind == imapserver.NumKindSeq {
		d.All = seqs
	}
	return &d, nil
}

func (l *letter) matches(c *imap.SearchCriteria, last uint32) bool {
	for _, set := range c.UID {
		if !contains(set, uint32(l.uid), last) {
			return false
		}
	}
	for _, f := range c.Flag {
		if !l.flags[canonical(f)] {
			return false
		}
	}
	for _, f := range c.NotFlag {
		if l.flags[canonical(f)] {
			return false
		}
	}
	if len(c.Header) == 0 {
		return true
	}
	h, err := textproto.ReadHeader(bufio.NewReader(bytes.NewReader(l.raw)))
	return err == nil && !slices.ContainsFunc(c.Header, func(f imap.SearchCriteriaHeaderField) bool {
		return !strings.Contains(strings.ToLower(h.Get(f.Key)), strings.ToLower(f.Value))
	})
}

func (s *session) Store(w *imapserver.FetchWriter, set imap.NumSet, flags *imap.StoreFlags, _ *imap.StoreOptions) error {
	s.o.mu.Lock()
	_ = s.each(set, func(l *letter, _ uint32) error {
		next := flagSet(l.flagList())
		if flags.Op == imap.StoreFlagsSet {
			next = flagSet(nil)
		}
		for _, f := range flags.Flags {
			if flags.Op == imap.StoreFlagsDel {
				delete(next, canonical(f))
			} else {
				next[canonical(f)] = true
			}
		}
		s.o.note(record{Op: "flags", User: s.user.name, Folder: s.folder.name, UID: l.uid, Flags: (&letter{flags: next}).flagList()})
		return nil
	})
	s.o.mu.Unlock()
	if flags.Silent {
		return nil
	}
	return s.Fetch(w, set, &imap.FetchOptions{Flags: true})
}

// copyTo copies the letters of a set into another folder.
func (s *session) copyTo(set imap.NumSet, name string) (d imap.CopyData, copied []imap.UID, err error) {
	into, err := s.find(name)
	if err != nil {
		return d, nil, no(imap.ResponseCodeTryCreate, "There is no such folder")
	}
	if into == s.folder {
		return d, nil, no("", "They are in that folder")
	}
	d.UIDValidity = into.valid
	var from, to imap.UIDSet
	err = s.each(set, func(l *letter, _ uint32) error {
		from.AddNum(l.uid)
		to.AddNum(into.next)
		copied = append(copied, l.uid)
		s.o.note(record{Op: "put", User: s.user.name, Folder: into.name, At: l.at, Raw: l.raw, Flags: l.flagList()})
		return nil
	})
	d.SourceUIDs, d.DestUIDs = from, to
	return d, copied, err
}

func (s *session) Copy(set imap.NumSet, name string) (*imap.CopyData, error) {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	d, _, err := s.copyTo(set, name)
	return &d, err
}

func (s *session) Move(w *imapserver.MoveWriter, set imap.NumSet, name string) error {
	s.o.mu.Lock()
	d, copied, err := s.copyTo(set, name)
	for _, uid := range copied {
		s.o.note(record{Op: "gone", User: s.user.name, Folder: s.folder.name, UID: uid})
	}
	s.o.mu.Unlock()
	if err != nil || len(copied) == 0 {
		return err
	}
	return w.WriteCopyData(&d) // the view tells which have gone
}

func (s *session) Expunge(_ *imapserver.ExpungeWriter, uids *imap.UIDSet) error {
	s.o.mu.Lock()
	defer s.o.mu.Unlock()
	for _, l := range slices.Clone(s.folder.letters) {
		if l.flags[imap.FlagDeleted] && (uids == nil || uids.Contains(l.uid)) {
			s.o.note(record{Op: "gone", User: s.user.name, Folder: s.folder.name, UID: l.uid})
		}
	}
	return nil
}
