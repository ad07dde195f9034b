package post

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"
	"github.com/emersion/go-sasl"

	"ebbe/internal/core/mail"
)

// Folder is a folder of an account on its server.
type Folder struct {
	Name string
	Role mail.Role
}

// Selected is how a folder stands when it is opened.
type Selected struct {
	Validity uint32 // UIDVALIDITY (RFC 9051, section 2.3.1.1)
	Next     uint32 // UIDNEXT; 0 if the server does not say
	Count    uint32
	ModSeq   uint64 // HIGHESTMODSEQ (RFC 7162); 0 if the server does not keep it
}

// Fetched is a message as a server gives it.
type Fetched struct {
	UID  uint32
	Seen bool
	Star bool // \Flagged
	Gone bool // \Deleted: another program has marked it for removal
	Raw  []byte
	At   time.Time // INTERNALDATE
}

// Mailbox is a line to the mailbox of an account (IMAP, RFC 9051 or RFC 3501).
// It is used by one goroutine at a time.
type Mailbox struct {
	client *imapclient.Client
	line   *watched
	news   chan struct{} // something has changed in the open folder
	end    func()
	wait   time.Duration
}

// OpenMailbox connects and signs in. Errors are of the type *StepError. The
// line is cut when the context ends.
func (n Network) OpenMailbox(ctx context.Context, s Server, l Login) (*Mailbox, error) {
	reached, err := n.connect(ctx, s)
	if err != nil {
		return nil, err
	}
	conn := &watched{Conn: reached}
	m := &Mailbox{line: conn, news: make(chan struct{}, 1), wait: n.Patience}
	tell := func() {
		select {
		case m.news <- struct{}{}:
		default:
		}
	}
	options := &imapclient.Options{TLSConfig: n.config(s), UnilateralDataHandler: &imapclient.UnilateralDataHandler{
		Expunge: func(uint32) { tell() },
		Mailbox: func(*imapclient.UnilateralDataMailbox) { tell() },
		Fetch: func(f *imapclient.FetchMessageData) {
			for f.Next() != nil {
			}
			tell()
		},
	}}
	defer conn.watch(n.Patience)()
	if s.Security == StartTLS {
		if m.client, err = imapclient.NewStartTLS(conn, options); err != nil {
			_ = conn.Close()
			return nil, secure(s, err)
		}
	} else {
		m.client = imapclient.New(conn, options)
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	m.end = func() { stop(); _ = m.client.Close() }
	if err := m.client.WaitGreeting(); err != nil {
		m.end()
		return nil, &StepError{Step: StepGreet, Text: fmt.Sprintf("%s answers, but not as a mailbox server does (%s). Check the port.", hostPort(s), reason(err)), Err: err}
	}
	if l.Token {
		err = m.client.Authenticate(tokenClient{l})
	} else if caps := m.client.Caps(); caps.Has(imap.AuthCap("PLAIN")) {
		err = m.client.Authenticate(sasl.NewPlainClient("", l.Name, l.Secret))
	} else {
		err = m.client.Login(l.Name, l.Secret).Wait()
	}
	if err != nil {
		m.end()
		return nil, refused(s, l, err)
	}
	return m, nil
}

// Close ends the line.
func (m *Mailbox) Close() {
	patience := time.AfterFunc(2*time.Second, m.end)
	_ = m.client.Logout().Wait()
	patience.Stop()
	m.end()
}

var roles = map[imap.MailboxAttr]mail.Role{imap.MailboxAttrArchive: mail.RoleArchive, imap.MailboxAttrAll: mail.RoleArchive, imap.MailboxAttrSent: mail.RoleSent,
	imap.MailboxAttrDrafts: mail.RoleDrafts, imap.MailboxAttrJunk: mail.RoleJunk, imap.MailboxAttrTrash: mail.RoleBin}

// named are the names by which folders are known to be for something, on
// servers that do not say it.
var named = map[string]mail.Role{"archive": mail.RoleArchive, "archives": mail.RoleArchive, "sent": mail.RoleSent, "sent items": mail.RoleSent, "sent messages": mail.RoleSent, "drafts": mail.RoleDrafts,
	"junk": mail.RoleJunk, "spam": mail.RoleJunk, "bulk mail": mail.RoleJunk, "trash": mail.RoleBin, "bin": mail.RoleBin, "deleted items": mail.RoleBin, "deleted messages": mail.RoleBin}

// Folders lists the folders of the account that can hold mail, the inbox first.
// Each role but "other" is given to one folder at most.
func (m *Mailbox) Folders() ([]Folder, error) {
	defer m.line.watch(m.wait)()
	found, err := m.client.List("", "*", nil).Collect()
	if err != nil {
		return nil, &StepError{Step: StepFolders, Text: "The server did not list its folders (" + reason(err) + ").", Err: err}
	}
	var out []Folder
	taken := map[mail.Role]bool{}
	give := func(name string, r mail.Role) {
		if r != mail.RoleOther && taken[r] {
			r = mail.RoleOther
		}
		taken[r] = true
		out = append(out, Folder{name, r})
	}
	var rest []*imap.ListData
	for _, f := range found {
		use := slices.IndexFunc(f.Attrs, func(a imap.MailboxAttr) bool { return roles[a] != "" })
		switch {
		case slices.Contains(f.Attrs, imap.MailboxAttrNoSelect), slices.Contains(f.Attrs, imap.MailboxAttrNonExistent):
		case strings.EqualFold(f.Mailbox, "INBOX"):
			give(f.Mailbox, mail.RoleInbox)
		case use >= 0:
			give(f.Mailbox, roles[f.Attrs[use]])
		default:
			rest = append(rest, f)
		}
	}
	for _, f := range rest {
		name := f.Mailbox
		if f.Delim != 0 {
			name = name[strings.LastIndex(name, string(f.Delim))+1:]
		}
		if r := named[strings.ToLower(name)]; r != "" {
			give(f.Mailbox, r)
		} else {
			give(f.Mailbox, mail.RoleOther)
		}
	}
	slices.SortStableFunc(out, func(a, b Folder) int {
		first := func(f Folder) int { return map[mail.Role]int{mail.RoleInbox: -2, mail.RoleSent: -1}[f.Role] }
		return first(a) - first(b)
	})
	return out, nil
}

// Make makes a folder that is missing.
func (m *Mailbox) Make(name string) error {
	defer m.line.watch(m.wait)()
	return m.client.Create(name, nil).Wait()
}

// Select opens a folder.
func (m *Mailbox) Select(name string) (s Selected, err error) {
	defer m.line.watch(m.wait)()
	d, err := m.client.Select(name, &imap.SelectOptions{CondStore: m.client.Caps().Has(imap.CapCondStore)}).Wait()
	if err != nil {
		return s, err
	}
	return Selected{d.UIDValidity, uint32(d.UIDNext), d.NumMessages, d.HighestModSeq}, nil
}

// UIDs gives the UIDs of all messages of the open folder, in order.
func (m *Mailbox) UIDs() (uids []uint32, err error) {
	defer m.line.watch(m.wait)()
	d, err := m.client.UIDSearch(&imap.SearchCriteria{UID: []imap.UIDSet{{{Start: 1, Stop: 0}}}}, nil).Wait()
	if err != nil {
		return nil, err
	}
	for _, u := range d.AllUIDs() {
		uids = append(uids, uint32(u))
	}
	slices.Sort(uids)
	return slices.Compact(uids), nil
}

func setOf(uids []uint32) (set imap.UIDSet) {
	for _, u := range uids {
		set.AddNum(imap.UID(u))
	}
	return set
}

func fetched(f *imapclient.FetchMessageData) (Fetched, error) {
	var out Fetched
	for item := f.Next(); item != nil; item = f.Next() {
		switch item := item.(type) {
		case imapclient.FetchItemDataUID:
			out.UID = uint32(item.UID)
		case imapclient.FetchItemDataFlags:
			for _, flag := range item.Flags {
				out.Seen = out.Seen || strings.EqualFold(string(flag), string(imap.FlagSeen))
				out.Star = out.Star || strings.EqualFold(string(flag), string(imap.FlagFlagged))
				out.Gone = out.Gone || strings.EqualFold(string(flag), string(imap.FlagDeleted))
			}
		case imapclient.FetchItemDataInternalDate:
			out.At = item.Time
		case imapclient.FetchItemDataBodySection:
			if item.Literal == nil {
				continue
			}
			raw, err := io.ReadAll(item.Literal)
			if err != nil {
				return out, err
			}
			out.Raw = raw
		}
	}
	return out, nil
}

// Fetch gives whole messages of the open folder, in no particular order, as
// they come in. What the server leaves out is not given. The sizes a server
// claims are not relied upon.
func (m *Mailbox) Fetch(uids []uint32, f func(Fetched) error) error {
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, InternalDate: true, BodySection: []*imap.FetchItemBodySection{{Peek: true}}}, f)
}

