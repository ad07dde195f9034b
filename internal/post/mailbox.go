package post

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"net"
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
	Size int64     // RFC822.SIZE, as the server claims it
}

// Mailbox is a line to the mailbox of an account (IMAP, RFC 9051 or RFC 3501).
// It is used by one goroutine at a time. What a server may send is limited in
// size, number and time; an error of the type *Excess says which limit it broke.
type Mailbox struct {
	client *imapclient.Client
	line   *watched
	guard  *guard
	news   chan struct{} // something has changed in the open folder
	end    func()
	wait   time.Duration
	left   int // folders left out, as their names cannot be read
	spaces spaces
}

// StepServer is the step at which a server does what no server may.
const StepServer = "server"

// op begins a command whose reply has so many bytes at most. What it returns ends
// the command, and puts in place of the error what the server did wrong.
func (m *Mailbox) op(most, largest int64) (end func(*error)) {
	m.guard.begin(most, largest, 10*m.wait)
	stop := m.line.watch(m.wait)
	return func(err *error) {
		stop()
		if wrong := m.guard.wrong(); wrong != nil && *err != nil {
			*err = wrong
		}
	}
}

// OpenMailbox connects and signs in. Errors are of the type *StepError. The
// line is cut when the context ends.
func OpenMailbox(ctx context.Context, n Network, s mail.Server, l Login) (m *Mailbox, err error) {
	reached, err := n.connect(ctx, s)
	if err != nil {
		return nil, err
	}
	line := &watched{Conn: reached}
	stop := context.AfterFunc(ctx, func() { _ = reached.Close() })
	defer line.watch(n.Patience)()
	inner := net.Conn(line)
	if s.Security == mail.StartTLS {
		if inner, err = startTLSMailbox(line, s, n.config(s)); err != nil {
			stop()
			_ = reached.Close()
			return nil, err
		}
	}
	g := &guard{Conn: inner}
	g.begin(maxReply, maxWord, 10*n.Patience)
	m = &Mailbox{line: line, guard: g, news: make(chan struct{}, 1), wait: n.Patience}
	tell := func() {
		select {
		case m.news <- struct{}{}:
		default:
		}
	}
	options := &imapclient.Options{UnilateralDataHandler: &imapclient.UnilateralDataHandler{
		Expunge: func(uint32) { tell() },
		Mailbox: func(*imapclient.UnilateralDataMailbox) { tell() },
		Fetch: func(f *imapclient.FetchMessageData) {
			for f.Next() != nil {
			}
			tell()
		},
	}}
	m.client = imapclient.New(g, options)
	m.end = func() { stop(); _ = m.client.Close(); _ = reached.Close() }
	excess := func(err error) error {
		if wrong := g.wrong(); wrong != nil {
			return &StepError{Step: StepServer, Text: s.Host + " does what no mailbox server may. " + wrong.Error(), Err: wrong}
		}
		return err
	}
	if err := m.client.WaitGreeting(); err != nil {
		m.end()
		return nil, excess(&StepError{Step: StepGreet, Text: fmt.Sprintf("%s answers, but not as a mailbox server does (%s). Check the port.", hostPort(s), reason(err)), Err: err})
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
		return nil, excess(refused(s, l, saidBy(err), err))
	}
	return m, nil
}

// saidBy is what a server said in refusing; "" if it ended the line.
func saidBy(err error) string {
	var no *imap.Error
	if errors.As(err, &no) {
		return cmp.Or(no.Text, "no")
	}
	return ""
}

