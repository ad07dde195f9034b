package identity

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/trustelem/zxcvbn"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// idOf is by what a person names one of their sessions.
func idOf(s admission.Session) string { return s.TokenHash[:16] }

// Security gives how a person signs in, and where they are signed in.
func (d *Directory) Security(ctx context.Context, who Who, token string, site Site) (out Security, err error) {
	now := time.Now()
	_, noName := site.webauthn()
	out = Security{Sessions: []SessionView{}, Passkeys: []PasskeyView{}, Named: noName == nil, Idle: int(idleLength.Hours()) / 24, Most: int(sessionLength.Hours()) / 24}
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		out.Codes, out.Leaves = len(p.Codes) > 0, p.Leaves
		left, err := admission.Admission(t).RecoveryCodes(who.Person)
		if err != nil {
			return err
		}
		out.Recovery = int(left)
		keys, err := admission.Admission(t).Passkeys(who.Person)
		if err != nil {
			return err
		}
		for _, k := range keys {
			out.Passkeys = append(out.Passkeys, PasskeyView{k.ID, k.Name, k.Made, k.Used})
		}
		all, err := admission.Admission(t).Sessions(who.Person)
		for _, s := range all {
			if s.Expires > when.Of(now) && s.Seen > when.Of(now.Add(-idleLength)) {
				out.Sessions = append(out.Sessions, SessionView{ID: idOf(s), Here: s.TokenHash == tokenHash(token), Browser: called(s.Browser), Origin: s.Origin, Begun: s.Begun, Seen: s.Seen})
			}
		}
		return err
	})
	return out, err
}

// EndSession ends one of a person's sessions, by its ID; all but the one of the token
// without any.
func (d *Directory) EndSession(ctx context.Context, who Who, id, token string) error {
	if id == "" {
		return d.endAll(ctx, who.Person, token)
	}
	var all []admission.Session
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		all, err = admission.Admission(t).Sessions(who.Person)
		return err
	})
	if err != nil {
		return err
	}
	for _, s := range all {
		if idOf(s) == id {
			return d.end(ctx, s.TokenHash)
		}
	}
	return nil // it has ended
}

// endAll ends all sessions of a person but the one of a token; "": that, too.
func (d *Directory) endAll(ctx context.Context, person int64, but string) error {
	var hashes []string
	err := d.store.Read(ctx, func(t store.Tx) error {
		all, err := admission.Admission(t).Sessions(person)
		for _, s := range all {
			if but == "" || s.TokenHash != tokenHash(but) {
				hashes = append(hashes, s.TokenHash)
			}
		}
		return err
	})
	if err != nil {
		return err
	}
	return d.end(ctx, hashes...)
}

// Rename changes what a person is called.
func (d *Directory) Rename(ctx context.Context, who Who, name string) error {
	name, err := goodName(name)
	if err != nil {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		return store.People(t).ChangePerson(who.Person, map[string]any{"name": name})
	})
}

func goodName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return "", problem.Invalid("name", "Write your name: it stands above your mail.")
	}
	if len(name) > 200 {
		return "", problem.Invalid("name", "That name is too long: 200 letters are kept. Nothing was changed.")
	}
	return name, nil
}

// ChangePassword sets a new password for whoever knows the old one. All other sessions end.
func (d *Directory) ChangePassword(ctx context.Context, who Who, old, fresh, token string) error {
	p, err := d.sure(ctx, who, old)
	if err != nil {
		return err
	}
	if err := d.fit(fresh, p.Name, p.Address); err != nil {
		return err
	}
	hash := d.checks.hash(fresh)
	if err := d.store.Write(ctx, func(t store.Tx) error {
		return store.People(t).ChangePerson(p.ID, map[string]any{"password": hash})
	}); err != nil {
		return err
	}
	return d.endAll(ctx, p.ID, token)
}

