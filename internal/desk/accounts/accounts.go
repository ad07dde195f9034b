package accounts

import (
	"context"
	"errors"
	netmail "net/mail"
	"regexp"
	"strings"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/mailsync"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/smtp"
	"ebbe/internal/problem"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// World is what is outside of Ebbe and moves with the demo's clock.
type World interface {
	Next() time.Time // when something happens there next; zero if nothing will
	Advance() bool   // lets happen what is due by now, and says whether anything did
}

// Links is how the servers of accounts are reached.
type Links struct {
	Network post.Network
	Key     secrets.Key
	World   World  // nil: the real one
	Outside string // how Ebbe is reached from outside, as https://ebbe.example; empty: not known
}

// Connect gives the desk its links.
func (d *Desk) Connect(l Links) { d.links = &l }

// Linked says that servers can be reached.
func (d *Desk) Linked() bool { return d.links != nil }

var errUnlinked = &problem.Error{Type: "unlinked", Text: "This Ebbe was started without access to the network, so accounts cannot be used."}

// All gives the accounts of the user, without their secrets.
func (d *Desk) All(ctx context.Context, who identity.Who) (v Accounts, err error) {
	v.Accounts = []AccountView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		accounts, err := mailboxes.Accounts(t).Accounts(who.Box)
		if err != nil {
			return err
		}
		asked, err := mailboxes.Folders(t).AskedAbout(who.Box)
		if err != nil {
			return err
		}
		for _, a := range accounts {
			view := viewOfAccount(a)
			view.Vanished = asked[a.ID]
			v.Accounts = append(v.Accounts, view)
		}
		v.Uncarried, v.Problem, err = mailboxes.Errands(t).NotCarriedOut(who.Box)
		return err
	})
	return v, err
}

func viewOfAccount(a mailboxes.Account) AccountView {
	return AccountView{ID: a.ID, Name: a.Name, Address: a.Address, FullName: a.FullName, Signature: a.Signature, Mailbox: a.Mailbox, Sending: a.Sending,
		Login: a.Login, Token: a.Token, Carries: a.Carries, Paused: a.Paused, EmptyDays: a.EmptyDays, Synced: a.Synced, Trouble: a.Trouble, Expected: a.Expected, Brought: a.Brought}
}

// FindServers looks for the servers of an address. What is not announced by its
// domain comes back with the usual names, to be checked.
func (d *Desk) FindServers(ctx context.Context, address string) (f ServersFound, err error) {
	if d.links == nil {
		return f, errUnlinked
	}
	address = strings.ToLower(strings.TrimSpace(address))
	if a, err := netmail.ParseAddress(address); err != nil || a.Address != address {
		return f, problem.Invalid("address", "That is no mail address. It looks like name@place.example.")
	}
	f.Mailbox, f.Sending = d.links.Network.Find(ctx, address)
	f.Announced = f.Mailbox.Host != "" && f.Sending.Host != ""
	_, domain, _ := strings.Cut(address, "@")
	if f.Mailbox.Host == "" {
		f.Mailbox = mail.Server{Host: "imap." + domain, Port: 993, Security: mail.TLS}
	}
	if f.Sending.Host == "" {
		f.Sending = mail.Server{Host: "smtp." + domain, Port: 465, Security: mail.TLS}
	}
	return f, nil
}