// startTLSMailbox asks for TLS on a line in the clear (RFC 9051, section 6.2.1),
// and gives the line within it, as one that is greeted anew.
func startTLSMailbox(conn net.Conn, s mail.Server, c *tls.Config) (net.Conn, error) {
	in := bufio.NewReaderSize(conn, 4096)
	wrong := func(err error) error {
		return &StepError{Step: StepGreet, Text: fmt.Sprintf("%s answers, but not as a mailbox server does (%s). Check the port.", hostPort(s), reason(err)), Err: err}
	}
	greeting, err := in.ReadSlice('\n')
	if err != nil {
		return nil, wrong(err)
	}
	if !bytes.HasPrefix(greeting, []byte("* OK")) {
		return nil, wrong(errors.New("it said “" + mail.Clean(string(greeting), 100) + "”"))
	}
	if _, err := conn.Write([]byte("S1 STARTTLS\r\n")); err != nil {
		return nil, wrong(err)
	}
	agreed := false
	for range longestReply {
		line, err := in.ReadSlice('\n')
		if err != nil {
			return nil, wrong(err)
		}
		if rest, ok := bytes.CutPrefix(line, []byte("S1 ")); ok {
			if agreed = bytes.HasPrefix(bytes.ToUpper(rest), []byte("OK")); !agreed {
				return nil, &StepError{Step: StepSecure, Text: fmt.Sprintf("%s does not offer STARTTLS, so the password was not sent. Try TLS and another port; 993 is the usual one.", hostPort(s))}
			}
			break
		}
	}
	if !agreed || in.Buffered() > 0 {
		return nil, &StepError{Step: StepSecure, Text: fmt.Sprintf("Somebody has meddled with the line to %s, so the password was not sent.", hostPort(s))}
	}
	t := tls.Client(conn, c)
	if err := t.Handshake(); err != nil {
		return nil, secure(s, err)
	}
	return &begun{t, []byte("* OK " + s.Host + "\r\n")}, nil
}

// Said gives what a server answered where it refused a command (RFC 9051, section
// 7.1.2); false if the error is another one.
func Said(err error) (text string, no bool) {
	var refusal *imap.Error
	if errors.As(err, &refusal) && refusal.Type == imap.StatusResponseTypeNo {
		return mail.Clean(refusal.Text, 200), true
	}
	return "", false
}

// Close ends the line.
func (m *Mailbox) Close() {
	patience := time.AfterFunc(time.Second, m.end)
	_ = m.client.Logout().Wait()
	patience.Stop()
	m.end()
}

// LeftOut is how many folders were left out when they were last listed, as their
// names cannot be read.
func (m *Mailbox) LeftOut() int { return m.left }

var roles = map[imap.MailboxAttr]mail.Role{imap.MailboxAttrArchive: mail.RoleArchive, imap.MailboxAttrSent: mail.RoleSent,
	imap.MailboxAttrDrafts: mail.RoleDrafts, imap.MailboxAttrJunk: mail.RoleJunk, imap.MailboxAttrTrash: mail.RoleBin}

// named are the names by which folders are known to be for something, on
// servers that do not say it.
var named = map[string]mail.Role{"archive": mail.RoleArchive, "archives": mail.RoleArchive, "sent": mail.RoleSent, "sent items": mail.RoleSent, "sent messages": mail.RoleSent, "drafts": mail.RoleDrafts,
	"junk": mail.RoleJunk, "spam": mail.RoleJunk, "bulk mail": mail.RoleJunk, "trash": mail.RoleBin, "bin": mail.RoleBin, "deleted items": mail.RoleBin, "deleted messages": mail.RoleBin}

// views are the folders that only show what lies in others (RFC 6154, section
// 2): they have no role here and are never kept in step.
var views = []imap.MailboxAttr{imap.MailboxAttrAll, imap.MailboxAttrFlagged}

// spaces are the prefixes under which the folders of an account and those of
// others stand (NAMESPACE, RFC 2342).
type spaces struct {
	known   bool
	own     string
	foreign []string // of other users, and shared
}

// namespaces asks the server for its namespaces, once; one that has none has its
// own folders alone.
func (m *Mailbox) namespaces() (err error) {
	if m.spaces.known || !m.client.Caps().Has(imap.CapNamespace) {
		return nil
	}
	defer m.op(maxReply, maxName)(&err)
	data, err := m.client.Namespace().Wait()
	if err != nil {
		if _, no := Said(err); no { // it does not say after all
			err = nil
		}
		return err
	}
	m.spaces.known = true
	if len(data.Personal) > 0 {
		m.spaces.own = data.Personal[0].Prefix
	}
	for _, d := range slices.Concat(data.Other, data.Shared) {
		if d.Prefix != "" {
			m.spaces.foreign = append(m.spaces.foreign, d.Prefix)
		}
	}
	return nil
}