// Flags gives the flags of messages of the open folder; with since, only of
// those that have changed after that state (CONDSTORE, RFC 7162).
func (m *Mailbox) Flags(uids []uint32, since uint64, f func(Fetched) error) error {
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, ChangedSince: since}, f)
}

func (m *Mailbox) fetch(uids []uint32, o *imap.FetchOptions, f func(Fetched) error) error {
	if len(uids) == 0 {
		return nil
	}
	defer m.line.watch(m.wait)()
	asked := map[uint32]bool{}
	for _, u := range uids {
		asked[u] = true
	}
	cmd := m.client.Fetch(setOf(uids), o)
	var failed error
	for msg := cmd.Next(); msg != nil; msg = cmd.Next() {
		got, err := fetched(msg)
		if err == nil && failed == nil && asked[got.UID] {
			err = f(got)
		}
		if failed == nil {
			failed = err
		}
	}
	if err := cmd.Close(); failed == nil {
		failed = err
	}
	return failed
}

// Move takes messages of the open folder into another one, and says their new
// UIDs there if the server does (RFC 6851, RFC 4315).
func (m *Mailbox) Move(uids []uint32, to string) (moved map[uint32]uint32, err error) {
	defer m.line.watch(m.wait)()
	set := setOf(uids)
	moved = map[uint32]uint32{}
	pair := func(from, to imap.NumSet) {
		a, okA := from.(imap.UIDSet)
		b, okB := to.(imap.UIDSet)
		if !okA || !okB {
			return
		}
		old, _ := a.Nums()
		now, _ := b.Nums()
		for i := range min(len(old), len(now)) {
			moved[uint32(old[i])] = uint32(now[i])
		}
	}
	if m.client.Caps().Has(imap.CapMove) {
		d, err := m.client.Move(set, to).Wait()
		if err == nil && d != nil && d.SourceUIDs != nil {
			pair(d.SourceUIDs, d.DestUIDs)
		}
		return moved, err
	}
	d, err := m.client.Copy(set, to).Wait()
	if err != nil {
		return moved, err
	}
	if d != nil {
		pair(d.SourceUIDs, d.DestUIDs)
	}
	return moved, m.remove(set)
}

