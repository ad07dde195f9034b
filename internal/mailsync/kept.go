package mailsync

import (
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// keeps finds out which folders Ebbe keeps on the server, by their names there; none where
// they are not wanted.
func (p *pass) keeps() error {
	p.kept = nil
	if !p.a.Carries.Folders.On {
		return nil
	}
	streams := map[string]string{}
	err := p.read(func(t store.Tx) error {
		person, err := store.People(t).PersonByID(p.a.PersonID)
		for _, s := range person.Delivery.All() {
			name := person.Delivery.Name(s)
			if s == delivery.StreamPeople {
				name = "Mail from people"
			} else if s == delivery.StreamMachines {
				name = "Newsletters and notices"
			}
			streams[string(s)] = name
		}
		return err
	})
	p.kept = map[string]mail.Role{}
	for r, name := range p.a.Carries.Folders.All(streams) {
		p.kept[p.m.Path(name)] = r
	}
	return err
}

// roleOf is what a folder is for, given what the server says and what it was; empty if it
// was not known. What the folders of Ebbe stand in is only one of them if the server has
// made it with them.
func (p *pass) roleOf(name string, said, was mail.Role) mail.Role {
	switch r, kept := p.kept[name]; {
	case kept && (r != mail.RoleRoot || was == "" || was.Kept()):
		return r
	case was.Kept(): // it has another name now, or is wanted no more
		return mail.RoleWas
	}
	return said
}

// makeKept makes the folders that are missing of those Ebbe keeps there; what is snoozed
// goes into its own then.
func (p *pass) makeKept() error {
	made := false
	names := slices.Sorted(maps.Keys(p.kept)) // what they stand in comes first
	for _, name := range names {
		if p.kept[name] == mail.RoleRoot || slices.ContainsFunc(p.folders, func(f *mailboxes.Folder) bool { return f.Name == name }) {
			continue
		}
		if err := p.m.MakeAt(name); err != nil {
			return err
		}
		made = true
	}
	if !made {
		return nil
	}
	if err := p.write(func(t store.Tx) error { return mailboxes.Errands(t).CarrySnoozed(p.a.BoxID) }); err != nil {
		return err
	}
	return p.list()
}

// heedKept decides about what was moved into the folders Ebbe keeps there, each
// conversation once, however often it is seen before it has left them; and has what lies
// where it does not belong moved. What cannot be decided goes back where it belongs, and
// is told.
func (p *pass) heedKept() error {
	var lying []mailboxes.Lying
	err := p.read(func(t store.Tx) (err error) {
		lying, err = mailboxes.Folders(t).LyingInKept(p.a.BoxID, p.a.ID)
		return err
	})
	if err != nil || len(lying) == 0 {
		return err
	}
	var failed error
	done := map[int64]bool{}
	var about []int64
	for _, l := range lying {
		if l.Role == mail.RoleSnoozed && (l.Place == inbox.Snoozed || l.Put != 0 || l.Open) { // where Ebbe has put it
			if !p.a.Carries.Folders.On || l.Place != inbox.Snoozed {
				about = append(about, l.Conversation)
			}
			continue
		}
		about = append(about, l.Conversation)
		if !l.Role.Asks() || done[l.Conversation] || p.s.Asked == nil {
			continue
		}
		done[l.Conversation] = true
		key := fmt.Sprintf("kept/%d/%d/%d/%d", l.Folder, l.Validity, l.Conversation, l.UID)
		err := p.s.Asked(p.ctx, p.a, l.Role, l.Conversation, key)
		var cannot *problem.Error
		switch {
		case err == nil, errors.Is(err, store.ErrNotFound): // done, or gone meanwhile
		case errors.As(err, &cannot):
			slog.Warn("what was moved into a folder could not be decided", "account", p.a.ID, "role", l.Role, "conversation", l.Conversation, "error", err)
			failed = err
		default:
			return within(err)
		}
	}
	return errors.Join(failed, p.write(func(t store.Tx) error { return mailboxes.Errands(t).CarryMarks(p.a.BoxID, about) }))
}

// dropKept removes what Ebbe has kept there and wants no more, once nothing lies in it. One
// that the server will not have removed is a folder like any other from then on.
func (p *pass) dropKept() error {
	for _, f := range slices.Backward(slices.Clone(p.folders)) { // what stands in another comes behind it
		if f.Role != mail.RoleWas {
			continue
		}
		holds := func(kept bool) bool { // others stand in it, and would go or be renamed with it
			return slices.ContainsFunc(p.folders, func(o *mailboxes.Folder) bool {
				return o != f && !o.Gone && strings.HasPrefix(o.Name, f.Name) && o.Role.Kept() == kept
			})
		}
		if holds(true) {
			continue // after these
		}
		now, err := p.m.Select(f.Name)
		if err != nil {
			return err
		}
		if now.Count > 0 {
			continue // with the next pass
		}
		if err := p.at("INBOX"); err != nil { // an open folder cannot go
			return err
		}
		gone := false
		if !holds(false) {
			if gone, err = p.m.DropEmpty(f.Name); err != nil {
				return err
			}
		}
		if !gone {
			if now, err = p.m.Select(f.Name); err != nil {
				return err
			}
			if now.Count > 0 { // somebody has put something there meanwhile
				continue
			}
		}
		if err := p.write(func(t store.Tx) error {
			f.Gone, f.Role = gone, mail.RoleOther
			return mailboxes.Folders(t).PutFolder(f)
		}); err != nil {
			return err
		}
	}
	return nil
}

// Keeps says whether Ebbe still keeps folders on the server of an account, or mail lies in
// what is left of them.
func Keeps(t store.Tx, account int64) (bool, error) {
	folders, err := mailboxes.Folders(t).Folders(account)
	return slices.ContainsFunc(folders, func(f mailboxes.Folder) bool { return f.Role.Kept() }), err
}
