package mailsync

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/post/imap"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// How many messages are asked for at once, and of how many of the newest the
// flags are looked at each time where the server does not say which changed.
const (
	windowSize  = 200
	freshFlags  = 1000
	folderFlags = 100
	errandsOnce = 500
)

// pass is one pass over an account: what is new is taken in, what has happened
// there is followed, and what was decided here is carried there.
type pass struct {
	s       *Sync
	ctx     context.Context
	a       mailboxes.Account
	m       Mailbox
	full    bool // all flags are looked at
	news    bool // something has changed in the folder that was open at its beginning
	folders []*mailboxes.Folder
	stands  map[string]*imap.Selected // how they stand, where that was said with their list
	trouble []string                  // what went wrong with a part of it, in sentences
	peeked  time.Time                 // when it was last looked for something new in the inbox
	beyond  uint32                    // the last UID of the inbox that is being brought in, or was taken in apart
	kept    map[string]mail.Role      // the folders Ebbe keeps there, by name
	heeded  []inbox.Change            // what followed from flags found with messages that were known
}

// Pass passes over an account; with no line to its mailbox it opens one.
func (s *Sync) Pass(ctx context.Context, a mailboxes.Account, m Mailbox, full bool) error {
	_, err := s.pass(ctx, a, m, full, false)
	return err
}

// pass does so, and says whether a part of it could not be done. With news, the
// server has told of a change in the folder that is open.
func (s *Sync) pass(ctx context.Context, a mailboxes.Account, m Mailbox, full, news bool) (troubled bool, err error) {
	defer s.lock(a.ID)()
	if m == nil {
		if m, err = s.open(ctx, a); err != nil {
			return false, err
		}
		defer m.Close()
	}
	err = s.store.Read(ctx, func(t store.Tx) (err error) {
		a, err = mailboxes.Accounts(t).Account(a.BoxID, a.ID) // as it is now
		return err
	})
	if err != nil {
		return false, err
	}
	p := &pass{s: s, ctx: ctx, a: a, m: m, full: full, news: news}
	if err := p.run(); err != nil {
		return false, err
	}
	if n := m.LeftOut(); n > 0 {
		p.trouble = append(p.trouble, say.Plural(n, "folder")+" cannot be read here, as the server gives a name that is none. The others are in step.")
	}
	s.noteSync(ctx, a, strings.Join(p.trouble, " "))
	return len(p.trouble) > 0, nil
}

func (p *pass) run() error {
	if err := p.keeps(); err != nil {
		return err
	}
	if err := p.list(); err != nil {
		return err
	}
	if err := p.part("The folders that Ebbe keeps there could not be made", p.makeKept()); err != nil {
		return err
	}
	for _, f := range p.folders {
		if err := p.part("The folder “"+f.Name+"” cannot be kept in step", p.folder(f)); err != nil {
			return err
		}
	}
	if err := p.part("What others did with your mail could not be followed", p.follow()); err != nil {
		return err
	}
	if p.s.Resting() { // nothing is carried before all accounts have been followed
		if err := p.s.LookedAt(p.ctx, p.a.ID); err != nil || p.s.Resting() {
			return err
		}
	}
	for _, step := range []struct {
		what string
		do   func() error
	}{
		{"Not all that was moved into the folders of Ebbe could be done", p.heedKept},
		{"What vanished could not be laid back", p.putBack},
		{"What you sent could not be laid into the sent mail there", p.lay},
		{"Your drafts could not be put there", p.drafts},
		{"Not all that you decided could be carried there", p.carry},
		{"Bin and junk could not be emptied", p.empty},
		{"The folders that Ebbe has kept there could not be removed", p.dropKept},
	} {
		if err := p.part(step.what, step.do()); err != nil {
			return err
		}
	}
	return p.at("INBOX") // where what is new is waited for
}

// at opens a folder unless it is open.
func (p *pass) at(name string) error {
	if p.m.At() == name {
		return nil
	}
	_, err := p.m.Select(name)
	return err
}