// Mark sets or takes away \Seen or \Flagged of messages of the open folder.
func (m *Mailbox) Mark(uids []uint32, star, on bool) error {
	defer m.line.watch(m.wait)()
	flag, op := imap.FlagSeen, imap.StoreFlagsDel
	if star {
		flag = imap.FlagFlagged
	}
	if on {
		op = imap.StoreFlagsAdd
	}
	return m.client.Store(setOf(uids), &imap.StoreFlags{Op: op, Silent: true, Flags: []imap.Flag{flag}}, nil).Close()
}

// Remove deletes messages of the open folder for good. Without UIDPLUS (RFC
// 4315) what another program has marked as deleted there goes with them.
func (m *Mailbox) Remove(uids []uint32) error {
	defer m.line.watch(m.wait)()
	return m.remove(setOf(uids))
}

func (m *Mailbox) remove(set imap.UIDSet) error {
	if err := m.client.Store(set, &imap.StoreFlags{Op: imap.StoreFlagsAdd, Silent: true, Flags: []imap.Flag{imap.FlagDeleted}}, nil).Close(); err != nil {
		return err
	}
	if m.client.Caps().Has(imap.CapUIDPlus) {
		return m.client.UIDExpunge(set).Close()
	}
	return m.client.Expunge().Close()
}

// Lay puts a message that has been read into a folder, as a draft or as one
// that is complete.
func (m *Mailbox) Lay(folder string, raw []byte, at time.Time, draft bool) error {
	defer m.line.watch(m.wait)()
	flags := []imap.Flag{imap.FlagSeen}
	if draft {
		flags = append(flags, imap.FlagDraft)
	}
	cmd := m.client.Append(folder, int64(len(raw)), &imap.AppendOptions{Flags: flags, Time: at})
	if _, err := cmd.Write(raw); err != nil {
		return err
	}
	if err := cmd.Close(); err != nil {
		return err
	}
	_, err := cmd.Wait()
	return err
}

// Find gives the UIDs of the messages of the open folder with that Message-ID.
func (m *Mailbox) Find(messageID string) (uids []uint32, err error) {
	defer m.line.watch(m.wait)()
	d, err := m.client.UIDSearch(&imap.SearchCriteria{Header: []imap.SearchCriteriaHeaderField{{Key: "Message-ID", Value: messageID}}}, nil).Wait()
	if err != nil {
		return nil, err
	}
	for _, u := range d.AllUIDs() {
		uids = append(uids, uint32(u))
	}
	return uids, nil
}

// Await waits until something changes in the open folder, the time is over, or
// something comes through wake. Without IDLE (RFC 2177) it waits out the time,
// up to a minute.
func (m *Mailbox) Await(ctx context.Context, d time.Duration, wake <-chan struct{}) error {
	if !m.client.Caps().Has(imap.CapIdle) {
		d = min(d, time.Minute)
		t := time.NewTimer(d)
		defer t.Stop()
		select {
		case <-t.C:
		case <-wake:
		case <-ctx.Done():
		}
		return ctx.Err()
	}
	idle, err := m.client.Idle()
	if err != nil {
		return err
	}
	over := make(chan error, 1)
	go func() { over <- idle.Wait() }()
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case err := <-over:
		if err == nil {
			err = io.ErrUnexpectedEOF
		}
		return err
	case <-m.news:
	case <-t.C:
	case <-wake:
	case <-ctx.Done():
	}
	defer m.line.watch(m.wait)()
	if err := idle.Close(); err != nil {
		return err
	}
	return <-over
}