// Folders lists the folders of the account itself that can hold mail, the inbox
// first: none of others, and none that only shows what lies elsewhere. Each role
// but "other" is given to one folder at most.
func (m *Mailbox) Folders() (out []Folder, err error) {
	if err := m.namespaces(); err != nil {
		return nil, &StepError{Step: StepFolders, Text: "The server did not list its folders (" + reason(err) + ").", Err: err}
	}
	defer m.op(maxReply, maxName)(&err)
	m.guard.folders = 0
	found, err := m.client.List("", "*", nil).Collect()
	m.left = m.guard.unread
	if err != nil {
		return nil, &StepError{Step: StepFolders, Text: "The server did not list its folders (" + reason(err) + ").", Err: err}
	}
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
		case slices.ContainsFunc(f.Attrs, func(a imap.MailboxAttr) bool { return slices.Contains(views, a) }):
		case slices.ContainsFunc(m.spaces.foreign, func(prefix string) bool { return strings.HasPrefix(f.Mailbox, prefix) }):
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

// Make makes a folder that is missing, among the account's own.
func (m *Mailbox) Make(name string) (err error) {
	if err := m.namespaces(); err != nil {
		return err
	}
	name = m.spaces.own + name
	defer m.op(maxReply, 0)(&err)
	return m.client.Create(name, nil).Wait()
}

// Select opens a folder.
func (m *Mailbox) Select(name string) (s Selected, err error) {
	defer m.op(maxReply, 0)(&err)
	d, err := m.client.Select(name, &imap.SelectOptions{CondStore: m.client.Caps().Has(imap.CapCondStore)}).Wait()
	if err != nil {
		return s, err
	}
	return Selected{d.UIDValidity, uint32(d.UIDNext), d.NumMessages, d.HighestModSeq}, nil
}

// UIDs gives the UIDs of all messages of the open folder, in order.
func (m *Mailbox) UIDs() (uids []uint32, err error) {
	return m.search(&imap.SearchCriteria{UID: []imap.UIDSet{{{Start: 1, Stop: 0}}}})
}

// search gives the UIDs that a search finds, in order.
func (m *Mailbox) search(c *imap.SearchCriteria) (uids []uint32, err error) {
	defer m.op(4*maxReply, 0)(&err)
	if _, err := m.client.UIDSearch(c, nil).Wait(); err != nil {
		return nil, err
	}
	return m.guard.found(), nil
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
		case imapclient.FetchItemDataRFC822Size:
			out.Size = item.Size
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

// MaxFetched is the largest message that is fetched from a server by itself, in
// bytes. A larger one is kept by its header until the user asks for it.
const MaxFetched = 32 << 20

// Sizes says how large messages of the open folder are, as the server claims.
func (m *Mailbox) Sizes(uids []uint32) (sizes map[uint32]int64, err error) {
	sizes = map[uint32]int64{}
	err = m.fetch(uids, &imap.FetchOptions{UID: true, RFC822Size: true}, 0, 0, func(f Fetched) error { sizes[f.UID] = f.Size; return nil })
	return sizes, err
}

// Fetch gives whole messages of the open folder, in no particular order, as
// they come in. What the server leaves out is not given. The sizes a server
// claims are not relied upon, but none may have more than largest bytes, and all
// together no more than twice those claimed, and some.
func (m *Mailbox) Fetch(uids []uint32, largest, claimed int64, f func(Fetched) error) error {
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, InternalDate: true, BodySection: []*imap.FetchItemBodySection{{Peek: true}}}, largest, 2*claimed+int64(len(uids))*maxWord, f)
}

// FetchHeads gives the headers of messages of the open folder, and of each no
// more than the first 64 kB.
func (m *Mailbox) FetchHeads(uids []uint32, f func(Fetched) error) error {
	section := &imap.FetchItemBodySection{Peek: true, Specifier: imap.PartSpecifierHeader, Partial: &imap.SectionPartial{Size: maxWord}}
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, InternalDate: true, RFC822Size: true, BodySection: []*imap.FetchItemBodySection{section}}, maxWord, int64(len(uids))*maxWord, f)
}

// Flags gives the flags of messages of the open folder; with since, only of
// those that have changed after that state (CONDSTORE, RFC 7162).
func (m *Mailbox) Flags(uids []uint32, since uint64, f func(Fetched) error) error {
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, ChangedSince: since}, 0, 0, f)
}