// part is what becomes of one part of a pass: where the server will not do
// something, or it cannot be stored, that is told, and the others go on. What is
// left is an error of the line.
func (p *pass) part(what string, err error) error {
	var in *inside
	var refused *problem.Error
	said, no := imap.Said(err)
	switch {
	case err == nil:
		return nil
	case p.ctx.Err() != nil:
		return p.ctx.Err()
	case errors.As(err, &in):
		slog.Error("a part of keeping an account in step failed, trying again", "account", p.a.ID, "part", what, "error", err)
		what += ": something is wrong inside Ebbe. It is tried again by itself."
	case errors.As(err, &refused):
		what += ": " + refused.Text
	case no:
		what += ": the server says “" + said + "”."
	default:
		return err
	}
	if in == nil { // without what stands in it: that may be about mail
		slog.Warn("a part of keeping an account in step was refused, trying again", "account", p.a.ID, "by", map[bool]string{true: "the server", false: "Ebbe"}[no])
	}
	p.trouble = append(p.trouble, what)
	return nil
}

// inside is an error of Ebbe itself, not of the server or the line.
type inside struct{ error }

func (e *inside) Unwrap() error { return e.error }

func within(err error) error {
	if err == nil {
		return nil
	}
	return &inside{err}
}

func (p *pass) write(f func(store.Tx) error) error { return within(p.s.store.Write(p.ctx, f)) }

func (p *pass) read(f func(store.Tx) error) error { return within(p.s.store.Read(p.ctx, f)) }

// list brings the folders in step.
func (p *pass) list() error {
	found, err := p.m.Folders()
	if err != nil {
		return err
	}
	p.stands = map[string]*imap.Selected{}
	for _, f := range found {
		p.stands[f.Name] = f.Stands
	}
	return p.write(func(t store.Tx) error {
		p.folders = nil
		known, err := mailboxes.Folders(t).Folders(p.a.ID)
		if err != nil {
			return err
		}
		for _, f := range known {
			if !slices.ContainsFunc(found, func(o imap.Folder) bool { return o.Name == f.Name }) {
				f.Gone = true
				if err := mailboxes.Folders(t).PutFolder(&f); err != nil {
					return err
				}
			}
		}
		for _, o := range found {
			f, err := mailboxes.Folders(t).FolderNamed(p.a.ID, o.Name)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
			role := p.roleOf(o.Name, o.Role, f.Role)
			if f.AccountID, f.Name = p.a.ID, o.Name; f.ID == 0 || f.Role != role || f.Gone {
				f.Role, f.Gone = role, false
				if err := mailboxes.Folders(t).PutFolder(&f); err != nil {
					return err
				}
			}
			p.folders = append(p.folders, &f)
		}
		return nil
	})
}

// folder brings one folder in step.
func (p *pass) folder(f *mailboxes.Folder) error {
	if f.Role == mail.RoleDrafts {
		return nil
	}
	var count int64
	if err := p.read(func(t store.Tx) (err error) { count, err = mailboxes.Folders(t).CountCopies(f.ID); return err }); err != nil {
		return err
	}
	s, err := p.open(f, count)
	if err != nil || s == nil {
		return err
	}
	if int64(s.Validity) != f.Validity {
		count = 0
		err := p.write(func(t store.Tx) error {
			f.Validity, f.Low, f.High, f.Whole, f.ModSeq = int64(s.Validity), 0, 0, false, 0
			if err := mailboxes.Folders(t).Renumber(f.ID); err != nil {
				return err
			}
			return mailboxes.Folders(t).PutFolder(f)
		})
		if err != nil {
			return err
		}
	}
	if f.Whole && s.Next != 0 && int64(s.Next)-1 <= f.High && count == int64(s.Count) { // nothing came, nothing went
		return p.flags(f, *s)
	}
	if f.Whole && s.Next != 0 && int64(s.Next)-1 > f.High {
		fresh, err := p.m.Above(uint32(f.High))
		if err != nil {
			return err
		}
		if count+int64(len(fresh)) == int64(s.Count) { // something came, nothing went
			if err := p.fetch(f, fresh, true); err != nil {
				return err
			}
			return p.flags(f, *s)
		}
	}
	uids, err := p.m.UIDs()
	if err != nil {
		return err
	}
	if err := p.vanished(f, uids); err != nil {
		return err
	}
	first := !f.Whole && f.High == 0
	if first {
		last := int64(0)
		if len(uids) > 0 {
			last = int64(uids[len(uids)-1])
		}
		f.High, f.Low = max(last, int64(s.Next)-1), last+1
		f.ModSeq = s.ModSeq
	}
	split, _ := slices.BinarySearchFunc(uids, f.High, func(u uint32, high int64) int { return cmp.Compare(int64(u), high+1) })
	if fresh := uids[split:]; len(fresh) > 0 && !first {
		if err := p.fetch(f, fresh, true); err != nil {
			return err
		}
	}
	if !f.Whole {
		below, _ := slices.BinarySearchFunc(uids, f.Low, func(u uint32, low int64) int { return cmp.Compare(int64(u), low) })
		if err := p.fetch(f, uids[:below], false); err != nil {
			return err
		}
		err := p.write(func(t store.Tx) error {
			f.Whole, f.Low = true, 1
			if err := mailboxes.Folders(t).PutFolder(f); err != nil {
				return err
			}
			return p.dropped(t, f, func(uid int64) bool { return uid < 0 })
		})
		if err != nil {
			return err
		}
	}
	return p.flags(f, *s)
}

