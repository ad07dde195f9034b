package identity

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// Session is a signed-in browser.
type Session struct {
	Token   string
	CSRF    string
	Expires time.Time // by the clock of the machine
	Known   string    // by which the browser is known when it signs in again; empty: as it was
	Tell    string    // what the person is told first; empty: nothing
}

// How long a session lasts, used or not.
const (
	sessionLength = 30 * 24 * time.Hour
	idleLength    = 10 * 24 * time.Hour
	seenEvery     = 5 * time.Minute // how exactly it is known when one was last used
)

// From is what is known of a browser.
type From struct {
	Address string // it comes from
	Browser string // it calls itself so (User-Agent); 300 bytes are kept
	Known   string // the token by which it is known from before; empty: none
	Site    Site   // at what address it asks
}

// Entry is what somebody shows to be let in.
type Entry struct {
	Address      string `json:"address"`
	Password     string `json:"password"`
	Code         string `json:"code"` // by the time, or a recovery code; where one is asked for
	PasskeyShown        // or a passkey in its place
}

var (
	errWrong = &problem.Error{Type: "wrong-password", Text: "Address and password do not belong together.", Field: "password"}
	errKey   = &problem.Error{Type: "code-or-passkey", Text: "Now your passkey, or one of your codes.", Field: "code"}
	errCode  = &problem.Error{Type: "code", Text: "Now the code that your app shows, or one of your recovery codes.", Field: "code"}
	// What was wrong with a code is not said, as a password was right.
	errNoCode = &problem.Error{Type: "code", Text: "That is no code of this minute, nor a recovery code that is left. Nothing was opened.", Field: "code"}
	errPaused = &problem.Error{Type: "paused", Text: "Your access is paused. Your mail is kept; whoever looks after this Ebbe can open it again."}
)

// SignIn begins a session for whoever knows the password of an address, and the code where
// one is asked for. Guesses are slowed down by address and by where they come from, and
// apart from that for a browser in which that person has signed in before.
func (d *Directory) SignIn(ctx context.Context, e Entry, from From) (Session, error) {
	p, settle, known, err := d.prove(ctx, e, from)
	if err != nil {
		return Session{}, err
	}
	if err := d.second(ctx, p, e, from.Site); err != nil {
		if errors.Is(err, errCode) || errors.Is(err, errKey) { // nothing was guessed yet
			settle(false)
		}
		return Session{}, err
	}
	settle(true)
	switch {
	case gone(p, time.Now()):
		return Session{}, errWrong
	case p.Paused:
		return Session{}, errPaused
	}
	return d.enter(ctx, p, from, known)
}

// prove checks a password. settle says whether the try counted as right, or was none; if it
// is never called it counts as wrong. known says that the browser was known.
func (d *Directory) prove(ctx context.Context, e Entry, from From) (p store.Person, settle func(right bool), known bool, err error) {
	address := strings.ToLower(strings.TrimSpace(e.Address))
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		if p, err = store.People(t).PersonByAddress(address); err != nil || from.Known == "" {
			return err
		}
		known, err = admission.Admission(t).KnowsBrowser(p.ID, tokenHash(from.Known))
		return err
	})
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return p, nil, false, err
	}
	key := "guess " + address + " " + from.Address
	if known {
		key = "known " + tokenHash(from.Known)
	}
	settle = func(right bool) {
		if right {
			d.tries.succeeded(key)
		} else {
			d.tries.undo(key)
		}
	}
	if wait := d.tries.begin(key, time.Now()); wait > 0 {
		return p, settle, known, &problem.Error{Type: "slow-down", Text: fmt.Sprintf("Too many wrong passwords. Wait %d seconds and try again.", int(wait.Seconds())+1)}
	}
	right, err := d.checks.check(ctx, p.Password, e.Password)
	if err != nil {
		settle(false)
		return p, settle, known, err
	}
	if !right {
		return p, settle, known, errWrong
	}
	return p, settle, known, nil
}