// check reads what the user typed about an account; the secret may be left out
// where one is known.
func (v AccountDraft) check(known bool) (AccountDraft, error) {
	v.Address, v.Name, v.Login, v.FullName = strings.ToLower(strings.TrimSpace(v.Address)), strings.TrimSpace(v.Name), strings.TrimSpace(v.Login), strings.TrimSpace(v.FullName)
	if a, err := netmail.ParseAddress(v.Address); err != nil || a.Address != v.Address {
		return v, problem.Invalid("address", "Nothing was saved: that is no mail address. It looks like name@place.example.")
	}
	if v.Login == "" {
		v.Login = v.Address
	}
	if v.Name == "" {
		_, v.Name, _ = strings.Cut(v.Address, "@")
	}
	for field, s := range map[string]*mail.Server{"mailbox": &v.Mailbox, "sending": &v.Sending} {
		s.Host = strings.ToLower(strings.TrimSpace(s.Host))
		switch {
		case s.Host == "" || strings.ContainsAny(s.Host, " /:@\r\n\t"):
			return v, problem.Invalid(field, "Nothing was saved: write the name of the server alone, as in imap.place.example.")
		case s.Port < 1 || s.Port > 65535:
			return v, problem.Invalid(field, "Nothing was saved: a port is a number from 1 to 65535; 993 and 465 are the usual ones.")
		case s.Trust != "" && !isFingerprint(s.Trust):
			return v, problem.Invalid(field, "Nothing was saved: that is no fingerprint of a certificate.")
		case s.Security != mail.TLS && s.Security != mail.StartTLS && s.Security != mail.Clear:
			return v, problem.Invalid(field, "Nothing was saved: choose TLS or STARTTLS.")
		}
	}
	switch {
	case v.EmptyDays != 0 && (v.EmptyDays < 7 || v.EmptyDays > 3650):
		return v, problem.Invalid("emptyDays", "Nothing was saved: bin and junk are emptied after 7 days at the earliest, or never.")
	case v.Carries.Folders.Valid() != nil:
		return v, problem.Invalid("folders", "Nothing was saved: "+v.Carries.Folders.Valid().Error()+".")
	case v.Secret == "" && !known:
		return v, problem.Invalid("secret", "Nothing was saved: the password is missing.")
	case len(v.Name) > 100 || len(v.FullName) > 200 || len(v.Signature) > 2000 || len(v.Secret) > 8000:
		return v, problem.Invalid("signature", "Nothing was saved: that is too long. A signature has room for 2,000 letters.")
	}
	return v, nil
}

var isFingerprint = regexp.MustCompile(`^[0-9a-f]{64}$`).MatchString

// guards refuses to send a secret that was stored for other servers to those of
// the draft: whoever can change an account could have it sent to themselves.
func (v AccountDraft) guards(a mailboxes.Account) error {
	if v.Secret == "" && a.ID != 0 && (v.Mailbox.Riskier(a.Mailbox) || v.Sending.Riskier(a.Sending)) {
		return problem.Invalid("secret", "Nothing was saved: the password was stored for another server or a safer line, and is sent nowhere else. Type it again.")
	}
	return nil
}

// account is what the draft makes of an account.
func (d *Desk) account(a mailboxes.Account, v AccountDraft) mailboxes.Account {
	a.Name, a.Address, a.FullName, a.Signature, a.Mailbox, a.Sending = v.Name, v.Address, v.FullName, v.Signature, v.Mailbox, v.Sending
	a.Login, a.Token, a.Carries, a.Paused, a.EmptyDays = v.Login, v.Token, v.Carries, v.Paused, v.EmptyDays
	if v.Secret != "" {
		a.Secret = d.links.Key.Seal(v.Secret)
	}
	return a
}

// Test tries what the user typed, step by step, and stores nothing.
func (d *Desk) Test(ctx context.Context, who identity.Who, v AccountDraft) (r AccountTest, err error) {
	if err := who.May(together.Serve); err != nil {
		return r, err
	}
	if d.links == nil {
		return r, errUnlinked
	}
	v, err = v.check(v.ID != 0)
	if err != nil {
		return r, err
	}
	var a mailboxes.Account
	if v.ID != 0 {
		err = d.store.Read(ctx, func(t store.Tx) error { a, err = mailboxes.Accounts(t).Account(who.Box, v.ID); return err })
		if err != nil {
			return r, err
		}
	}
	if err := v.guards(a); err != nil {
		return r, err
	}
	a = d.account(a, v)
	login, err := d.login(a)
	if err != nil {
		return r, problem.Invalid("secret", say.Upper(err.Error())+".")
	}
	try := func(name string, server mail.Server, open func() error) {
		s := TestStep{Name: name, Server: server.Host}
		if err := open(); err != nil {
			var step *post.StepError
			s.Text = err.Error()
			if errors.As(err, &step) {
				s.Step, s.Fingerprint, s.Offer = step.Step, step.Fingerprint, step.Offer
			}
		} else {
			s.Fine = true
		}
		r.Steps = append(r.Steps, s)
	}
	try("mailbox", a.Mailbox, func() error {
		m, err := imap.Open(ctx, d.links.Network, a.Mailbox, login)
		if err != nil {
			return err
		}
		defer m.Close()
		folders, err := m.Folders()
		for _, f := range folders {
			r.Folders = append(r.Folders, f.Name)
		}
		return err
	})
	try("sending", a.Sending, func() error {
		c, err := smtp.Open(ctx, d.links.Network, a.Sending, login)
		if err == nil {
			c.Close()
		}
		return err
	})
	r.Fine = r.Steps[0].Fine && r.Steps[1].Fine
	return r, nil
}

