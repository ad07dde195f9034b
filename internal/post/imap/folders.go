package imap

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
)

// Folder is a folder of an account on its server.
type Folder struct {
	Name   string
	Role   mail.Role
	Stands *Selected // how it stands, without being opened; nil: it has to be opened to know
}

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
	delim   string   // between what stands in what; empty: nothing stands in anything
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
		if d := data.Personal[0].Delim; d != 0 {
			m.spaces.delim = string(d)
		}
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
		return nil, &post.StepError{Step: post.StepFolders, Text: "The server did not list its folders (" + post.Reason(err) + ").", Err: err}
	}
	defer m.op(maxReply, maxName)(&err)
	m.guard.folders = 0
	found, err := m.client.List("", "*", m.listing()).Collect()
	m.left = m.guard.unread
	if err != nil {
		return nil, &post.StepError{Step: post.StepFolders, Text: "The server did not list its folders (" + post.Reason(err) + ").", Err: err}
	}
	for _, f := range found {
		if f.Delim != 0 && m.spaces.delim == "" {
			m.spaces.delim = string(f.Delim)
		}
	}
	taken := map[mail.Role]bool{}
	give := func(name string, r mail.Role) {
		if r != mail.RoleOther && taken[r] {
			r = mail.RoleOther
		}
		taken[r] = true
		out = append(out, Folder{Name: name, Role: r})
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
	return out, m.standing(out, found)
}

// standing is what is asked of how a folder stands. Only where the server keeps
// the state of flags, too (CONDSTORE, RFC 7162), nothing else has to be looked at.
var standing = &imap.StatusOptions{NumMessages: true, UIDNext: true, UIDValidity: true, HighestModSeq: true}

// listing asks for how the folders stand with their list, where the server has
// that (LIST-STATUS, RFC 5819).
func (m *Mailbox) listing() *imap.ListOptions {
	caps := m.client.Caps()
	if !caps.Has(imap.CapListStatus) || !caps.Has(imap.CapCondStore) {
		return nil
	}
	return &imap.ListOptions{ReturnStatus: standing, ReturnSpecialUse: caps.Has(imap.CapSpecialUse)}
}

// standing says how the folders stand: as was said with their list, or else by
// one question for each but the open one, of which that is not to be asked (RFC
// 9051, section 6.3.11).
func (m *Mailbox) standing(folders []Folder, found []*imap.ListData) error {
	if !m.client.Caps().Has(imap.CapCondStore) {
		return nil
	}
	said := map[string]*imap.StatusData{}
	for _, f := range found {
		said[f.Mailbox] = f.Status
	}
	asked := m.client.Caps().Has(imap.CapListStatus)
	for i, f := range folders {
		s := said[f.Name]
		if !asked && f.Name != m.at {
			var err error
			if s, err = m.client.Status(f.Name, standing).Wait(); err != nil {
				if _, no := Said(err); no { // opening it will tell why
					continue
				}
				return err
			}
		}
		if s == nil || s.NumMessages == nil || s.HighestModSeq == 0 || s.UIDNext == 0 || s.UIDValidity == 0 {
			continue
		}
		folders[i].Stands = &Selected{s.UIDValidity, uint32(s.UIDNext), *s.NumMessages, s.HighestModSeq}
		if f.Name == m.at {
			m.count = *s.NumMessages
		}
	}
	return nil
}

// Next is the UID that the next message in a folder will have (UIDNEXT); 0 if the
// server does not say. The folder is not the open one.
func (m *Mailbox) Next(folder string) (uid uint32, err error) {
	defer m.op(maxReply, 0)(&err)
	s, err := m.client.Status(folder, &imap.StatusOptions{UIDNext: true}).Wait()
	if err != nil {
		return 0, err
	}
	return uint32(s.UIDNext), nil
}

// Make makes a folder that is missing, among the account's own.
func (m *Mailbox) Make(name string) (err error) {
	if err := m.namespaces(); err != nil {
		return err
	}
	return m.MakeAt(m.spaces.own + name)
}

// Path is what the server calls a folder among the account's own, whose parts stand
// behind each other with “/” between: with its prefix and its hierarchy delimiter (RFC
// 9051, section 5.1.1; RFC 2342). Where nothing stands in anything, “-” is between.
func (m *Mailbox) Path(name string) string {
	if err := m.namespaces(); err != nil || m.spaces.delim == "" {
		_, _ = m.Folders() // which say it, too
	}
	parts := strings.Split(name, "/")
	delim := m.spaces.delim
	for i := range parts {
		if delim != "" {
			parts[i] = strings.ReplaceAll(parts[i], delim, " ")
		}
	}
	return m.spaces.own + strings.Join(parts, cmp.Or(delim, "-"))
}

// MakeAt makes a folder of that name on the server, and has other programs show it
// (SUBSCRIBE), where it can be.
func (m *Mailbox) MakeAt(name string) (err error) {
	defer m.op(maxReply, 0)(&err)
	if err := m.client.Create(name, nil).Wait(); err != nil {
		return err
	}
	if err := m.client.Subscribe(name).Wait(); err != nil {
		if _, no := Said(err); !no {
			return err
		}
	}
	return nil
}

// DropEmpty deletes a folder of that name on the server if nothing lies in it, and says
// whether it has: a server that deletes a folder deletes what is in it. So it has another
// name first, under which nobody else can put anything into it, and is looked at then; what
// has something in it, or cannot have another name, stays.
func (m *Mailbox) DropEmpty(name string) (gone bool, err error) {
	defer m.op(maxReply, 0)(&err)
	refused := func(err error) error { // the folder stays
		if _, no := Said(err); no {
			return nil
		}
		return err
	}
	apart := name + "-" + strconv.FormatInt(time.Now().UnixNano(), 36)
	if err := m.client.Rename(name, apart, nil).Wait(); err != nil {
		return false, refused(err)
	}
	s, err := m.client.Status(apart, &imap.StatusOptions{NumMessages: true}).Wait()
	if err != nil || s.NumMessages == nil || *s.NumMessages > 0 {
		return false, cmp.Or(m.client.Rename(apart, name, nil).Wait(), err)
	}
	if err := m.client.Unsubscribe(name).Wait(); refused(err) != nil {
		return false, err
	}
	if err := m.client.Delete(apart).Wait(); err != nil {
		return false, cmp.Or(m.client.Rename(apart, name, nil).Wait(), refused(err))
	}
	return true, nil
}