// enter begins a session for somebody who has proved who they are.
func (d *Directory) enter(ctx context.Context, p store.Person, from From, known bool) (Session, error) {
	out, err := d.begin(ctx, p.ID, from)
	if err != nil {
		return out, err
	}
	out.Tell = p.Tell
	if !known {
		out.Known = Secret()
	}
	return out, d.store.Write(ctx, func(t store.Tx) error {
		if p.Tell != "" {
			if err := store.People(t).ChangePerson(p.ID, map[string]any{"tell": ""}); err != nil {
				return err
			}
		}
		if known {
			return nil
		}
		return admission.Admission(t).KnowBrowser(p.ID, tokenHash(out.Known), when.Of(time.Now()))
	})
}

// OfDemo gives the names of the people one can be in the demo; elsewhere nobody's.
func OfDemo(ctx context.Context, d *Directory) ([]string, error) {
	names := []string{}
	if !d.demo {
		return names, nil
	}
	err := d.store.Read(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		for _, p := range people {
			names = append(names, p.Name)
		}
		return err
	})
	return names, err
}

// SignInDemo begins a session for one of the people of the demo, who have no passwords: for whoever
// is called so by their first name, in small letters, or else for the first of them.
func (d *Directory) SignInDemo(ctx context.Context, from From, name string) (Session, error) {
	if !d.demo {
		return Session{}, store.ErrNotFound
	}
	var people []store.Person
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		people, err = store.People(t).People()
		return err
	})
	if err != nil || len(people) == 0 {
		return Session{}, errors.Join(err, store.ErrNotFound)
	}
	who := people[0].ID
	for _, p := range people {
		if first, _, _ := strings.Cut(strings.ToLower(p.Name), " "); first == name {
			who = p.ID
		}
	}
	return d.begin(ctx, who, from)
}

func (d *Directory) begin(ctx context.Context, person int64, from From) (Session, error) {
	now := time.Now()
	s := Session{Token: Secret(), CSRF: Secret(), Expires: now.Add(sessionLength)}
	return s, d.store.Write(ctx, func(t store.Tx) error {
		return admission.Admission(t).PutSession(admission.Session{TokenHash: tokenHash(s.Token), PersonID: person, CSRF: s.CSRF, Expires: when.Of(s.Expires), Begun: when.Of(now), Seen: when.Of(now),
			Browser: from.Browser[:min(len(from.Browser), 300)], Origin: from.Address})
	})
}

// SignedIn says who a session token belongs to; ErrNotFound (store) if it has ended.
func (d *Directory) SignedIn(ctx context.Context, token string) (who Who, csrf string, err error) {
	s, err := d.signedIn(ctx, token)
	return Who{Person: s.PersonID, Box: s.BoxID, Week: s.Week, Admin: s.Admin}, s.CSRF, err
}

func (d *Directory) signedIn(ctx context.Context, token string) (s admission.SignedIn, err error) {
	now := time.Now()
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		s, err = admission.Admission(t).SignedIn(tokenHash(token), when.Of(now), when.Of(now.Add(-idleLength)))
		return err
	})
	if err == nil && now.Sub(s.Seen.Time()) > seenEvery {
		err = d.store.Write(ctx, func(t store.Tx) error { return admission.Admission(t).UseSession(tokenHash(token), when.Of(now)) })
	}
	return s, err
}

// Session gives whose session a token is, and with what token it changes anything.
func (d *Directory) Session(ctx context.Context, token string) (p store.Person, csrf string, err error) {
	s, err := d.signedIn(ctx, token)
	if err != nil {
		return p, "", err
	}
	err = d.store.Read(ctx, func(t store.Tx) (err error) {
		p, err = store.People(t).PersonByID(s.PersonID)
		return err
	})
	return p, s.CSRF, err
}

// SignOut ends a session, at once.
func (d *Directory) SignOut(ctx context.Context, token string) error {
	return d.end(ctx, tokenHash(token))
}

// end ends sessions by the hashes of their tokens, with what is open in them.
func (d *Directory) end(ctx context.Context, hashes ...string) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		for _, h := range hashes {
			if err := admission.Admission(t).DropSession(h); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil {
		d.open.end(hashes)
	}
	return err
}

// Until is closed when a session ends; left has to be called when nobody waits for it any
// more.
func (d *Directory) Until(token string) (ended <-chan struct{}, left func()) {
	return d.open.until(tokenHash(token))
}

// Secret is a new one, of 256 bits.
func Secret() string {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails (crypto/rand)
	return base64.RawURLEncoding.EncodeToString(b)
}

func tokenHash(token string) string { return store.HashOf(token) }