func (m *Mailbox) fetch(uids []uint32, o *imap.FetchOptions, largest, all int64, f func(Fetched) error) (err error) {
	if len(uids) == 0 {
		return nil
	}
	defer m.op(maxReply+all, largest)(&err)
	asked := map[uint32]bool{}
	for _, u := range uids {
		asked[u] = true
	}
	cmd := m.client.Fetch(setOf(uids), o)
	var failed error
	came := 0
	for msg := cmd.Next(); msg != nil; msg = cmd.Next() {
		if came++; came > 4*len(uids)+1000 {
			failed = m.guard.fail("It hands out messages that nobody asked for.")
			break
		}
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
	defer m.op(maxReply, 0)(&err)
	set := setOf(uids)
	moved = map[uint32]uint32{}
	pair := func(from, to imap.NumSet) {
		a, okA := from.(imap.UIDSet)
		b, okB := to.(imap.UIDSet)
		if !okA || !okB {
			return
		}
		if count(a) > len(uids) || count(b) > len(uids) { // more than were moved: what it says is not believed
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

// count is how many messages a set names; very many if it has no end.
func count(set imap.UIDSet) (n int) {
	for _, r := range set {
		if r.Start == 0 || r.Stop == 0 {
			return 1 << 40
		}
		n += int(max(r.Start, r.Stop)) - int(min(r.Start, r.Stop)) + 1
	}
	return n
}

// Mark sets or takes away \Seen or \Flagged of messages of the open folder.
func (m *Mailbox) Mark(uids []uint32, star, on bool) (err error) {
	defer m.op(maxReply, 0)(&err)
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
func (m *Mailbox) Remove(uids []uint32) (err error) {
	defer m.op(maxReply, 0)(&err)
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
func (m *Mailbox) Lay(folder string, raw []byte, at time.Time, draft bool) (err error) {
	defer m.op(maxReply, 0)(&err)
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
	_, err = cmd.Wait()
	return err
}

// Find gives the UIDs of the messages of the open folder with that Message-ID.
func (m *Mailbox) Find(messageID string) (uids []uint32, err error) {
	return m.search(&imap.SearchCriteria{Header: []imap.SearchCriteriaHeaderField{{Key: "Message-ID", Value: messageID}}})
}

// alive is how long a line is let be before it is asked whether it is alive, so
// that one that is dead is noticed within a minute.
const alive = 45 * time.Second

// Await waits until something changes in the open folder, the time is over, or
// something comes through wake; woken says that it was that and nothing else.
// Without IDLE (RFC 2177) it waits out the time, at most a minute of it. The line
// is asked now and then whether it is alive.
func (m *Mailbox) Await(ctx context.Context, d time.Duration, wake <-chan struct{}) (woken bool, err error) {
	if !m.client.Caps().Has(imap.CapIdle) {
		t := time.NewTimer(min(d, time.Minute))
		defer t.Stop()
		select {
		case <-t.C:
		case <-wake:
			woken = true
		case <-ctx.Done():
		}
		return woken, ctx.Err()
	}
	for end := time.Now().Add(d); ; {
		news, woken, err := m.idle(ctx, min(time.Until(end), alive), wake)
		if err == nil {
			err = ctx.Err()
		}
		if err != nil || news || woken || !time.Now().Before(end) {
			return woken && !news, err
		}
	}
}

// idle waits once.
func (m *Mailbox) idle(ctx context.Context, d time.Duration, wake <-chan struct{}) (news, woken bool, err error) {
	m.guard.begin(maxReply/4, 0, 0)
	idle, err := m.client.Idle()
	if err != nil {
		return false, false, err
	}
	over := make(chan error, 1)
	go func() { over <- idle.Wait() }()
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case err := <-over:
		if wrong := m.guard.wrong(); wrong != nil {
			return false, false, wrong
		}
		if err == nil {
			err = io.ErrUnexpectedEOF
		}
		return false, false, err
	case <-m.news:
		news = true
	case <-t.C:
	case <-wake:
		woken = true
	case <-ctx.Done():
	}
	defer m.line.watch(m.wait)()
	if err := idle.Close(); err != nil {
		return news, woken, err
	}
	return news, woken, <-over
}