// ResetPassword sets a password for whoever has the machine: a new one, which it gives. All
// sessions end; the person is told when they sign in next. Codes by the time are asked for
// no more if they are to be dropped.
func (d *Directory) ResetPassword(ctx context.Context, address string, dropCodes bool) (fresh string, err error) {
	var p store.Person
	if err = d.store.Read(ctx, func(t store.Tx) (err error) {
		p, err = store.People(t).PersonByAddress(strings.ToLower(strings.TrimSpace(address)))
		return err
	}); err != nil {
		return "", err
	}
	fresh = Secret()[:20]
	columns := map[string]any{"password": d.checks.hash(fresh), "tell": d.toldOf("Your password was set anew on the machine on which Ebbe runs")}
	if dropCodes {
		columns["codes"], columns["code_used"] = nil, 0
	}
	if err = d.store.Write(ctx, func(t store.Tx) error { return store.People(t).ChangePerson(p.ID, columns) }); err != nil {
		return "", err
	}
	return fresh, d.endAll(ctx, p.ID, "")
}

// toldOf is what somebody is told when they sign in next.
func (d *Directory) toldOf(what string) string {
	return fmt.Sprintf("%s on %s. If that was not you or for you, change it in Setup, and tell whoever looks after this Ebbe.", what, time.Now().Format("2 January 2006, 15:04"))
}

// sure gives a person who has just shown that they know their password; whoever signs in
// without one, as in the demo, need not.
func (d *Directory) sure(ctx context.Context, who Who, password string) (p store.Person, err error) {
	if p, err = d.person(ctx, who.Person); err != nil || p.Password == "" {
		return p, err
	}
	key := fmt.Sprint("sure ", who.Person)
	if wait := d.tries.begin(key, time.Now()); wait > 0 {
		return p, slowDown(wait)
	}
	right, err := d.checks.check(ctx, p.Password, password)
	if err != nil {
		d.tries.undo(key)
		return p, err
	}
	if !right {
		return p, problem.Invalid("password", "That is not your password. Nothing was changed.")
	}
	d.tries.succeeded(key)
	return p, nil
}

func slowDown(wait time.Duration) error {
	return &problem.Error{Type: "slow-down", Text: fmt.Sprintf("Too many tries. Wait %d seconds and try again.", int(wait.Seconds())+1)}
}

func (d *Directory) person(ctx context.Context, id int64) (p store.Person, err error) {
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		p, err = store.People(t).PersonByID(id)
		return err
	})
	return p, err
}

// The bounds of passwords: the most is what is looked at of one before it is hashed.
const (
	MinPassword = 10
	maxPassword = 1000
	weighed     = 64      // bytes of one that are held against what is common; more cannot be guessed at once
	tooFew      = 100_000 // guesses after which one made of common ones is found
)

// fit says what is wrong with a password: that it is short, or among those that are guessed
// first, be they common, near on the keyboard, or the person's own name.
func (d *Directory) fit(password, name, address string) error {
	switch {
	case d.demo:
		return nil
	case len(password) < MinPassword:
		return problem.Invalid("password", fmt.Sprintf("That password is too short: take at least %d characters.", MinPassword))
	case len(password) > maxPassword:
		return problem.Invalid("password", fmt.Sprintf("That password is too long: take at most %d characters.", maxPassword))
	}
	own := append(strings.FieldsFunc(name+" "+address, func(r rune) bool { return strings.ContainsRune(" @.-_", r) }), "ebbe")
	if zxcvbn.PasswordStrength(password[:min(len(password), weighed)], own).Guesses < tooFew {
		return problem.Invalid("password", "That password is among those that are guessed first. Take a longer one, or some words that do not belong together.")
	}
	return nil
}

// called names a browser by what it calls itself (User-Agent, RFC 9110, section 10.1.5).
func called(agent string) string {
	browser, system := "A browser", ""
	for _, b := range [][2]string{{"Edg/", "Edge"}, {"OPR/", "Opera"}, {"Firefox/", "Firefox"}, {"Chromium/", "Chromium"}, {"Chrome/", "Chrome"}, {"Safari/", "Safari"}} {
		if strings.Contains(agent, b[0]) {
			browser = b[1]
			break
		}
	}
	for _, s := range [][2]string{{"Android", "Android"}, {"iPhone", "iPhone"}, {"iPad", "iPad"}, {"Windows", "Windows"}, {"Mac OS", "a Mac"}, {"CrOS", "ChromeOS"}, {"Linux", "Linux"}} {
		if strings.Contains(agent, s[0]) {
			system = " on " + s[1]
			break
		}
	}
	return browser + system
}