// open opens a folder, and says how it stands; nil if it stands as it did when it
// was last brought in step. What was said with the list of folders is not asked
// for again.
func (p *pass) open(f *mailboxes.Folder, count int64) (*imap.Selected, error) {
	s := p.stands[f.Name]
	same := s != nil && int64(s.Validity) == f.Validity && f.Whole && int64(s.Next)-1 <= f.High && count == int64(s.Count) && s.ModSeq == f.ModSeq
	open := p.m.At() == f.Name
	switch {
	case same && open && p.news: // some servers do not say this of the open folder as it is
	case same:
		return nil, nil
	case s != nil && int64(s.Validity) == f.Validity && open:
		return s, nil
	}
	now, err := p.m.Select(f.Name)
	return &now, err
}

// vanished forgets places in a folder where nothing lies any more.
func (p *pass) vanished(f *mailboxes.Folder, uids []uint32) error {
	return p.write(func(t store.Tx) error {
		return p.dropped(t, f, func(uid int64) bool {
			if uid < 0 {
				return false
			}
			_, there := slices.BinarySearch(uids, uint32(uid))
			return !there
		})
	})
}

// dropped forgets the places in a folder that gone names, and notes which
// messages that happened to.
func (p *pass) dropped(t store.Tx, f *mailboxes.Folder, gone func(uid int64) bool) error {
	known, err := mailboxes.Folders(t).CopyUIDs(f.ID)
	if err != nil {
		return err
	}
	var uids []int64
	for _, u := range known {
		if gone(u) {
			uids = append(uids, u)
		}
	}
	if len(uids) == 0 {
		return nil
	}
	copies, err := mailboxes.Folders(t).CopiesAt(f.ID, uids)
	if err != nil {
		return err
	}
	var happened []mailboxes.Happening
	for _, k := range copies {
		happened = append(happened, mailboxes.Happening{AccountID: p.a.ID, MessageID: k.MessageID, FolderID: f.ID})
	}
	if err := mailboxes.Folders(t).Happen(happened); err != nil {
		return err
	}
	return mailboxes.Folders(t).DropCopies(f.ID, uids)
}

// role finds the folder of a role, or makes one.
func (p *pass) role(r mail.Role) (*mailboxes.Folder, error) {
	for range 2 {
		for _, f := range p.folders {
			if f.Role == r {
				return f, nil
			}
		}
		if r.Kept() { // it could not be made
			return nil, &problem.Error{Type: "no-folder", Text: "it does not keep the folders of Ebbe."}
		}
		if err := p.m.Make(standardNames[r]); err != nil {
			return nil, err
		}
		if err := p.list(); err != nil {
			return nil, err
		}
	}
	return nil, &problem.Error{Type: "no-folder", Text: "it does not keep the folder “" + standardNames[r] + "”, which Ebbe has made there."}
}