// login is how one signs in to the servers of an account.
func (d *Desk) login(a mailboxes.Account) (post.Login, error) {
	secret, err := d.links.Key.Open(a.Secret)
	return post.Login{Name: a.Login, Secret: secret, Token: a.Token}, err
}

// Put stores an account, new or changed, and begins to keep it in step.
// Mail from its address counts as the user's own.
func (d *Desk) Put(ctx context.Context, who identity.Who, key string, v AccountDraft) (out AccountView, err error) {
	if err := who.May(together.Serve); err != nil {
		return out, err
	}
	if d.links == nil {
		return out, errUnlinked
	}
	v, err = v.check(v.ID != 0)
	if err != nil {
		return out, err
	}
	out, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out AccountView, err error) {
		accounts, err := mailboxes.Accounts(t).Accounts(who.Box)
		if err != nil {
			return out, err
		}
		a := mailboxes.Account{BoxID: who.Box, PersonID: who.Keeper(), Begun: d.Journal.Now()}
		for _, other := range accounts {
			if other.ID == v.ID {
				a = other
			} else if other.Address == v.Address && other.Mailbox.Host == v.Mailbox.Host {
				return out, problem.Invalid("address", "Nothing was saved: there is an account of that address already. Change that one.")
			}
		}
		if v.ID != 0 && a.ID == 0 {
			return out, store.ErrNotFound
		}
		if err := v.guards(a); err != nil {
			return out, err
		}
		a = d.account(a, v)
		a.Trouble = ""
		if err := mailboxes.Accounts(t).PutAccount(&a); err != nil {
			return out, err
		}
		out = viewOfAccount(a)
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		own, err := intake.OwnAddresses(t, who.Box)
		if err != nil || own[a.Address] {
			return out, err
		}
		if err := store.People(t).PutPerson(&p, who.Box, []store.OwnAddress{{Address: a.Address, Account: a.Name}}); err != nil {
			return out, err
		}
		return out, intake.Adopt(t, who.Itself(), d.Journal.Now())
	})
	if err == nil {
		d.Mail.Changed()
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicAccounts, journal.TopicMail}})
	}
	return out, err
}

const movingBack = 30 * time.Second // how long is waited for a server that is to move mail back

// Drop ends keeping an account in step. Its mail stays in Ebbe and on
// the server, and decisions are no longer carried there. What lies in folders that Ebbe
// keeps there is moved back first; where that cannot be done now, the account stays until
// it can, unless anyway is said.
func (d *Desk) Drop(ctx context.Context, who identity.Who, id int64, anyway bool) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	if !anyway {
		if err := d.moveBack(ctx, who, id); err != nil {
			return err
		}
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		if _, err := mailboxes.Accounts(t).Account(who.Box, id); err != nil {
			return err
		}
		return mailboxes.Accounts(t).DropAccount(id)
	})
	if err == nil {
		if d.links != nil {
			d.Mail.Changed()
		}
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicAccounts}})
	}
	return err
}

// moveBack has what lies in the folders that Ebbe keeps on the server of an account moved
// back, and these removed.
func (d *Desk) moveBack(ctx context.Context, who identity.Who, id int64) error {
	var a mailboxes.Account
	keeps := false
	look := func(t store.Tx) (err error) {
		keeps, err = mailsync.Keeps(t, id)
		return err
	}
	err := d.store.Write(ctx, func(t store.Tx) (err error) {
		if a, err = mailboxes.Accounts(t).Account(who.Box, id); err != nil {
			return err
		}
		if err := look(t); err != nil || !keeps {
			return err
		}
		a.Carries.Folders.On = false // which lasts: it is gone on with after a crash
		return mailboxes.Accounts(t).PutAccount(&a)
	})
	if err != nil || !keeps {
		return err
	}
	if d.links != nil && !a.Paused {
		ctx, cancel := context.WithTimeout(ctx, movingBack)
		defer cancel()
		for range 2 { // what is decided there first, and what is left then
			if err := d.Mail.Pass(ctx, a, nil, false); err != nil {
				break
			}
		}
	}
	if err := d.store.Read(ctx, look); err != nil || !keeps {
		return err
	}
	return &problem.Error{Type: "moving-back", Text: "The account is still there: mail lies in the folders that Ebbe keeps on its server, and could not be moved back now. That is gone on with by itself; remove the account later, or all the same."}
}
